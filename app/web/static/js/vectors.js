// Arrows and streams of a plate: vectors where they stand, ways that follow them, and particles that
// run along these.

import { THREE } from './scene.js';
import { NOWHERE, fieldMaterial } from './scale.js';
import { ask, filled, unpack } from './packed.js';
import { say } from './page.js';

const SIDES = 6; // of the tubes of streams
const COPPER = 0xb0562a, BRINE = 0x1f6b68, INK = 0x23292d; // what pulls, what pushes, what has no colour of its own

/** A material of one colour, above what it lies on. */
const plain = (color) => new THREE.MeshBasicMaterial({ color, polygonOffset: true, polygonOffsetFactor: -8, polygonOffsetUnits: -200 });

/** An arrow of length 1 along x, with its foot in the middle of nothing; heads says at which ends and how they point. */
function arrow(heads) {
  const pieces = [];
  const shaft = new THREE.CylinderGeometry(0.045, 0.045, heads === 'one' ? 0.66 : 0.8, 6, 1);
  shaft.rotateZ(-Math.PI / 2);
  shaft.translate(heads === 'one' ? 0.33 : 0, 0, 0);
  pieces.push(shaft);
  const head = (at, way) => {
    const cone = new THREE.ConeGeometry(0.14, 0.34, 8);
    cone.rotateZ(way > 0 ? -Math.PI / 2 : Math.PI / 2);
    cone.translate(at, 0, 0);
    pieces.push(cone);
  };
  if (heads === 'one') head(0.83, 1);
  if (heads === 'out') [-1, 1].forEach((s) => head(0.4 * s, s));
  if (heads === 'in') [-1, 1].forEach((s) => head(0.4 * s, -s));
  const position = [];
  for (const p of pieces) position.push(...p.toNonIndexed().attributes.position.array);
  const g = new THREE.BufferGeometry();
  g.setAttribute('position', new THREE.Float32BufferAttribute(position, 3));
  return g;
}

export class Vectors {
  constructor(pane) {
    Object.assign(this, { pane, arrows: [], streams: [], moment: null, running: false });
    this.material = fieldMaterial(pane.scale, pane.surface.planes);
  }

  /** Fetches all, one after another; what cannot be had is said. */
  async fetchAll() {
    const { config } = this.pane, ticket = this.ticket = {};
    const arrows = [], streams = [], bent = this.pane.surface.factor ? { bent: config.bends } : {};
    try {
      for (const a of config.arrows) {
        const query = { field: config.field, vector: a.vector, count: a.count, on: a.on, ...this.when(), ...bent };
        if (a.on !== 'slices') arrows.push({ ...a, ...await this.fetchArrows(query) });
        else for (const c of this.pane.sections.cuts) arrows.push({ ...a, ...await this.fetchArrows({ ...query, normal: c.normal.toArray().join(), at: c.at }) });
      }
      for (const s of config.streams) {
        const query = { field: config.field, vector: s.vector, count: s.count, ...this.when(), ...bent };
        if (s.ways) query.way = s.ways.map((w) => JSON.stringify(w));
        else if (s.near) query.near = s.near.join();
        else if (s.side) query.side = s.side;
        else if (s.part >= 0) query.part = s.part;
        streams.push(await this.fetchStreams(query));
      }
    } catch (fault) {
      if (ticket === this.ticket && !(fault instanceof TypeError)) say(fault.message);
    }
    if (ticket !== this.ticket) return;
    for (const mesh of [...this.arrows.flatMap((a) => a.meshes), ...this.streams.map((s) => s.mesh)]) {
      this.pane.view.scene.remove(mesh);
      mesh.geometry.dispose();
    }
    this.arrows = arrows;
    this.streams = streams;
    for (const s of streams) this.drawStreams(s);
    if (streams.some((s) => s.counts.length)) this.pane.surface.pale();
    for (const a of arrows) a.meshes = [];
    this.show();
    for (const [list, what] of [[config.arrows.length && !arrows.some((a) => a.count), 'arrow'], [config.streams.length && !streams.some((s) => s.counts.length), 'stream']]) {
      if (list) say(`There is no ${what}: the vector vanishes, or is nowhere where they begin.`);
    }
  }

  when() { return this.moment === null ? {} : { moment: this.moment }; }

  /** Shows another moment, by its place in the list. */
  at(moment) {
    if (this.moment === moment) return;
    this.moment = moment;
    if (this.pane.config.arrows.length || this.pane.config.streams.length) return this.fetchAll();
  }

  async fetchArrows(query) {
    const { header: { count, bent }, take } = unpack(await (await ask(`/runs/${this.pane.config.run}/arrows`, query)).arrayBuffer());
    return { count, base: take(Float32Array, 3 * count), vectors: take(Float32Array, 3 * count), values: filled(take(Float32Array, count), NOWHERE), parts: take(Int32Array, count), kinds: take(Int32Array, count), bent: Array.from({ length: bent }, () => take(Float32Array, count)) };
  }

  async fetchStreams(query) {
    const { header: { counts, bent }, take } = unpack(await (await ask(`/runs/${this.pane.config.run}/streams`, query)).arrayBuffer());
    const n = counts.reduce((a, b) => a + b, 0);
    return { counts, base: take(Float32Array, 3 * n), values: filled(take(Float32Array, n), NOWHERE), times: take(Float32Array, n), bent: Array.from({ length: bent }, () => take(Float32Array, n)) };
  }

  /** Puts arrows and streams where they are on a drawing that is bent. */
  bend() {
    for (const s of this.streams) {
      if (!s.bent.length) continue;
      this.drawStreams(s);
    }
    if (this.arrows.some((a) => a.bent.length)) this.show();
  }

  /** The places of arrows or streams on the drawing. */
  places({ base, bent }) {
    const { config, surface } = this.pane, at = base.map((x) => x * config.scale), by = surface.bending * config.scale;
    bent.forEach((list, d) => list.forEach((x, i) => { at[3 * i + d] += by * x; }));
    return at;
  }

  /** Draws what of the arrows is not cut away or of parts that are hidden. */
  show() {
    for (const a of this.arrows) this.drawArrows(a);
    this.pane.view.draw();
  }

  drawArrows(a) {
    const { view, seen, surface, sections } = this.pane;
    for (const mesh of a.meshes) {
      view.scene.remove(mesh);
      mesh.geometry.dispose();
    }
    a.meshes = [];
    const places = this.places(a);
    let most = 0;
    const v = new THREE.Vector3(), at = new THREE.Vector3(), x = new THREE.Vector3(1, 0, 0), turn = new THREE.Quaternion(), one = new THREE.Matrix4(), size = new THREE.Vector3();
    for (let i = 0; i < a.count; i++) most = Math.max(most, v.fromArray(a.vectors, 3 * i).length());
    const box = surface.box.getSize(size), flat = box.z === 0;
    const sides = [box.x, box.y, box.z].sort((p, q) => q - p), planar = flat || a.on !== 'inside';
    const room = planar ? Math.sqrt(sides[0] * sides[1] / a.count) : Math.cbrt(box.x * box.y * box.z / a.count);
    const longest = Math.min(1.3 * room, 0.14 * box.length()) || 0.05 * box.length();
    for (const kind of [0, 1, 2]) {
      const stand = [], values = [];
      for (let i = 0; i < a.count; i++) {
        if (a.kinds[i] !== kind || seen.get(a.parts[i]) === 'hidden') continue;
        at.fromArray(places, 3 * i);
        if (!sections.stays(at)) continue;
        v.fromArray(a.vectors, 3 * i);
        const length = longest * (a.equal ? 0.8 : Math.max(v.length() / most, 0.04));
        turn.setFromUnitVectors(x, v.normalize());
        const wide = Math.max(length, 0.3 * longest * (a.equal ? 1 : length / longest + 0.2));
        stand.push(one.compose(at, turn, new THREE.Vector3(length, wide, wide)).clone());
        values.push(a.values[i]);
      }
      if (!stand.length) continue;
      const g = arrow(['one', 'out', 'in'][kind]);
      g.setAttribute('value', new THREE.InstancedBufferAttribute(new Float32Array(values), 1));
      // On what has the colours of the field, arrows with these would not be seen.
      const material = kind ? plain(kind === 1 ? COPPER : BRINE) : planar ? plain(INK) : this.material;
      const mesh = new THREE.InstancedMesh(g, material, stand.length);
      stand.forEach((m, i) => mesh.setMatrixAt(i, m));
      mesh.frustumCulled = false;
      view.scene.add(mesh);
      a.meshes.push(mesh);
    }
    if (a.on === 'inside' && a.count) surface.pale();
  }

  /** Tubes along the ways of streams. */
  drawStreams(s) {
    const { view, surface } = this.pane, radius = 0.0022 * surface.box.getSize(new THREE.Vector3()).length();
    const position = [], values = [], index = [];
    const a = new THREE.Vector3(), b = new THREE.Vector3(), along = new THREE.Vector3(), u = new THREE.Vector3(), w = new THREE.Vector3(), q = new THREE.Vector3();
    s.ways = [];
    if (s.mesh) {
      view.scene.remove(s.mesh);
      s.mesh.geometry.dispose();
    }
    const places = this.places(s);
    let from = 0;
    for (const count of s.counts) {
      const points = [], times = [];
      let before = -1;
      for (let k = 0; k < count; k++) { // points that are closer to each other than the tube is thick are left out
        a.fromArray(places, 3 * (from + k));
        if (before < 0 || k === count - 1 || a.distanceTo(points[points.length - 1]) > 1.5 * radius) {
          points.push(a.clone());
          times.push(s.times[from + k]);
          values.push(...Array(SIDES).fill(s.values[from + k]));
          before = k;
        }
      }
      const first = position.length / 3;
      u.set(0, 0, 0);
      points.forEach((p, k) => {
        along.subVectors(points[Math.min(k + 1, points.length - 1)], points[Math.max(k - 1, 0)]).normalize();
        if (u.lengthSq() < 0.5) u.set(Math.abs(along.z) < 0.9 ? 0 : 1, 0, Math.abs(along.z) < 0.9 ? 1 : 0);
        u.addScaledVector(along, -u.dot(along)).normalize();
        w.crossVectors(along, u);
        for (let i = 0; i < SIDES; i++) {
          const angle = 2 * Math.PI * i / SIDES;
          q.copy(p).addScaledVector(u, radius * Math.cos(angle)).addScaledVector(w, radius * Math.sin(angle));
          position.push(q.x, q.y, q.z);
        }
        if (k === 0) return;
        for (let i = 0; i < SIDES; i++) {
          const [p0, p1] = [first + (k - 1) * SIDES + i, first + (k - 1) * SIDES + (i + 1) % SIDES];
          index.push(p0, p1, p0 + SIDES, p1, p1 + SIDES, p0 + SIDES);
        }
      });
      s.ways.push({ points, times });
      from += count;
    }
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.Float32BufferAttribute(position, 3));
    g.setAttribute('value', new THREE.Float32BufferAttribute(values, 1));
    g.setIndex(index);
    s.mesh = new THREE.Mesh(g, this.material);
    s.mesh.frustumCulled = false;
    s.mesh.userData = { values };
    view.scene.add(s.mesh);
  }

  /** Lets particles run along the streams, or stops them. */
  run(on) {
    const { view, surface } = this.pane;
    this.running = on;
    if (this.particles) view.scene.remove(this.particles);
    this.particles = null;
    const ways = this.streams.flatMap((s) => s.ways);
    if (!on || !ways.length) return view.draw();
    const radius = 0.006 * surface.box.getSize(new THREE.Vector3()).length();
    this.particles = new THREE.InstancedMesh(new THREE.SphereGeometry(radius, 8, 6), new THREE.MeshBasicMaterial({ color: 0x23292d }), ways.length);
    this.particles.frustumCulled = false;
    view.scene.add(this.particles);
    const spans = ways.map((w) => w.times[w.times.length - 1] - w.times[0]).sort((x, y) => x - y);
    const usual = spans[Math.floor(spans.length / 2)] / 4 || 1; // the middle one takes four seconds
    const place = new THREE.Vector3(), one = new THREE.Matrix4();
    const step = (now) => {
      if (!this.running || !this.particles) return;
      ways.forEach(({ points, times }, i) => {
        const span = times[times.length - 1] - times[0], t = times[0] + (now / 1000 * usual + i * 0.37 * span) % span;
        let k = 1;
        while (k < times.length - 1 && times[k] < t) k++;
        place.lerpVectors(points[k - 1], points[k], Math.min(1, (t - times[k - 1]) / (times[k] - times[k - 1] || 1)));
        this.particles.setMatrixAt(i, one.makeTranslation(place.x, place.y, place.z));
      });
      this.particles.instanceMatrix.needsUpdate = true;
      view.draw();
      requestAnimationFrame(step);
    };
    requestAnimationFrame(step);
  }
}
