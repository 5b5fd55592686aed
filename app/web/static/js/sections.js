// Slices and levels of a plate: where planes cut the device open, and where the field has a value. What
// lies beyond a slice is not drawn. Planes are moved by their sliders, or by handles on the drawing.

import { THREE } from './scene.js';
import { MOST_PLANES, NOWHERE, nowhere, fieldMaterial, noPlanes } from './scale.js';
import { Refusal, ask, filled, unpack } from './packed.js';
import { figures, typed } from './figures.js';
import { say } from './page.js';

export class Sections {
  /** @param {object} pane - its view, config, scale and surface  @param {function} moved - is told that planes have moved */
  constructor(pane, moved) {
    Object.assign(this, { pane, moved, meshes: [], moment: null, tickets: new Map() });
    this.cuts = pane.config.slices.map((s) => ({ ...s, normal: new THREE.Vector3(...s.normal) }));
    this.levels = pane.config.levels ?? []; // they come behind the slices
    // What the other slices cut away is not seen of a slice either.
    this.materials = [...this.cuts, ...this.levels].map(() => fieldMaterial(pane.scale, { value: noPlanes() }));
    this.set();
  }

  fetchAll() {
    return Promise.all(this.materials.map((_, i) => this.fetch(i)));
  }

  /** Tells the drawing what is cut away: a place x stays if normal · x ≤ constant. */
  set() {
    const { config, surface } = this.pane, planes = [];
    this.cuts.slice(0, MOST_PLANES).forEach((c, i) => {
      const v = surface.planes.value[i].set(0, 0, 0, 1);
      if (!c.keep) return;
      v.set(-c.keep * c.normal.x, -c.keep * c.normal.y, -c.keep * c.normal.z, -c.keep * c.at * config.scale);
      planes.push(new THREE.Plane(new THREE.Vector3(-v.x, -v.y, -v.z), v.w));
    });
    this.clipping = planes;
    this.materials.forEach((m, own) => m.uniforms.planes.value.forEach((v, i) => {
      if (i !== own) v.copy(surface.planes.value[i]);
    }));
    for (const g of surface.groups) for (const lines of [g.outlines, g.edges, g.before]) lines.material.clippingPlanes = planes;
  }

  /** Whether a place of the drawing, or of a slice, is not cut away. */
  stays(point, mesh) {
    const planes = mesh && this.meshes.includes(mesh) && mesh.material.uniforms ? mesh.material.uniforms.planes : this.pane.surface.planes;
    return planes.value.every((v) => v.x * point.x + v.y * point.y + v.z * point.z <= v.w + 1e-6 * Math.abs(v.w));
  }

  /** Fetches a slice or a level; of what comes too late nothing is drawn. */
  async fetch(i) {
    const { config } = this.pane, c = this.cuts[i], what = c ? 'slice' : 'level';
    this.tickets.get(i)?.abort();
    const ticket = new AbortController();
    this.tickets.set(i, ticket);
    const query = { ...(c ? { normal: c.normal.toArray().join(), at: c.at } : { at: this.levels[i - this.cuts.length] }), field: config.field };
    if (this.moment !== null) query.moment = this.moment;
    if (this.pane.surface.factor) query.bent = config.bends;
    try {
      const { swings, bendsToo } = config, cut = Boolean(c), parts = [ask(`/runs/${config.run}/${what}`, query, ticket.signal)];
      // A slice of what swings has an imaginary part at the same corners.
      if (cut && (swings || (bendsToo && query.bent))) parts.push(ask(`/runs/${config.run}/${what}`, { ...query, ...swings && { field: swings }, ...query.bent && { bent: bendsToo } }, ticket.signal));
      this.put(i, ...await Promise.all((await Promise.all(parts)).map((answer) => answer.arrayBuffer())));
    } catch (fault) {
      if (ticket.signal.aborted) return;
      this.put(i, null);
      if (fault instanceof Refusal || !(fault instanceof TypeError)) say(fault.message);
    }
  }

  /** Draws a slice in place of what it was before. */
  put(i, buffer, imaginary) {
    const { view, config, surface } = this.pane, before = this.meshes[i];
    if (before) {
      view.scene.remove(before);
      before.geometry.dispose();
    }
    this.meshes[i] = null;
    if (buffer) {
      const { header: { corners, count, fields }, take } = unpack(buffer);
      if (count) {
        const base = take(Float32Array, 3 * corners * count).map((x) => x * config.scale);
        const values = filled(take(Float32Array, corners * count), NOWHERE);
        const bent = Array.from({ length: fields - 1 }, () => filled(take(Float32Array, corners * count), 0));
        const g = new THREE.BufferGeometry();
        g.setAttribute('position', new THREE.BufferAttribute(base.slice(), 3));
        g.setAttribute('value', new THREE.BufferAttribute(values, 1));
        // In a section a level is a line, above what it lies in.
        const mesh = corners === 3 ? new THREE.Mesh(g, this.materials[i]) : new THREE.LineSegments(g, new THREE.LineBasicMaterial({ color: 0x23292d, depthTest: false }));
        mesh.userData = { corners, base, bent, parts: take(Int32Array, count), real: { values: values.slice(), bent } };
        if (imaginary) {
          const other = unpack(imaginary);
          other.take(Float32Array, 3 * corners * count);
          mesh.userData.imaginary = { values: filled(other.take(Float32Array, corners * count), NOWHERE), bent: bent.map(() => filled(other.take(Float32Array, corners * count), 0)) };
        }
        mesh.frustumCulled = false;
        this.meshes[i] = mesh;
        if (i >= this.cuts.length && corners === 3) surface.pale(); // a level in space is seen through the surfaces
        if (corners === 2) this.written(i, mesh);
        this.bendOne(mesh, surface.bending);
        this.show();
        view.scene.add(mesh);
      }
    }
    view.draw();
  }

  /** Shows slices of what swings at an angle. */
  turn(angle) {
    const cos = Math.cos(angle), sin = Math.sin(angle);
    for (const mesh of this.meshes.filter((m) => m?.userData.imaginary)) {
      const { real, imaginary } = mesh.userData, value = mesh.geometry.attributes.value;
      if (this.pane.config.swings) {
        real.values.forEach((v, k) => { value.array[k] = nowhere(v) ? NOWHERE : cos * v - sin * imaginary.values[k]; });
        value.needsUpdate = true;
      }
      mesh.userData.bent = real.bent.map((list, d) => list.map((v, k) => cos * v - sin * imaginary.bent[d][k]));
      this.bendOne(mesh, this.pane.surface.bending);
    }
  }

  /** Writes the value of a level of a section on each of its lines, where it is longest between two turns. */
  written(i, mesh) {
    const { view, scale } = this.pane, { base } = mesh.userData, ends = new Map(), count = base.length / 6;
    const span = this.pane.surface.box.getSize(new THREE.Vector3()).length();
    const key = (k) => `${Math.round(base[3 * k] / span * 1e5)} ${Math.round(base[3 * k + 1] / span * 1e5)}`;
    for (let k = 0; k < 2 * count; k++) ends.set(key(k), [...ends.get(key(k)) ?? [], k]);
    const done = new Uint8Array(count), labels = [];
    for (let first = 0; first < count; first++) {
      if (done[first]) continue;
      const line = [], todo = [first]; // the pieces that hang together
      done[first] = 1;
      while (todo.length) {
        const piece = todo.pop();
        line.push(piece);
        for (const end of [2 * piece, 2 * piece + 1]) for (const next of ends.get(key(end))) {
          const other = next >> 1;
          if (!done[other]) {
            done[other] = 1;
            todo.push(other);
          }
        }
      }
      const length = line.reduce((sum, k) => sum + Math.hypot(base[6 * k] - base[6 * k + 3], base[6 * k + 1] - base[6 * k + 4]), 0);
      if (length < 0.08 * span) continue; // there is no room
      const k = line[Math.floor(line.length / 2)];
      labels.push({ id: `level-${i}-${labels.length}`, written: true, level: i, text: figures(scale.shown(this.levels[i - this.cuts.length])), anchor: new THREE.Vector3(base[6 * k], base[6 * k + 1], base[6 * k + 2]) });
    }
    view.labels = [...view.labels.filter((l) => l.level !== i), ...labels];
  }

  /** Bends what is drawn by some times the displacement. */
  bend(times) {
    for (const mesh of this.meshes.filter(Boolean)) this.bendOne(mesh, times);
  }

  bendOne(mesh, times) {
    const { base, bent } = mesh.userData, position = mesh.geometry.attributes.position;
    if (!bent.length) return;
    position.array.set(base);
    bent.forEach((list, d) => list.forEach((x, k) => { position.array[3 * k + d] += times * this.pane.config.scale * x; }));
    position.needsUpdate = true;
  }

  /** Leaves out the triangles of parts that are hidden. */
  show() {
    for (const mesh of this.meshes.filter(Boolean)) {
      const { parts, corners } = mesh.userData, faces = [], kept = [];
      for (let k = 0; k < parts.length; k++) {
        if (this.pane.seen.get(parts[k]) === 'hidden') continue;
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
    return this.fetchAll();
  }

  /** How far along its normal a slice can lie, m. */
  reach(c) {
    const { box } = this.pane.surface, { scale } = this.pane.config, corner = new THREE.Vector3();
    let lo = Infinity, hi = -Infinity;
    for (let i = 0; i < 8; i++) {
      corner.set(i & 1 ? box.max.x : box.min.x, i & 2 ? box.max.y : box.min.y, i & 4 ? box.max.z : box.min.z);
      const x = corner.dot(c.normal) / scale;
      lo = Math.min(lo, x);
      hi = Math.max(hi, x);
    }
    return [lo, hi];
  }

  /** Moves a slice, m; settled says that it stays there. */
  move(c, at, settled) {
    const [lo, hi] = this.reach(c);
    c.at = Math.min(Math.max(at, lo), hi);
    if (c.field) {
      c.field.value = this.words(c);
      c.slider.value = 1000 * (c.at - lo) / (hi - lo);
    }
    this.set();
    this.moved();
    this.fetch(this.cuts.indexOf(c));
    if (settled) this.pane.edit({ op: 'set', place: c.place, value: this.words(c) });
  }

  words(c) { return `${typed(c.at * this.pane.config.scale)} ${this.pane.config.length}`; }

  /** Makes the sliders beside the sentences, and handles on the drawing, move the planes. */
  watch(brief) {
    brief.querySelectorAll('[data-slice]').forEach((p) => {
      const c = this.cuts.find((x) => p.dataset.slice.endsWith(`/${x.id}`)), slider = p.querySelector('[type=range]');
      if (!c) return void (slider.hidden = true);
      Object.assign(c, { slider, place: `${p.dataset.slice}/at`, field: p.querySelector('[data-place$="/at"]') });
      const [lo, hi] = this.reach(c);
      slider.value = 1000 * (c.at - lo) / (hi - lo);
      slider.addEventListener('input', () => this.move(c, lo + (hi - lo) * slider.value / 1000));
      slider.addEventListener('change', () => this.move(c, lo + (hi - lo) * slider.value / 1000, true));
    });
    this.handles();
  }

  /** Turns a slice as long as the pointer drags: its normal follows it about the handle, as one sees it. */
  turnPlane(c, e, svg, pivot) {
    e.preventDefault();
    svg.setPointerCapture(e.pointerId);
    const { view, config } = this.pane, centre = view.project(pivot), before = c.normal.clone();
    const angle = (m) => {
      const frame = view.canvas.getBoundingClientRect();
      return Math.atan2(centre.y - (m.clientY - frame.top), m.clientX - frame.left - centre.x);
    };
    const from = angle(e), sight = view.camera.getWorldDirection(new THREE.Vector3()).negate();
    const through = view.box.getCenter(new THREE.Vector3()); // the middle of the device in the plane stays in it
    through.addScaledVector(c.normal, c.at * config.scale - through.dot(c.normal));
    const to = (m) => {
      c.normal.copy(before).applyAxisAngle(sight, angle(m) - from);
      for (const d of ['x', 'y', 'z']) if (Math.abs(Math.abs(c.normal[d]) - 1) < 2e-3) c.normal.set(0, 0, 0)[d] = 1; // an axis is easy to hit
      c.normal.normalize();
      this.move(c, through.dot(c.normal) / config.scale, false);
    };
    const drag = (m) => to(m);
    svg.addEventListener('pointermove', drag);
    svg.addEventListener('pointerup', (m) => {
      svg.removeEventListener('pointermove', drag);
      to(m);
      const n = c.normal, axis = ['x', 'y', 'z'].find((d) => Math.abs(n[d] - 1) < 1e-6);
      this.pane.edit({ op: 'turn-slice', place: c.place.replace(/\/at$/, ''), across: axis ?? n.toArray().map((x) => typed(x, 3)).join(', '), at: this.words(c) });
    }, { once: true });
  }

  /** Handles by which slices are dragged along their normals, and turned. */
  handles() {
    const { view, config } = this.pane;
    if (view.box.min.z === view.box.max.z) return;
    const svg = document.createElementNS('http://www.w3.org/2000/svg', 'svg');
    svg.classList.add('plane-handles');
    svg.setAttribute('aria-hidden', 'true'); // the sliders are what the keyboard has
    view.holder.insertBefore(svg, view.marks.nextSibling);
    const place = (c) => { // the corner of the box of the device that is nearest to the right, in the plane
      const centre = view.box.getCenter(new THREE.Vector3()), right = new THREE.Vector3().setFromMatrixColumn(view.camera.matrixWorld, 0);
      const along = right.addScaledVector(c.normal, -right.dot(c.normal));
      if (along.lengthSq() < 1e-6) along.setFromMatrixColumn(view.camera.matrixWorld, 1).addScaledVector(c.normal, -c.normal.dot(new THREE.Vector3().setFromMatrixColumn(view.camera.matrixWorld, 1)));
      const half = view.box.getSize(new THREE.Vector3()).length() / 2.6;
      return centre.addScaledVector(c.normal, c.at * config.scale - centre.dot(c.normal)).addScaledVector(along.normalize(), half);
    };
    // The elements stay what they are: one that is dragged must not go.
    const make = (name, attributes, parent = svg) => {
      const el = document.createElementNS('http://www.w3.org/2000/svg', name);
      for (const [key, value] of Object.entries(attributes)) el.setAttribute(key, value);
      return parent.appendChild(el);
    };
    const marks = this.cuts.map((c, i) => {
      const arm = make('line', { 'stroke-dasharray': '2 2' }), g = make('g', { 'data-cut': i });
      return { arm, line: make('line', {}, g), ball: make('circle', { r: 6 }, g), turns: make('circle', { r: 4, class: 'turns', 'data-turn': i }) };
    });
    const put = (el, values) => { for (const [key, value] of Object.entries(values)) el.setAttribute(key, value); };
    const draw = () => {
      svg.setAttribute('viewBox', `0 0 ${view.canvas.clientWidth} ${view.canvas.clientHeight}`);
      svg.style.display = view.marksOff ? 'none' : '';
      this.cuts.forEach((c, i) => {
        const { x, y } = view.project(place(c)), ahead = view.project(place(c).addScaledVector(c.normal, 10 * view.half / view.canvas.clientWidth));
        const dx = ahead.x - x, dy = ahead.y - y, far = Math.hypot(dx, dy) || 1;
        const [ux, uy] = [dx / far * 13, dy / far * 13];
        put(marks[i].arm, { x1: x, y1: y, x2: x + 2.2 * ux, y2: y + 2.2 * uy });
        put(marks[i].line, { x1: x - ux, y1: y - uy, x2: x + ux, y2: y + uy });
        put(marks[i].ball, { cx: x, cy: y });
        put(marks[i].turns, { cx: x + 2.2 * ux, cy: y + 2.2 * uy });
      });
    };
    view.onDraw = draw;
    svg.addEventListener('pointerdown', (e) => {
      const turned = this.cuts[e.target.dataset.turn];
      if (turned) return this.turnPlane(turned, e, svg, place(turned));
      const c = this.cuts[e.target.closest('[data-cut]')?.dataset.cut];
      if (!c) return;
      e.preventDefault();
      svg.setPointerCapture(e.pointerId);
      const from = { x: e.clientX, y: e.clientY, at: c.at }, here = place(c);
      const a = view.project(here), b = view.project(here.clone().addScaledVector(c.normal, 1));
      const [px, py] = [b.x - a.x, b.y - a.y], square = px * px + py * py;
      const to = (m, settled) => {
        if (square > 1e-4) this.move(c, from.at + ((m.clientX - from.x) * px + (m.clientY - from.y) * py) / square / config.scale, settled);
      };
      const drag = (m) => to(m);
      svg.addEventListener('pointermove', drag);
      svg.addEventListener('pointerup', (m) => {
        svg.removeEventListener('pointermove', drag);
        if (m.clientX !== from.x || m.clientY !== from.y) to(m, true);
      }, { once: true });
    });
    draw();
  }
}
