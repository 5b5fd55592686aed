// Direct changes on the drawing: a face that is drawn out, parts that are moved and
// turned, what is measured, and what a frame takes in. The numbers of the brief follow.

import { THREE } from './scene.js';
import { escaped, say, typing } from './page.js';

const AXES = { x: new THREE.Vector3(1, 0, 0), y: new THREE.Vector3(0, 1, 0), z: new THREE.Vector3(0, 0, 1) };

/** The tools of a sheet. The host tells what is drawn and takes the changes. */
export class Tools {
  constructor(host) {
    this.host = host;
    this.svg = document.getElementById('handles');
    this.input = document.getElementById('distance');
    this.handles = []; // { at, along, unit, words, apply }
    this.chosen = [];
    this.svg.addEventListener('pointerdown', (e) => this.grab(e));
    this.svg.addEventListener('pointermove', (e) => this.drag(e));
    this.svg.addEventListener('pointerup', (e) => this.drop(e));
    this.input.addEventListener('keydown', (e) => this.typed(e));
    document.addEventListener('keydown', (e) => this.key(e));
    document.getElementById('measure').addEventListener('click', () => this.toggleMeasure());
    document.getElementById('measured').addEventListener('click', (e) => {
      if (e.target.closest('[data-lift]')) host.lift(e.target.closest('[data-lift]').dataset.lift);
    });
    const canvas = document.getElementById('canvas');
    canvas.addEventListener('pointerdown', (e) => this.frameBegin(e), true);
    canvas.addEventListener('pointermove', (e) => this.frameMove(e), true);
    canvas.addEventListener('pointerup', (e) => this.frameEnd(e), true);
  }

  get busy() {
    return Boolean(this.held || this.frame);
  }

  // ---- Handles ----

  /** A handle on a face that draws it out. */
  face(hit) {
    this.choose([]);
    this.handles = [];
    this.last = hit;
    if (hit && hit.side.name !== 'cut') {
      const round = hit.mesh.geometry.attributes.position.count > 60 && !['top', 'bottom'].includes(hit.side.name);
      this.handles = [{ at: hit.point.clone(), along: hit.normal.clone(), words: `draw out the ${hit.side.words}`, round,
        apply: (by) => this.host.post({ op: 'push', on: `${hit.part.id}|${hit.side.name}`, by }) }];
    }
    this.draw();
  }

  /** Keeps which parts are chosen, and tells the host. */
  choose(ids) {
    this.chosen = ids;
    this.host.chosen(ids);
  }

  /** Handles that move and turn parts. */
  parts(ids) {
    this.choose(ids);
    const { data, view } = this.host;
    const box = new THREE.Box3();
    for (const mesh of this.host.surfaces) if (ids.includes(mesh.userData.part.id)) box.union(mesh.geometry.boundingBox);
    this.handles = [];
    if (!box.isEmpty()) {
      const centre = box.getCenter(new THREE.Vector3());
      const reach = 0.5 * view.box.getSize(new THREE.Vector3()).length() * 0.35;
      for (const [name, along] of Object.entries(AXES)) {
        if (data.flat && name === 'z') continue;
        this.handles.push({ at: centre, tip: centre.clone().addScaledVector(along, reach), along, words: `move along ${name}`,
          apply: (by) => this.host.post({ op: 'move', id: ids.join(','), [name]: by }) });
      }
      const arm = AXES.x.clone().add(AXES.y).normalize();
      this.handles.push({ at: centre, tip: centre.clone().addScaledVector(arm, reach), turn: true, words: 'turn to the left', apply: (by) => this.host.post({ op: 'turn', id: ids.join(','), by }) });
    }
    this.host.light(({ part }) => ids.includes(part.id), 2);
    const names = data.parts.filter((p) => ids.includes(p.id)).map((p) => p.name);
    this.host.under.textContent = names.length ? `chosen: ${names.join(', ')}` : '';
    this.draw();
  }

  clear() {
    this.handles = [];
    this.choose([]);
    this.input.hidden = true;
    this.draw();
  }

  /** The device was drawn anew: what was chosen stays chosen, if it is still there. */
  refresh() {
    this.host.view.onDraw = () => this.draw();
    if (this.chosen.length) return this.parts(this.chosen.filter((id) => this.host.data.parts.some((p) => p.id === id)));
    const hit = this.handles.length && this.last && this.again(this.last);
    if (!hit) return this.clear();
    this.host.light(({ part, side }) => part === hit.part && side === hit.side, 2);
    this.face(hit);
  }

  /** A place on a side, after the device was drawn anew: where it was, or where the side has gone. */
  again(hit) {
    const mesh = this.host.surfaces.find((m) => m.userData.part.id === hit.part.id && m.userData.side.name === hit.side.name && m.userData.copies[0] === hit.mesh.userData.copies[0]);
    if (!mesh) return null;
    const { point, normal } = firstTriangle(mesh);
    const moved = hit.point.clone().addScaledVector(normal, point.clone().sub(hit.point).dot(normal));
    mesh.geometry.computeBoundingBox();
    const { box } = this.host.view;
    const near = 1e-6 * box.getSize(new THREE.Vector3()).length();
    const stays = Math.abs(normal.dot(hit.normal)) > 1 - 1e-6 && mesh.geometry.boundingBox.clone().expandByScalar(near).containsPoint(moved);
    const place = stays ? { point: moved, normal: hit.normal } : { point, normal };
    return { ...hit, ...place, mesh, part: mesh.userData.part, side: mesh.userData.side };
  }

  draw() {
    const { view } = this.host;
    if (!view) return;
    this.svg.setAttribute('viewBox', `0 0 ${view.holder.clientWidth} ${view.holder.clientHeight}`);
    this.make();
    for (const [i, g] of [...this.svg.children].entries()) {
      const h = this.handles[i];
      const a = view.project(h.at);
      const tip = h.tip ? view.project(h.tip) : this.tipOf(h, a);
      const line = g.querySelector('line');
      for (const [name, x] of Object.entries({ x1: a.x, y1: a.y, x2: tip.x, y2: tip.y })) line.setAttribute(name, x);
      for (const end of g.querySelectorAll('.end')) end.setAttribute('transform', `translate(${tip.x} ${tip.y})`);
      g.style.display = Math.hypot(tip.x - a.x, tip.y - a.y) < 8 ? 'none' : ''; // it points at us
    }
  }

  /** Makes the elements of the handles, unless they are there: the one in focus stays in focus. */
  make() {
    const words = this.handles.map((h) => h.words);
    if (this.svg.children.length === words.length && words.every((w, i) => this.svg.children[i].getAttribute('aria-label') === w)) return;
    const focused = this.svg.contains(document.activeElement) && document.activeElement.getAttribute('aria-label');
    this.svg.innerHTML = this.handles.map((h, i) => {
      const shape = h.turn ? '<path d="M-7 4a8 8 0 1 1 14 0m-3-3l3 4 4-4" class="turn end"/>' : '<circle class="end" r="6"/>';
      return `<g class="handle" data-handle="${i}" role="button" tabindex="0" aria-label="${escaped(h.words)}"><line/><circle class="reach end" r="14"/>${shape}<title>${escaped(h.words)}</title></g>`;
    }).join('');
    if (focused) this.svg.children[words.indexOf(focused)]?.focus({ preventScroll: true });
  }

  /** The end of the arrow of a face: 46 px away along its normal. */
  tipOf(h, a) {
    const { view } = this.host;
    const b = view.project(h.at.clone().addScaledVector(h.along, 1));
    const l = Math.hypot(b.x - a.x, b.y - a.y) || 1;
    return l < 1e-3 ? a : { x: a.x + 46 * (b.x - a.x) / l, y: a.y + 46 * (b.y - a.y) / l };
  }

  grab(e) {
    const g = e.target.closest('[data-handle]');
    if (!g) return;
    e.preventDefault();
    this.svg.setPointerCapture(e.pointerId);
    this.held = { handle: this.handles[g.dataset.handle], x: e.clientX, y: e.clientY, by: 0 };
    this.showInput(this.held.handle, e);
  }

  drag(e) {
    if (!this.held) return;
    const { view } = this.host;
    const { handle } = this.held;
    const dx = e.clientX - this.held.x, dy = e.clientY - this.held.y;
    const a = view.project(handle.at);
    if (handle.turn) {
      const r = view.holder.getBoundingClientRect();
      const angle = (x, y) => Math.atan2(a.y - (y - r.top), x - r.left - a.x);
      let by = (angle(e.clientX, e.clientY) - angle(this.held.x, this.held.y)) * 180 / Math.PI;
      by = ((by + 540) % 360) - 180;
      this.held.by = e.altKey ? Math.round(by * 10) / 10 : Math.round(by / 5) * 5;
    } else {
      const b = view.project(handle.at.clone().add(handle.along));
      const px = { x: b.x - a.x, y: b.y - a.y }; // of one unit of the drawing
      const l2 = px.x ** 2 + px.y ** 2;
      if (l2 < 1e-6) return;
      const by = (dx * px.x + dy * px.y) / l2;
      const step = this.step(Math.sqrt(l2)) / (e.altKey ? 10 : 1);
      this.held.by = Number((Math.round(by / step) * step).toPrecision(9));
    }
    this.input.value = this.written(this.held.by, handle);
    this.ghost();
  }

  /** A round step of the drawing of at least 5 px. */
  step(pixels) {
    const least = 5 / pixels, ten = 10 ** Math.floor(Math.log10(least));
    return [1, 2, 5, 10].map((n) => n * ten).find((s) => s >= least * 0.999);
  }

  written(by, handle) {
    return handle.turn ? `${by} deg` : `${by} ${this.host.data.unit}`;
  }

  /** Shows where what is held would go. */
  ghost() {
    const { view } = this.host;
    const { handle, by } = this.held;
    const a = view.project(handle.at);
    const g = this.svg.querySelector('.goes') ?? this.svg.appendChild(document.createElementNS('http://www.w3.org/2000/svg', 'line'));
    g.setAttribute('class', 'goes');
    const to = handle.turn ? a : view.project(handle.at.clone().addScaledVector(handle.along, by));
    for (const [name, v] of Object.entries({ x1: a.x, y1: a.y, x2: to.x, y2: to.y })) g.setAttribute(name, v);
  }

  drop() {
    if (!this.held) return;
    const { handle, by } = this.held;
    this.held = null;
    if (by) this.apply(handle, by);
    else {
      this.asked = handle;
      this.input.focus();
      this.input.select();
    }
  }

  /** by is in the unit of the drawing, or in degrees. */
  apply(handle, by) {
    this.input.hidden = true;
    document.getElementById('offer').hidden = true;
    handle.apply(handle.turn ? by * Math.PI / 180 : by / this.host.data.scale);
  }

  showInput(handle, e) {
    const r = this.host.view.holder.getBoundingClientRect();
    this.asked = handle;
    this.input.hidden = false;
    this.input.value = this.written(0, handle);
    this.input.setAttribute('aria-label', handle.words);
    this.input.style.left = `${Math.min(e.clientX - r.left + 18, r.width - 110)}px`;
    this.input.style.top = `${Math.min(e.clientY - r.top + 8, r.height - 40)}px`;
  }

  typed(e) {
    if (e.key === 'Escape') this.input.hidden = true;
    if (e.key !== 'Enter') return;
    e.preventDefault();
    const g = /^\s*([-−+]?[\d.]+(?:e-?\d+)?)\s*(µm|mm|cm|m|in|deg|°|rad)?\s*$/.exec(this.input.value);
    if (!g) return say(`Type a distance such as 3 ${this.host.data.unit}.`);
    const SI = { 'µm': 1e-6, mm: 1e-3, cm: 1e-2, m: 1, in: 0.0254, deg: Math.PI / 180, '°': Math.PI / 180, rad: 1 };
    const handle = this.asked;
    const x = Number(g[1].replace('−', '-'));
    const si = x * (g[2] ? SI[g[2]] : handle.turn ? SI.deg : 1 / this.host.data.scale);
    if (Number.isFinite(si) && si) this.apply(handle, handle.turn ? si / SI.deg : si * this.host.data.scale);
  }

  // ---- A frame that takes parts in ----

  frameBegin(e) {
    if (!e.shiftKey || e.button !== 0) return;
    e.stopImmediatePropagation();
    e.preventDefault();
    const r = this.host.view.holder.getBoundingClientRect();
    this.frame = { x: e.clientX - r.left, y: e.clientY - r.top };
    e.target.setPointerCapture(e.pointerId);
  }

  frameMove(e) {
    if (!this.frame) return;
    e.stopImmediatePropagation();
    const r = this.host.view.holder.getBoundingClientRect();
    Object.assign(this.frame, { x2: e.clientX - r.left, y2: e.clientY - r.top });
    const { x, y, x2, y2 } = this.frame;
    this.svg.innerHTML = `<rect class="frame-select" x="${Math.min(x, x2)}" y="${Math.min(y, y2)}" width="${Math.abs(x2 - x)}" height="${Math.abs(y2 - y)}"/>`;
  }

  /** Parts that lie in the frame as a whole are chosen. */
  frameEnd(e) {
    if (!this.frame) return;
    e.stopImmediatePropagation();
    const { x, y, x2, y2 } = this.frame;
    this.frame = null;
    const inside = new Map();
    if (x2 !== undefined) {
      for (const mesh of this.host.surfaces) {
        const { part } = mesh.userData;
        if (!mesh.visible) continue;
        const p = mesh.geometry.attributes.position;
        let all = true;
        for (let i = 0; i < p.count && all; i++) {
          const v = this.host.view.project(new THREE.Vector3().fromBufferAttribute(p, i));
          all = v.x >= Math.min(x, x2) && v.x <= Math.max(x, x2) && v.y >= Math.min(y, y2) && v.y <= Math.max(y, y2);
        }
        inside.set(part.id, (inside.get(part.id) ?? true) && all);
      }
    }
    const ids = [...inside].filter(([, all]) => all).map(([id]) => id);
    if (ids.length) this.parts(ids);
    else this.clear();
  }

  // ---- Keys ----

  key(e) {
    if (typing(e) || e.ctrlKey || e.metaKey || e.altKey || !this.host.view) return;
    const { data } = this.host;
    const names = data.parts.map((p) => p.id);
    const at = names.indexOf(this.chosen[0]);
    const deeds = {
      h: () => this.host.hide(this.chosen.length ? this.chosen : this.last ? [this.last.part.id] : []),
      a: () => this.host.hide([]),
      m: () => this.toggleMeasure(),
      '.': () => names.length && this.parts([names[(at + 1) % names.length]]),
      ';': () => this.nextSide(),
      ',': () => names.length && this.parts([names[(at - 1 + names.length) % names.length]]),
    };
    const handle = e.target.closest?.('[data-handle]');
    if (handle && (e.key === 'Enter' || e.key === ' ')) {
      const r = handle.getBoundingClientRect();
      this.showInput(this.handles[handle.dataset.handle], { clientX: r.right, clientY: r.top });
      e.preventDefault();
      this.input.focus();
      this.input.select();
      return;
    }
    if (!deeds[e.key]) return;
    e.preventDefault();
    deeds[e.key]();
  }

  /** Chooses the next side of the chosen part, as a click would. */
  nextSide() {
    const part = this.chosen[0] ?? this.last?.part.id ?? this.host.data.parts.find((p) => !p.shown)?.id;
    const sides = this.host.surfaces.filter((m) => m.userData.part.id === part && m.visible);
    if (!sides.length) return;
    const at = sides.findIndex((m) => m.userData.side === this.last?.side && m.userData.part === this.last?.part);
    const mesh = sides[(at + 1) % sides.length];
    const { point, normal } = firstTriangle(mesh);
    const at2 = this.host.view.project(point), r = this.host.view.holder.getBoundingClientRect();
    this.host.choose({ mesh, part: mesh.userData.part, side: mesh.userData.side, copy: mesh.userData.copies[0] + 1, point, normal }, { clientX: r.left + at2.x, clientY: r.top + at2.y });
  }

  // ---- Measuring ----

  toggleMeasure() {
    if (this.measuring) return this.end();
    this.measuring = [];
    document.getElementById('measure').setAttribute('aria-pressed', 'true');
    document.getElementById('measured').hidden = false;
    document.getElementById('measured').textContent = 'Click a surface, and another one.';
  }

  end() {
    this.measuring = null;
    document.getElementById('measure').setAttribute('aria-pressed', 'false');
    document.getElementById('measured').hidden = true;
  }

  /** Takes a surface in; with two the distance and the angle are shown. */
  async measure(hit) {
    if (!hit) return;
    if (this.measuring.length === 2) this.measuring = [];
    this.measuring.push(hit);
    const list = this.measuring;
    this.host.light((u) => list.some((h) => u.part === h.part && u.side === h.side), 2);
    const query = new URLSearchParams();
    list.forEach((h, i) => {
      query.set(i ? 'b' : 'a', `${h.part.id}|${h.side.name}|${h.part.copies.length > 1 ? h.copy : ''}`);
      query.set(i ? 'at-b' : 'at-a', h.point.toArray().map((x) => x / this.host.data.scale).join(','));
    });
    const answer = await fetch(`${location.pathname}measure?${query}`, { headers: { 'HX-Request': 'true' } });
    if (list !== this.measuring) return;
    const box = document.getElementById('measured');
    if (answer.ok) box.innerHTML = await answer.text();
    else box.textContent = await answer.text();
  }
}

/** The middle of the first triangle of a surface, and the normal there. */
function firstTriangle(mesh) {
  const p = mesh.geometry.attributes.position;
  const [a, b, c] = [0, 1, 2].map((i) => new THREE.Vector3().fromBufferAttribute(p, i));
  const normal = b.clone().sub(a).cross(c.clone().sub(a)).normalize();
  return { point: a.add(b).add(c).divideScalar(3), normal };
}
