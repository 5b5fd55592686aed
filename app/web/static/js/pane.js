// A pane: a device with the field of one run, and all that a plate shows of it.

import { Scene, THREE } from './scene.js';
import { Scale } from './scale.js';
import { Surface } from './surface.js';
import { Sections } from './sections.js';
import { Vectors } from './vectors.js';
import { Rest } from './rest.js';
import { ask } from './packed.js';
import { say } from './page.js';

export class Pane {
  /**
   * @param {object} config - of a plate and a run
   * @param {Element} holder - with a canvas and marks
   * @param {object} shared - extents of all runs that share the scale, how parts are drawn, and edit(values)
   */
  constructor(config, holder, shared) {
    Object.assign(this, { config, seen: shared.seen, edit: shared.edit, extremes: [], probes: [] });
    this.scale = new Scale(config, shared.extents);
    this.view = new Scene(config.scale, config.length, holder);
  }

  async load() {
    const { view, config } = this;
    this.surface = new Surface(view, config, this.scale, this.seen);
    await this.surface.load();
    await this.surface.prepareBending();
    this.sections = new Sections(this, () => {
      this.sight();
      this.vectors.show();
    });
    this.vectors = new Vectors(this);
    this.rest = new Rest(this);
    view.controls.addEventListener('end', () => this.sight());
    view.onLook = () => this.sight();
    if (config.swings || config.bendsToo) await this.surface.show(this.surface.first);
    this.fetched = this.surface.header.axis ? this.at(this.surface.first) : Promise.all([this.sections.fetchAll(), this.vectors.fetchAll(), this.probe()]);
    this.apply();
    this.sight();
  }

  /** Waits until all that was asked for is drawn. */
  settled() { return this.fetched; }

  /** Shows a moment; the end of a run in time is what the readings are of. */
  async at(moment) {
    const { header, first } = this.surface;
    await this.surface.show(moment);
    const when = moment === first && !header.axis ? null : moment;
    const inside = Promise.all([this.sections.at(when), this.vectors.at(when)]);
    this.when = when;
    this.view.marksOff = this.marksHidden || (moment !== first);
    await Promise.all([inside, this.probe()]);
    this.view.draw();
  }

  /** Bends the drawing by a part of the factor of the plate. */
  bend(part) {
    this.surface.bend(part * (this.surface.factor ?? 0));
    this.sections.bend(this.surface.bending);
    this.vectors.bend();
    this.marked();
    this.view.draw();
  }

  /** Shows what swings at an angle: a mode is bent by the cosine, a response by both of its parts. */
  turn(angle) {
    if (!this.surface.swings) return this.bend(Math.cos(angle));
    this.surface.turn(angle);
    this.sections.turn(angle);
    this.view.marksOff = this.marksHidden || Math.sin(angle / 2) ** 2 > 1e-6; // the marks are those of the real part
    this.view.draw();
  }

  /** Takes the values at the probes, and by how much they and the extremes are moved if the drawing is bent. */
  async probe() {
    const { config } = this, numbers = Object.keys(config.probes ?? {});
    const marks = numbers.map((n) => ({ number: n, at: config.probes[n] }));
    if (config.greatest) marks.push({ id: 'max', at: config.greatest }, { id: 'min', at: config.least });
    if (!marks.length) return;
    const query = { field: config.field, places: marks.flatMap((m) => m.at).join() };
    if (this.when !== null && this.when !== undefined) query.moment = this.when;
    if (this.surface.factor) query.bent = config.bends;
    try {
      const { values, bent = [] } = await (await ask(`/runs/${config.run}/at`, query)).json();
      this.probed = marks.map((m, i) => ({ ...m, value: values[i], moved: bent.map((list) => list[i] ?? 0) }));
      this.probes = this.probed.filter((m) => m.number);
      this.onProbes?.(this.probes);
    } catch (fault) {
      if (!(fault instanceof TypeError)) say(fault.message);
    }
    this.marked();
  }

  /** A place of the device, m, that is moved by some metres, where it is on the drawing. */
  place(at, moved) {
    const { config, surface } = this, p = new THREE.Vector3(...at);
    moved.forEach((x, d) => p.setComponent(d, p.getComponent(d) + surface.bending * x));
    return p.multiplyScalar(config.scale);
  }

  /** Puts the marks of extremes and probes where they are on the drawing. */
  marked() {
    const flags = (this.probed ?? []).map((m) => ({ kind: 'flag', anchor: this.place(m.at, m.moved), ...m.number
      ? { id: `probe-${m.number}`, text: m.value === null ? '–' : this.scale.words(m.value) }
      : { id: m.id, text: m.id } }));
    this.extremes = flags;
    this.sight();
  }

  /** Draws what is seen after parts were hidden or shown. */
  apply() {
    this.surface.apply();
    this.sections.show();
    this.vectors.show();
    this.sight();
  }

  /** Marks of extremes and probes that are hidden by the device get a hollow dot; what is cut away has none. */
  sight() {
    const { view, surface } = this;
    const stays = (l) => !this.sections || this.sections.stays(l.anchor);
    view.labels = [...this.extremes.filter(stays), ...view.labels.filter((l) => l.way || l.written)];
    const back = view.camera.getWorldDirection(new THREE.Vector3()).negate();
    const far = 3 * view.box.getSize(new THREE.Vector3()).length(), ray = new THREE.Raycaster();
    surface.aim();
    const meshes = surface.meshes();
    for (const l of view.labels) {
      ray.set(l.anchor.clone().addScaledVector(back, far), back.clone().negate());
      const hit = ray.intersectObjects(meshes, false).find((h) => this.sections.stays(h.point));
      l.behind = Boolean(hit && hit.distance < far * (1 - 2e-3));
    }
    view.draw();
  }

  /** What is under the pointer: its place, value and part; null if there is nothing. */
  pick(e) {
    const r = this.view.canvas.getBoundingClientRect(), ray = new THREE.Raycaster();
    ray.setFromCamera(new THREE.Vector2((e.clientX - r.left) / r.width * 2 - 1, 1 - (e.clientY - r.top) / r.height * 2), this.view.camera);
    this.surface.aim();
    const cut = this.sections.meshes.filter((m) => m?.isMesh); // a level in a section is lines
    const seen = this.surface.material.transparent && cut.length ? cut : [...this.surface.meshes(), ...cut];
    const hit = ray.intersectObjects(seen, false).find((h) => this.sections.stays(h.point, h.object));
    if (!hit) return null;
    const { a, b, c } = hit.face, { position, value } = hit.object.geometry.attributes;
    const corner = (i) => new THREE.Vector3().fromBufferAttribute(position, i);
    const w = THREE.Triangle.getBarycoord(hit.point, corner(a), corner(b), corner(c), new THREE.Vector3());
    return { place: hit.point, value: w.x * value.array[a] + w.y * value.array[b] + w.z * value.array[c], part: hit.object.userData.part ?? hit.object.userData.seen[hit.faceIndex] };
  }
}
