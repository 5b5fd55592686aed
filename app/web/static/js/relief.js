// A surface over two parameters, seen from a side that the mouse or the arrow keys turn, with the trials as points.

import { colourAt } from './colours.js';
import { figures } from './figures.js';

export class Relief {
  constructor(plot, data, height, turn) {
    Object.assign(this, { plot, data, height, turn: turn ?? { round: -0.9, up: 0.5 } });
    this.canvas = document.createElement('canvas');
    this.canvas.className = 'relief';
    this.canvas.tabIndex = 0;
    this.canvas.setAttribute('role', 'img');
    this.canvas.setAttribute('aria-label', `${data.z.label} over ${data.x.label} and ${data.y.label}; arrow keys turn it`);
    plot.replaceChildren(this.canvas);
    this.canvas.addEventListener('pointerdown', (e) => {
      this.canvas.setPointerCapture(e.pointerId);
      let [x, y] = [e.clientX, e.clientY];
      const move = (m) => {
        this.turnBy((m.clientX - x) * 0.01, (m.clientY - y) * 0.008);
        [x, y] = [m.clientX, m.clientY];
      };
      this.canvas.addEventListener('pointermove', move);
      this.canvas.addEventListener('pointerup', () => this.canvas.removeEventListener('pointermove', move), { once: true });
    });
    this.canvas.addEventListener('keydown', (e) => {
      const by = { ArrowLeft: [-0.12, 0], ArrowRight: [0.12, 0], ArrowUp: [0, 0.08], ArrowDown: [0, -0.08] }[e.key];
      if (!by) return;
      e.preventDefault();
      e.stopPropagation();
      this.turnBy(...by);
    });
    const z = [...data.z.values, ...(data.points ?? []).map((p) => p.z)];
    [this.low, this.high] = [Math.min(...z), Math.max(...z)];
    this.resize();
  }

  turnBy(round, up) {
    this.turn = { round: this.turn.round + round, up: Math.min(Math.max(this.turn.up + up, 0.05), 1.5) };
    this.draw();
  }

  resize() {
    const width = this.plot.clientWidth || 700, dense = window.devicePixelRatio || 1;
    Object.assign(this.canvas, { width: width * dense, height: this.height * dense });
    Object.assign(this.canvas.style, { width: `${width}px`, height: `${this.height}px` });
    this.width = width;
    this.draw();
  }

  /** A point of the unit cube as it is seen: to the right, up, and how far away. */
  seen(x, y, z) {
    const { round, up } = this.turn, c = Math.cos(round), s = Math.sin(round), a = x - 0.5, b = y - 0.5, h = 0.7 * (z - 0.5);
    const deep = a * s + b * c;
    return [a * c - b * s, h * Math.cos(up) + deep * Math.sin(up), deep * Math.cos(up) - h * Math.sin(up)];
  }

  /** Where a point of the unit cube is on the canvas, and how far away. */
  at(x, y, z) {
    const [across, high, deep] = this.seen(x, y, z), { size, left, top } = this.fitted;
    return [left + size * across, top - size * high, deep];
  }

  /** Lets the cube fill the canvas, with room for words. */
  fit() {
    const room = { side: 96, top: 26, bottom: 46 }, corners = [];
    for (const x of [0, 1]) for (const y of [0, 1]) for (const z of [0, 1]) corners.push(this.seen(x, y, z));
    const [x0, x1, y0, y1] = [Math.min(...corners.map((c) => c[0])), Math.max(...corners.map((c) => c[0])), Math.min(...corners.map((c) => c[1])), Math.max(...corners.map((c) => c[1]))];
    const size = Math.min((this.width - 2 * room.side) / (x1 - x0), (this.height - room.top - room.bottom) / (y1 - y0));
    this.fitted = { size, left: this.width / 2 - size * (x0 + x1) / 2, top: (room.top + this.height - room.bottom) / 2 + size * (y0 + y1) / 2 };
  }

  draw() {
    const { data, canvas } = this, pen = canvas.getContext('2d'), dense = window.devicePixelRatio || 1;
    pen.setTransform(dense, 0, 0, dense, 0, 0);
    pen.clearRect(0, 0, this.width, this.height);
    const nx = data.x.values.length, ny = data.y.values.length, scale = (v) => (this.high > this.low ? (v - this.low) / (this.high - this.low) : 0.5);
    this.fit();
    this.frame(pen);
    const faces = [];
    for (let i = 0; i + 1 < nx; i++) {
      for (let k = 0; k + 1 < ny; k++) {
        const corners = [[i, k], [i + 1, k], [i + 1, k + 1], [i, k + 1]].map(([a, b]) => [a / (nx - 1), b / (ny - 1), scale(data.z.values[a * ny + b])]);
        const points = corners.map((p) => this.at(...p));
        faces.push({ points, deep: points.reduce((sum, p) => sum + p[2], 0) / 4, shade: corners.reduce((sum, p) => sum + p[2], 0) / 4 });
      }
    }
    const ends = (list, v) => (v - list[0]) / (list.at(-1) - list[0]);
    for (const p of data.points ?? []) {
      const [x, y, deep] = this.at(ends(data.x.values, p.x), ends(data.y.values, p.y), scale(p.z));
      faces.push({ dot: [x, y], deep, shade: scale(p.z) });
    }
    faces.sort((a, b) => b.deep - a.deep);
    for (const f of faces) {
      pen.beginPath();
      if (f.dot) {
        pen.arc(...f.dot, 3.5, 0, 2 * Math.PI);
        pen.fillStyle = colourAt(f.shade);
        pen.fill();
        pen.strokeStyle = '#22292e';
        pen.lineWidth = 1;
        pen.stroke();
        continue;
      }
      f.points.forEach(([x, y], i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
      pen.closePath();
      pen.fillStyle = colourAt(f.shade);
      pen.globalAlpha = 0.92;
      pen.fill();
      pen.strokeStyle = 'rgba(34,41,46,.18)';
      pen.lineWidth = 0.6;
      pen.stroke();
      pen.globalAlpha = 1;
    }
    this.words(pen);
  }

  /** The floor and the edges of the box. */
  frame(pen) {
    pen.strokeStyle = '#cfc8b6';
    pen.lineWidth = 1;
    const line = (a, b) => {
      pen.beginPath();
      pen.moveTo(...this.at(...a));
      pen.lineTo(...this.at(...b));
      pen.stroke();
    };
    for (const t of [0, 0.25, 0.5, 0.75, 1]) {
      line([t, 0, 0], [t, 1, 0]);
      line([0, t, 0], [1, t, 0]);
    }
    for (const [x, y] of [[0, 0], [1, 0], [0, 1], [1, 1]]) line([x, y, 0], [x, y, 1]);
  }

  /** Names and ends of the axes, along the edges of the floor that are nearest, and of the height at the edge farthest to the left. */
  words(pen) {
    const { data } = this;
    pen.fillStyle = '#3a4449';
    pen.font = '11px "IBM Plex Mono", monospace';
    const middle = this.at(0.5, 0.5, 0);
    const put = (text, p, out = 16) => {
      const dx = p[0] - middle[0], dy = p[1] - middle[1], far = Math.hypot(dx, dy) || 1;
      pen.textAlign = dx > 20 ? 'left' : dx < -20 ? 'right' : 'center';
      pen.fillText(text, p[0] + out * dx / far, p[1] + out * Math.abs(dy) / far * Math.sign(dy || 1) + 4);
    };
    const front = (a, b) => (this.at(...a)[2] < this.at(...b)[2] ? a : b);
    const along = (axis, near, from, to) => {
      put(figures(axis.values[0], 3), this.at(...from), 12);
      put(figures(axis.values.at(-1), 3), this.at(...to), 12);
      put([axis.label, axis.unit].filter(Boolean).join(', '), near, 30);
    };
    const y = front([0.5, 0, 0], [0.5, 1, 0])[1], x = front([0, 0.5, 0], [1, 0.5, 0])[0];
    along(data.x, this.at(0.5, y, 0), [0.06, y, 0], [0.94, y, 0]);
    along(data.y, this.at(x, 0.5, 0), [x, 0.06, 0], [x, 0.94, 0]);
    const [[, left]] = [[0, 0], [1, 0], [0, 1], [1, 1]].map((e) => [this.at(...e, 0.5)[0], e]).sort((a, b) => a[0] - b[0]);
    pen.textAlign = 'right';
    for (const [t, v] of [[0, this.low], [1, this.high]]) {
      const p = this.at(...left, t);
      pen.fillText(figures(v, 3), p[0] - 8, p[1] + 4);
    }
    pen.textAlign = 'left';
    pen.fillText([data.z.label, data.z.unit].filter(Boolean).join(', '), 12, 18);
  }

  close() { this.plot.replaceChildren(); }
}
