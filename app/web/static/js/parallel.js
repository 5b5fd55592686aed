// Trials as lines over axes side by side. A drag along an axis keeps the trials that pass there; a click on it takes all again.

import { colourAt } from './colours.js';
import { figures } from './figures.js';

const NS = 'http://www.w3.org/2000/svg', ROOM = { top: 44, bottom: 26, side: 54 };

export class Parallel {
  /** @param {object} act - mark(trial) and brushed(a set of trials, null for all) */
  constructor(plot, data, height, act) {
    Object.assign(this, { plot, data, height, act, brushes: new Map() });
    this.draw();
  }

  el(name, attributes, parent = this.svg) {
    const el = document.createElementNS(NS, name);
    for (const [k, v] of Object.entries(attributes)) el.setAttribute(k, v);
    parent.append(el);
    return el;
  }

  x(i) { return ROOM.side + (this.data.axes.length > 1 ? i * (this.width - 2 * ROOM.side) / (this.data.axes.length - 1) : 0); }

  y(i, v) {
    const { low, high } = this.data.axes[i], t = high > low ? (v - low) / (high - low) : 0.5;
    return this.height - ROOM.bottom - t * (this.height - ROOM.top - ROOM.bottom);
  }

  draw() {
    const { plot, data, height } = this;
    this.width = plot.clientWidth || 700;
    plot.replaceChildren();
    this.svg = document.createElementNS(NS, 'svg');
    this.svg.setAttribute('class', 'parallel');
    this.svg.setAttribute('width', this.width);
    this.svg.setAttribute('height', height);
    this.svg.setAttribute('role', 'img');
    this.svg.setAttribute('aria-label', 'trials as lines over axes side by side; the table has the same numbers');
    plot.append(this.svg);
    this.lines = data.lines.map((l) => {
      const path = l.values.map((v, i) => (v === null ? null : [this.x(i), this.y(i, v)])).filter(Boolean).map((p, i) => `${i ? 'L' : 'M'}${p.map((c) => c.toFixed(1)).join(',')}`).join('');
      const el = this.el('path', { d: path, stroke: l.counts ? colourAt(l.shade) : '#c9c4b6', class: `${l.front ? 'front' : ''}${l.trial === data.best ? ' best' : ''}` });
      el.dataset.trial = l.trial;
      this.el('title', {}, el).textContent = `trial ${l.trial + 1}`;
      return el;
    });
    data.axes.forEach((a, i) => this.axis(a, i));
    this.dim();
  }

  axis(a, i) {
    const x = this.x(i), top = ROOM.top, bottom = this.height - ROOM.bottom;
    this.el('line', { x1: x, x2: x, y1: top, y2: bottom, class: 'axis' });
    const words = (text, y, size = 11) => {
      const el = this.el('text', { x, y, 'text-anchor': 'middle', 'font-size': size });
      el.textContent = text;
      return el;
    };
    const room = Math.max(8, Math.floor((this.width - 2 * ROOM.side) / Math.max(1, this.data.axes.length - 1) / 7));
    const name = a.label.length > room ? `${a.label.slice(0, room - 1)}…` : a.label;
    this.el('title', {}, words(name, 14)).textContent = a.label;
    words(a.unit, 28);
    words(figures(a.high, 3), top - 4, 10);
    words(figures(a.low, 3), bottom + 13, 10);
    for (const l of a.limits ?? []) {
      if (l.value < a.low || l.value > a.high) continue;
      const y = this.y(i, l.value);
      this.el('title', {}, this.el('line', { x1: x - 9, x2: x + 9, y1: y, y2: y, class: 'limit' })).textContent = l.words;
    }
    const brush = this.el('rect', { x: x - 5, y: top, width: 10, height: 0, class: 'brush' });
    const hit = this.el('rect', { x: x - 12, y: top - 4, width: 24, height: bottom - top + 8, class: 'hit' });
    const kept = this.brushes.get(a.key);
    if (kept) this.place(brush, i, kept);
    hit.addEventListener('pointerdown', (e) => {
      hit.setPointerCapture(e.pointerId);
      const from = e.offsetY;
      // Near an end it is meant: many trials lie there.
      const near = (y) => (y < top + 6 ? top : y > bottom - 6 ? bottom : y);
      const value = (y) => a.low + (bottom - near(y)) / (bottom - top) * (a.high - a.low);
      const move = (m) => {
        const range = [value(Math.max(from, m.offsetY)), value(Math.min(from, m.offsetY))];
        if (Math.abs(m.offsetY - from) < 4) this.brushes.delete(a.key);
        else this.brushes.set(a.key, range);
        this.place(brush, i, this.brushes.get(a.key));
        this.dim();
      };
      hit.addEventListener('pointermove', move);
      hit.addEventListener('pointerup', (u) => {
        move(u);
        hit.removeEventListener('pointermove', move);
      }, { once: true });
    });
  }

  place(brush, i, range) {
    if (!range) return brush.setAttribute('height', 0);
    const top = this.y(i, range[1]);
    brush.setAttribute('y', top);
    brush.setAttribute('height', Math.max(1, this.y(i, range[0]) - top));
  }

  /** Pales the trials that a brush leaves out. */
  dim() {
    const { axes, lines } = this.data, kept = new Set();
    lines.forEach((l, k) => {
      const stays = axes.every((a, i) => {
        const range = this.brushes.get(a.key);
        return !range || l.values[i] !== null && l.values[i] >= range[0] && l.values[i] <= range[1];
      });
      this.lines[k].classList.toggle('pale', !stays);
      if (stays) kept.add(l.trial);
    });
    this.act.brushed(this.brushes.size ? kept : null);
  }

  mark(trial) {
    for (const el of this.lines) el.classList.toggle('marked', el.dataset.trial === trial);
  }

  resize() { this.draw(); }

  close() { this.plot.replaceChildren(); }
}
