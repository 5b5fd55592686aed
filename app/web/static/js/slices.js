// Slices of a plate: where planes cut the device open, with the field on them. The planes are dragged
// by their sliders; what lies beyond them is not drawn.

import { THREE } from './scene.js';
import { say } from './page.js';

const MOST = 6; // planes that the drawing is cut by, as many as a plate can have slices

export class Slices {
  /**
   * @param {object} host - view, material and groups of the surfaces, config, hidden parts, nowhere (in place of no value),
   *   redraw() after a slice has come, cut() after planes have moved,
   *   middle() of the range in words, and edit(values) to change the model
   */
  constructor(host) {
    Object.assign(this, { host, meshes: [], moment: null, tickets: new Map() });
    this.cuts = host.config.slices.map((s) => ({ ...s }));
    this.levels = host.config.levels ?? []; // they come behind the slices
    const u = host.material.uniforms, none = () => Array.from({ length: MOST }, () => new THREE.Vector4(0, 0, 0, 1));
    u.planes.value = none();
    // What the other slices cut away is not seen of a slice either.
    this.materials = [...this.cuts, ...this.levels].map(() => {
      const material = host.material.clone();
      material.uniforms = { ...u, planes: { value: none() }, opacity: { value: 1 } };
      return material;
    });
    this.set();
    this.fetchAll();
  }

  fetchAll() {
    this.materials.forEach((_, i) => this.fetch(i));
  }

  /** Tells the drawing what is cut away: a place x stays if normal · x ≤ constant. */
  set() {
    const { config, material, groups } = this.host;
    const planes = [];
    this.cuts.slice(0, MOST).forEach((c, i) => {
      const v = material.uniforms.planes.value[i].set(0, 0, 0, 1);
      if (!c.keep) return;
      v.setComponent(c.axis, -c.keep);
      v.w = -c.keep * c.at * config.scale;
      planes.push(new THREE.Plane(new THREE.Vector3(-v.x, -v.y, -v.z), v.w));
    });
    this.materials.forEach((m, own) => m.uniforms.planes.value.forEach((v, i) => {
      if (i !== own) v.copy(material.uniforms.planes.value[i]);
    }));
    for (const g of groups) for (const lines of [g.outlines, g.edges]) lines.material.clippingPlanes = planes;
  }

  /** Whether a place of the drawing, or of a slice, is not cut away. */
  stays(point, mesh) {
    const material = this.meshes.includes(mesh) && mesh.material.uniforms ? mesh.material : this.host.material;
    return material.uniforms.planes.value.every((v) => v.x * point.x + v.y * point.y + v.z * point.z <= v.w + 1e-6 * Math.abs(v.w));
  }

  /** Fetches a slice; of what comes too late nothing is drawn. */
  async fetch(i) {
    const { config } = this.host, c = this.cuts[i], what = c ? 'slice' : 'level';
    this.tickets.get(i)?.abort();
    const ticket = new AbortController();
    this.tickets.set(i, ticket);
    const where = new URLSearchParams({ ...(c ? { axis: c.axis, at: c.at } : { at: this.levels[i - this.cuts.length] }), field: config.field });
    if (this.moment !== null) where.set('moment', this.moment);
    let answer;
    try {
      answer = await fetch(`/runs/${config.run}/${what}?${where}`, { headers: { 'HX-Request': 'true' }, signal: ticket.signal });
      if (!answer.ok) {
        this.put(i, null);
        return say(await answer.text());
      }
      this.put(i, await answer.arrayBuffer());
    } catch (fault) {
      if (!ticket.signal.aborted) say(fault.message);
    }
  }

  /** Draws a slice in place of what it was before. */
  put(i, buffer) {
    const { view, config, nowhere, redraw, material } = this.host, before = this.meshes[i];
    if (before) {
      view.scene.remove(before);
      before.geometry.dispose();
    }
    this.meshes[i] = null;
    if (buffer) {
      const length = new DataView(buffer).getUint32(0, true);
      const { corners, count } = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
      if (count) {
        const positions = new Float32Array(buffer, 4 + length, 3 * corners * count), values = new Float32Array(buffer, 4 + length + 12 * corners * count, corners * count);
        for (let k = 0; k < positions.length; k++) positions[k] *= config.scale;
        for (let k = 0; k < values.length; k++) if (Number.isNaN(values[k])) values[k] = nowhere;
        const g = new THREE.BufferGeometry();
        g.setAttribute('position', new THREE.BufferAttribute(positions, 3));
        g.setAttribute('value', new THREE.BufferAttribute(values, 1));
        // In a section a level is a line, above what it lies in.
        const mesh = corners === 3 ? new THREE.Mesh(g, this.materials[i]) : new THREE.LineSegments(g, new THREE.LineBasicMaterial({ color: 0x23292d, depthTest: false }));
        mesh.userData = { corners, parts: new Int32Array(buffer, 4 + length + 16 * corners * count, count) };
        mesh.frustumCulled = false;
        this.meshes[i] = mesh;
        if (i >= this.cuts.length && corners === 3) { // a level in space is seen through the surfaces
          material.uniforms.opacity.value = 0.22;
          material.transparent = true;
          material.depthWrite = false;
        }
        this.show();
        view.scene.add(mesh);
      }
    }
    redraw();
  }

  /** Leaves out the triangles of parts that are hidden. */
  show() {
    for (const mesh of this.meshes.filter(Boolean)) {
      const { parts, corners } = mesh.userData, faces = [], kept = [];
      for (let k = 0; k < parts.length; k++) {
        if (this.host.hidden.has(parts[k])) continue;
        for (let i = 0; i < corners; i++) faces.push(corners * k + i);
        kept.push(parts[k]);
      }
      mesh.geometry.setIndex(faces);
      mesh.userData.seen = kept;
    }
  }

  /** Shows another moment, by its place in the list. */
  at(moment) {
    if (this.moment === moment) return;
    this.moment = moment;
    this.fetchAll();
  }

  /** Makes the sliders beside the sentences move the planes. */
  watch(brief) {
    const { view, config, edit, cut } = this.host;
    cut();
    brief.querySelectorAll('[data-slice]').forEach((p) => {
      const c = this.cuts.find((x) => p.dataset.slice.endsWith(`/${x.id}`)), slider = p.querySelector('[type=range]');
      if (!c) return void (slider.hidden = true);
      const lo = view.box.min.getComponent(c.axis) / config.scale, hi = view.box.max.getComponent(c.axis) / config.scale;
      slider.value = 1000 * (c.at - lo) / (hi - lo);
      const words = () => `${Number((c.at * config.scale).toPrecision(4))} ${config.length}`;
      slider.addEventListener('input', () => {
        c.at = lo + (hi - lo) * slider.value / 1000;
        p.querySelector('[data-place$="/at"]').value = words();
        this.set();
        cut();
        this.fetch(this.cuts.indexOf(c));
      });
      slider.addEventListener('change', () => edit({ op: 'set', place: `${p.dataset.slice}/at`, value: words() }));
    });
    brief.querySelector('#add-level')?.addEventListener('click', () => edit({ op: 'add-level', id: config.plate, at: this.host.middle() }));
    brief.querySelectorAll('[data-add-slice]').forEach((b) => b.addEventListener('click', () => {
      const middle = view.box.getCenter(new THREE.Vector3())[b.dataset.addSlice];
      edit({ op: 'add-slice', id: config.plate, across: b.dataset.addSlice, at: `${Number(middle.toPrecision(3))} ${config.length}` });
    }));
  }
}
