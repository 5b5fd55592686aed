// What the chart of trials shows: one against another, all side by side, predicted against computed, curves and surfaces.

import { Chart } from './chart.js';
import { colourAt } from './colours.js';
import { figures } from './figures.js';
import { Parallel } from './parallel.js';
import { Relief } from './relief.js';

const GREEN = '#1f6f6b', COPPER = '#b04a26';

export class Picture {
  constructor(root, act) {
    Object.assign(this, { root, act, brushed: () => {} });
    let waiting;
    window.addEventListener('resize', () => {
      clearTimeout(waiting);
      waiting = setTimeout(() => { if (this.drawn?.resize) this.drawn.resize(); }, 100);
    });
  }

  get box() { return this.root.querySelector('.trials-chart'); }

  height() { return Math.min(450, Math.max(260, 0.5 * window.innerHeight)); }

  /** Draws the chart if it is another one than before. */
  draw() {
    const { box } = this, plot = box?.querySelector('.plot');
    if (!plot) return;
    const of = box.dataset.chart ?? `${box.dataset.source} ${box.dataset.key}`;
    if (of === this.of && plot.childElementCount) return;
    this.of = of;
    if (box.dataset.chart) this.show(JSON.parse(box.dataset.chart));
    else this.ask();
  }

  /** Asks for a chart of what is predicted anew, as the sliders have moved. */
  refresh() {
    if (!this.box?.dataset.source || !/show=(curve|surface)/.test(this.box.dataset.source)) return;
    clearTimeout(this.waiting);
    this.waiting = setTimeout(() => this.ask(), 60);
  }

  async ask() {
    const { source } = this.box.dataset, at = this.act.at(), plot = this.box.querySelector('.plot');
    if (!plot.childElementCount) {
      const p = document.createElement('p');
      Object.assign(p, { className: 'empty', textContent: 'The surfaces are being fitted.' });
      plot.append(p);
    }
    const answer = await fetch(`${source}&at=${encodeURIComponent(at)}`);
    if (source !== this.box?.dataset.source) return;
    if (!answer.ok) {
      const p = document.createElement('p');
      Object.assign(p, { className: 'empty', textContent: 'This cannot be shown now.' });
      return this.box.querySelector('.plot').replaceChildren(p);
    }
    this.show(await answer.json());
  }

  show(data) {
    const plot = this.box.querySelector('.plot');
    const turn = this.drawn instanceof Relief ? this.drawn.turn : null;
    this.drawn?.close?.();
    this.drawn = null;
    this.box.querySelector('.picture-words')?.remove();
    plot.replaceChildren();
    plot.classList.remove('chart');
    this.brushed(null);
    if (data.words) {
      const words = document.createElement('p');
      Object.assign(words, { className: 'picture-words aside', textContent: data.words });
      this.box.append(words);
    }
    if (data.show === 'axes') this.drawn = new Parallel(plot, data, this.height(), { mark: (t) => this.act.mark(t), brushed: (list) => this.brushed(list) });
    else if (data.show === 'fit' && data.points) this.fit(plot, data);
    else if (data.show === 'curve' && data.y) this.curve(plot, data);
    else if (data.show === 'effects' && data.series) this.effects(plot, data);
    else if (data.show === 'surface' && data.z) this.drawn = new Relief(plot, data, this.height(), turn);
    else if (data.show === '') this.scatter(plot, data);
  }

  mark(trial) {
    for (const el of this.root.querySelectorAll('.trials-chart .point')) el.classList.toggle('marked', el.dataset.trial === trial);
    this.drawn?.mark?.(trial);
  }

  /** Room beyond the ends of a list of numbers. */
  wide(list) {
    const lo = Math.min(...list), hi = Math.max(...list), room = 0.06 * (hi - lo) || 0.1 * Math.abs(hi) || 1;
    return [lo - room, hi + room];
  }

  /** Limits as dotted lines with their words, over a chart. */
  limits(u, x, y) {
    u.over.querySelectorAll('.limit').forEach((el) => el.remove());
    for (const [axis, list] of [['x', x.limits ?? []], ['y', y.limits ?? []]]) {
      for (const l of list) {
        const { min, max } = u.scales[axis];
        if (l.value < min || l.value > max) continue;
        const el = document.createElement('span');
        el.className = `limit ${axis}`;
        el.style[axis === 'x' ? 'left' : 'top'] = `${u.valToPos(l.value, axis)}px`;
        el.textContent = l.words;
        u.over.append(el);
      }
    }
  }

  scatter(plot, data) {
    const points = [...data.points].sort((a, b) => a.x - b.x);
    plot.classList.toggle('many', points.length > 60);
    const place = (u) => {
      u.over.querySelectorAll('.point, .end, .stairs').forEach((el) => el.remove());
      this.limits(u, data.x, data.y);
      if (data.front) this.stairs(u, data, points);
      const at = (el, x, y) => {
        Object.assign(el.style, { left: `${u.valToPos(x, 'x')}px`, top: `${u.valToPos(y, 'y')}px` });
        u.over.append(el);
      };
      for (const p of points) {
        const el = document.createElement('button');
        el.className = `point${p.counts ? '' : ' out'}${p.trial === data.best ? ' best' : ''}${p.front ? ' front' : ''}${p.breaks && p.counts ? ' breaks' : ''}`;
        el.dataset.trial = p.trial;
        el.title = `trial ${p.trial + 1}: ${data.x.label} ${figures(p.x)} ${data.x.unit}, ${data.y.label} ${figures(p.y)} ${data.y.unit}`;
        el.setAttribute('aria-label', el.title);
        if (data.shade && p.counts) el.style.background = colourAt(p.shade);
        at(el, p.x, p.y);
      }
      if (data.end) {
        const el = document.createElement('span');
        el.className = 'end';
        el.textContent = '+';
        at(el, ...data.end);
      }
    };
    const lines = [...points.map((p) => p.y), ...(data.y.limits ?? []).map((l) => l.value)];
    const across = [...points.map((p) => p.x), ...(data.x.limits ?? []).map((l) => l.value)];
    this.drawn = new Chart(plot, { name: 'trials', x: { ...data.x, values: points.map((p) => p.x) }, y: data.y, series: [{ label: data.y.label, values: points.map((p) => p.y), colour: GREEN }],
      points: !data.line, height: this.height(), legend: false, xRange: () => this.wide(across), yRange: () => this.wide(lines),
      hooks: { ready: [place], setScale: [place], setSize: [place] } });
    if (data.shade) this.scale(plot, data.shade);
  }

  /** The scale of the shades. */
  scale(plot, shade) {
    const el = document.createElement('p');
    el.className = 'shade-scale aside';
    const bar = document.createElement('span');
    bar.className = 'shade-bar';
    bar.style.background = `linear-gradient(to right, ${[0, 0.25, 0.5, 0.75, 1].map((t) => colourAt(t)).join(',')})`;
    el.append(`${shade.label} ${figures(shade.low)} `, bar, ` ${figures(shade.high)} ${shade.unit}`);
    plot.append(el);
  }

  /** The front as stairs: what lies beyond them beats one of its trials. */
  stairs(u, data, points) {
    const front = points.filter((p) => p.front);
    if (!front.length) return;
    const { over } = u;
    const list = front.map((p) => [u.valToPos(p.x, 'x'), u.valToPos(p.y, 'y')]);
    if (!data.left) list.reverse();
    let path = `M${list[0][0]},${data.down ? 0 : over.clientHeight} L${list[0].join(',')}`;
    for (let i = 1; i < list.length; i++) path += ` H${list[i][0]} V${list[i][1]}`;
    path += ` H${data.left ? over.clientWidth : 0}`;
    const svg = document.createElementNS('http://www.w3.org/2000/svg', 'svg');
    svg.setAttribute('class', 'stairs');
    svg.setAttribute('width', over.clientWidth);
    svg.setAttribute('height', over.clientHeight);
    const line = document.createElementNS('http://www.w3.org/2000/svg', 'path');
    line.setAttribute('d', path);
    svg.append(line);
    over.prepend(svg);
  }

  fit(plot, data) {
    const { points } = data, all = [...points.map((p) => p.x), ...points.flatMap((p) => [p.y - p.band, p.y + p.band])];
    const [lo, hi] = this.wide(all);
    const place = (u) => {
      u.over.querySelectorAll('.point, .whisker').forEach((el) => el.remove());
      for (const p of points) {
        const whisker = document.createElement('span');
        whisker.className = 'whisker';
        const top = u.valToPos(p.y + p.band, 'y');
        Object.assign(whisker.style, { left: `${u.valToPos(p.x, 'x')}px`, top: `${top}px`, height: `${u.valToPos(p.y - p.band, 'y') - top}px` });
        u.over.append(whisker);
        const el = document.createElement('button');
        el.className = 'point';
        el.dataset.trial = p.trial;
        el.title = `trial ${p.trial + 1}: computed ${figures(p.x)} ${data.x.unit}, predicted ${figures(p.y)} ± ${figures(p.band, 2)} ${data.y.unit}`;
        el.setAttribute('aria-label', el.title);
        Object.assign(el.style, { left: `${u.valToPos(p.x, 'x')}px`, top: `${u.valToPos(p.y, 'y')}px` });
        u.over.append(el);
      }
    };
    this.drawn = new Chart(plot, { name: 'fit', x: { ...data.x, values: [lo, hi] }, y: data.y, series: [{ label: 'as computed', values: [lo, hi], colour: COPPER }], height: this.height(), legend: false,
      xRange: [lo, hi], yRange: [lo, hi], hooks: { ready: [place], setScale: [place], setSize: [place] } });
  }

  curve(plot, data) {
    const place = (u) => this.limits(u, {}, data.y);
    this.drawn = new Chart(plot, { name: 'curve', x: data.x, y: data.y, height: this.height(), legend: true,
      series: [{ label: data.y.label, values: data.y.values, colour: GREEN }, { label: 'lower end of the band', values: data.low, colour: '#9db8b3' }, { label: 'upper end of the band', values: data.high, colour: '#9db8b3' }],
      hooks: { ready: [place], setScale: [place], setSize: [place] } });
  }

  effects(plot, data) {
    this.drawn = new Chart(plot, { name: 'effects', x: data.x, y: data.y, series: data.series, height: this.height(), legend: true });
  }
}
