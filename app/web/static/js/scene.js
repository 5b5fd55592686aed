// The view in the sheet's frame: an orthographic camera with named views, the
// triad, the scale bar, and marks with leaders around the device. The sheet and
// the plates fill it.

import * as THREE from '../vendor/three/three.module.js';
import { OrbitControls } from '../vendor/three/OrbitControls.js';
import { escaped } from './page.js';

export { THREE };

// Where the camera looks from, in device coordinates (z up).
const VIEWS = {
  corner: [1, -1, 0.82],
  front: [0, -1, 0],
  side: [1, 0, 0],
  top: [0, -1e-4, 1],
  below: [1, -1, -0.82],
};

const INK = '#23292d';

export class Scene {
  /** @param {number} scale drawing units in a metre  @param {string} unit  @param {Element} holder of the canvas */
  constructor(scale, unit, holder = document.getElementById('view')) {
    this.scale = scale;
    this.unit = unit;
    this.holder = holder;
    this.canvas = holder.querySelector('canvas');
    this.marks = holder.querySelector('.marks');
    this.renderer = new THREE.WebGLRenderer({ canvas: this.canvas, antialias: true, alpha: true, preserveDrawingBuffer: true });
    this.renderer.localClippingEnabled = true;
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.scene = new THREE.Scene();
    this.camera = new THREE.OrthographicCamera();
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, this.canvas);
    this.controls.addEventListener('change', () => this.draw());
    this.box = new THREE.Box3(new THREE.Vector3(-50, -50, -50), new THREE.Vector3(50, 50, 50));
    this.labels = [];
    this.watch = new ResizeObserver(() => this.resize());
    this.watch.observe(this.canvas);
    for (const b of document.querySelectorAll('[data-view]')) {
      b.addEventListener('click', () => this.look(b.dataset.view));
    }
    this.canvas.addEventListener('keydown', (e) => this.turnByKey(e));
  }

  /** Ends the drawing and frees what it holds. */
  close() {
    this.watch.disconnect();
    cancelAnimationFrame(this.pending);
    this.closed = true;
    this.clear();
    this.controls.dispose();
    this.renderer.dispose();
    this.renderer.forceContextLoss();
  }

  /** Group for the device; z is up and lengths are in drawing units. */
  clear() {
    for (const child of [...this.scene.children]) {
      child.traverse((o) => o.geometry?.dispose());
      this.scene.remove(child);
    }
  }

  /** Fits a new box; the direction of the camera stays unless it is the first. */
  setBox(box, name = 'corner') {
    const first = !this.framed;
    const grown = !first && (this.box.min.distanceTo(box.min) + this.box.max.distanceTo(box.max) > 0.25 * this.box.getSize(new THREE.Vector3()).length());
    this.box = box;
    if (first) this.look(name);
    else if (grown) this.look('fit');
    else this.draw();
    this.framed = true;
  }

  look(name) {
    if (VIEWS[name]) {
      this.direction = new THREE.Vector3(...VIEWS[name]).normalize();
      for (const b of document.querySelectorAll('[data-view]')) b.setAttribute('aria-pressed', String(b.dataset.view === name));
    } else {
      this.direction = this.camera.position.clone().sub(this.controls.target).normalize();
    }
    const centre = this.box.getCenter(new THREE.Vector3());
    const size = this.box.getSize(new THREE.Vector3()).length() || 1;
    this.camera.position.copy(centre).addScaledVector(this.direction, 3 * size);
    this.camera.near = size * 0.01;
    this.camera.far = size * 8;
    this.controls.target.copy(centre);
    this.camera.lookAt(centre);
    this.camera.updateMatrixWorld();
    // The half-extents of the box as it is seen.
    const inverse = this.camera.matrixWorldInverse.copy(this.camera.matrixWorld).invert();
    let w = 0, h = 0, dx = 0, dy = 0;
    const lo = new THREE.Vector2(Infinity, Infinity), hi = new THREE.Vector2(-Infinity, -Infinity);
    for (let i = 0; i < 8; i++) {
      const p = new THREE.Vector3(i & 1 ? this.box.max.x : this.box.min.x, i & 2 ? this.box.max.y : this.box.min.y, i & 4 ? this.box.max.z : this.box.min.z).applyMatrix4(inverse);
      lo.min(p);
      hi.max(p);
    }
    w = (hi.x - lo.x) / 2;
    h = (hi.y - lo.y) / 2;
    dx = (hi.x + lo.x) / 2;
    dy = (hi.y + lo.y) / 2;
    this.half = Math.max(w / 0.72, h / 0.62 * this.aspect(), 1e-9);
    this.camera.zoom = 1;
    // Shift so that the device sits in the middle, a little high: the title block
    // is below it.
    const right = new THREE.Vector3().setFromMatrixColumn(this.camera.matrixWorld, 0);
    const up = new THREE.Vector3().setFromMatrixColumn(this.camera.matrixWorld, 1);
    const shift = right.multiplyScalar(dx).addScaledVector(up, dy - 0.09 * this.half / this.aspect());
    this.camera.position.add(shift);
    this.controls.target.add(shift);
    this.resize();
    this.controls.update();
    this.onLook?.();
  }

  aspect() {
    return this.canvas.clientWidth / Math.max(this.canvas.clientHeight, 1);
  }

  resize() {
    const w = this.canvas.clientWidth, h = this.canvas.clientHeight;
    if (!w || !h) return;
    this.renderer.setSize(w, h, false);
    this.marks.setAttribute('viewBox', `0 0 ${w} ${h}`);
    const half = this.half ?? 100;
    Object.assign(this.camera, { left: -half, right: half, top: half / this.aspect(), bottom: -half / this.aspect() });
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  turnByKey(e) {
    const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    if (!steps) return;
    e.preventDefault();
    const offset = this.camera.position.clone().sub(this.controls.target);
    const s = new THREE.Spherical().setFromVector3(new THREE.Vector3(offset.x, offset.z, -offset.y));
    s.theta -= steps[0] * Math.PI / 24;
    s.phi = Math.min(Math.max(s.phi + steps[1] * Math.PI / 24, 0.01), Math.PI - 0.01);
    const v = new THREE.Vector3().setFromSpherical(s);
    this.camera.position.copy(this.controls.target).add(new THREE.Vector3(v.x, -v.z, v.y));
    this.controls.update();
    this.draw();
  }

  draw() {
    if (this.pending || this.closed) return;
    this.pending = requestAnimationFrame(() => {
      this.pending = 0;
      this.camera.updateMatrixWorld();
      this.renderer.render(this.scene, this.camera);
      this.drawTriad();
      this.drawScale();
      this.drawLabels();
      this.onDraw?.();
    });
  }

  /** Place of a point of the device in the frame, px. */
  project(p) {
    const v = p.clone().project(this.camera);
    return { x: (v.x + 1) / 2 * this.canvas.clientWidth, y: (1 - v.y) / 2 * this.canvas.clientHeight };
  }

  drawTriad() {
    const svg = this.holder.querySelector('.triad');
    if (!svg) return;
    const axes = [['x', new THREE.Vector3(1, 0, 0), '#a8502a'], ['y', new THREE.Vector3(0, 1, 0), '#1f6b68'], ['z', new THREE.Vector3(0, 0, 1), INK]];
    const turn = this.camera.quaternion.clone().invert();
    svg.innerHTML = axes.map(([name, v, colour]) => {
      const p = v.applyQuaternion(turn);
      const x = 45 + 30 * p.x, y = 45 - 30 * p.y;
      if (Math.hypot(p.x, p.y) < 0.08) return '';
      return `<line x1="45" y1="45" x2="${x}" y2="${y}" stroke="${colour}" stroke-width="1.6"/><text x="${45 + 39 * p.x}" y="${49 - 39 * p.y}" text-anchor="middle">${name}</text>`;
    }).join('');
  }

  /** A bar of a round length of about 90 px. */
  drawScale() {
    const perPixel = 2 * this.half / this.camera.zoom / this.canvas.clientWidth;
    const wanted = 90 * perPixel;
    const ten = 10 ** Math.floor(Math.log10(wanted));
    const length = [5, 2, 1].map((n) => n * ten).find((l) => l <= wanted) ?? ten;
    const bar = this.holder.querySelector('.scalebar');
    if (!bar) return;
    bar.querySelector('span').textContent = `${Number(length.toPrecision(2))} ${this.unit}`;
    bar.querySelector('i').style.width = `${length / perPixel}px`;
  }

  /**
   * Lays the labels around the device: each goes outward from the middle through
   * its anchor, and neighbours on one side are kept apart.
   */
  drawLabels() {
    const onThem = this.marksOff ? '' : this.writtenSVG(this.labels.filter((l) => l.written));
    const shown = this.labels.filter((l) => !l.hidden && !l.written);
    if (!shown.length || this.marksOff) {
      this.marks.innerHTML = onThem;
      return;
    }
    const W = this.canvas.clientWidth, H = this.canvas.clientHeight;
    const lo = { x: Infinity, y: Infinity }, hi = { x: -Infinity, y: -Infinity };
    for (let i = 0; i < 8; i++) {
      const p = this.project(new THREE.Vector3(i & 1 ? this.box.max.x : this.box.min.x, i & 2 ? this.box.max.y : this.box.min.y, i & 4 ? this.box.max.z : this.box.min.z));
      lo.x = Math.min(lo.x, p.x); lo.y = Math.min(lo.y, p.y);
      hi.x = Math.max(hi.x, p.x); hi.y = Math.max(hi.y, p.y);
    }
    const centre = { x: (lo.x + hi.x) / 2, y: (lo.y + hi.y) / 2 };
    const rx = (hi.x - lo.x) / 2 + 34, ry = (hi.y - lo.y) / 2 + 34;
    const items = shown.map((l) => {
      const a = this.project(l.anchor);
      let dx = (a.x - centre.x) / rx, dy = (a.y - centre.y) / ry - (l.up ? 0.35 : 0);
      if (Math.hypot(dx, dy) < 0.05) dy = -0.2;
      return { ...l, a, angle: Math.atan2(dy, dx) };
    }).sort((p, q) => p.angle - q.angle);
    // Spread the angles: at least a label's width apart on the ellipse.
    const gap = 46 / Math.max((rx + ry) / 2, 60);
    for (let round = 0; round < 40; round++) {
      let moved = false;
      for (let i = 0; i < items.length && items.length > 1; i++) {
        const p = items[i], q = items[(i + 1) % items.length];
        let d = q.angle - p.angle;
        if (i === items.length - 1) d += 2 * Math.PI;
        if (d < gap) {
          p.angle -= (gap - d) / 2;
          q.angle += (gap - d) / 2;
          moved = true;
        }
      }
      if (!moved) break;
    }
    const title = this.holder.querySelector('.stack')?.getBoundingClientRect();
    const bar = this.holder.querySelector('#bar')?.getBoundingClientRect();
    const frame = this.holder.getBoundingClientRect();
    const keepIn = (l) => {
      l.x = Math.min(Math.max(l.x, 34), W - 34);
      l.y = Math.min(Math.max(l.y, 48), H - 24);
      if (title && l.x > title.left - frame.left - 24 && l.y > title.top - frame.top - 22) l.y = title.top - frame.top - 24;
      if (bar && l.y < bar.bottom - frame.top + 14) l.x = Math.min(l.x, bar.left - frame.left - 20);
      if (l.x < 220 && l.y > H - 110) l.y = H - 124;
    };
    for (const l of items) {
      l.x = centre.x + rx * Math.cos(l.angle) * 1.02;
      l.y = centre.y + ry * Math.sin(l.angle) * 1.02;
      keepIn(l);
    }
    apart(items);
    items.forEach(keepIn);
    this.marks.innerHTML = onThem + items.map((l) => this.labelSVG(l)).join('');
  }

  /** Values that stand on what they are of; one that would cover another is left out. */
  writtenSVG(labels) {
    const placed = [];
    for (const l of labels) {
      const { x, y } = this.project(l.anchor);
      if (placed.every((p) => Math.abs(p.x - x) > 6 + 3.4 * (p.l.text.length + l.text.length) || Math.abs(p.y - y) > 14)) placed.push({ l, x, y });
    }
    return placed.map(({ l, x, y }) => `<text class="written" data-mark="${escaped(l.id)}" x="${x}" y="${y + 4}" text-anchor="middle" fill="${INK}" stroke="#fefdf9" stroke-width="3.5" paint-order="stroke">${escaped(l.text)}</text>`).join('');
  }

  labelSVG(l) {
    const { a, x, y } = l;
    const colour = l.kind === 'balloon' ? INK : '#1f6b68';
    const far = Math.hypot(x - a.x, y - a.y) || 1;
    const back = (l.kind === 'balloon' ? 12 : 15) / far;
    const ex = x + (a.x - x) * back, ey = y + (a.y - y) * back;
    const line = `<line x1="${a.x}" y1="${a.y}" x2="${ex}" y2="${ey}" stroke="${colour}" stroke-width="0.9" ${l.kind === 'balloon' ? '' : 'stroke-dasharray="3 2.5"'}/><circle cx="${a.x}" cy="${a.y}" r="2.4" ${l.behind ? `fill="#fefdf9" stroke="${colour}"` : `fill="${colour}"`}/>`;
    const w = widthOf(l);
    const shape = l.kind === 'balloon'
      ? `<circle cx="${x}" cy="${y}" r="12" fill="#fefdf9" stroke="${colour}" stroke-width="1.1"/>`
      : `<rect x="${x - w / 2}" y="${y - 9.5}" width="${w}" height="19" fill="#fefdf9" stroke="${colour}" stroke-width="1.1"/>`;
    return `<g class="mark" data-mark="${escaped(l.id)}">${line}${shape}<text x="${x}" y="${y + 4.5}" text-anchor="middle" fill="${colour}">${escaped(l.text)}</text></g>`;
  }
}

/** How wide the frame of a label is. */
function widthOf(label) {
  return label.kind === 'balloon' ? 24 : 10 + 7.4 * label.text.length;
}

/** Moves labels up and down until none covers another: at the ends of what is long and thin even wide angles are short ways. */
function apart(labels) {
  for (let round = 0; round < 40; round++) {
    let moved = false;
    for (const [i, p] of labels.entries()) {
      for (const q of labels.slice(i + 1)) {
        const [upper, lower] = p.y <= q.y ? [p, q] : [q, p];
        const short = 26 - (lower.y - upper.y);
        if (short > 0.5 && Math.abs(p.x - q.x) < (widthOf(p) + widthOf(q)) / 2 + 3) {
          upper.y -= short / 2;
          lower.y += short / 2;
          moved = true;
        }
      }
    }
    if (!moved) return;
  }
}

/** Wires a row of buttons of which one is pressed. */
export function choose(attribute, onChange) {
  const buttons = [...document.querySelectorAll(`[data-${attribute}]`)];
  for (const b of buttons) {
    b.addEventListener('click', () => {
      for (const other of buttons) other.setAttribute('aria-pressed', String(other === b));
      onChange(b.dataset[attribute]);
    });
  }
}
