// Charts: several curves over one variable, with a pointer that the mouse or the arrow keys move, a
// zoom (drag over a part of it, double click for all), a logarithmic axis, and what leaves as a picture
// or as CSV.

import uPlot from '/static/vendor/uplot/uPlot.esm.js';
import { figures } from './figures.js';

const COLOURS = ['#b04a26', '#1f6f6b', '#6b5b95', '#8a6d1b', '#3b6ea5', '#7a3b69'];
const GRID = { stroke: '#e6e1d3', width: 1 }, FONT = '11px "IBM Plex Mono", monospace';

const style = document.createElement('link');
Object.assign(style, { rel: 'stylesheet', href: '/static/vendor/uplot/uPlot.min.css' });
document.head.append(style);

/** Saves something as a file. */
export function save(name, href) {
  const link = document.createElement('a');
  Object.assign(link, { href, download: name });
  link.click();
}

export class Chart {
  /**
   * @param {Element} box
   * @param {object} data - x {label, unit, values}, y {label, unit}, series [{label, values}] with null where there is none, name of files,
   *   legend (whether what is under the pointer stands below), points (whether curves are not drawn), and hooks of uPlot
   */
  constructor(box, data) {
    Object.assign(this, { box, data, logarithmic: false });
    box.replaceChildren();
    box.classList.add('chart');
    box.tabIndex = 0;
    this.ended = new AbortController();
    box.addEventListener('keydown', (e) => this.key(e), { signal: this.ended.signal });
    this.draw();
    this.watch = new ResizeObserver(() => {
      const width = box.clientWidth;
      if (width && Math.abs(width - this.plot.width) > 1) this.plot.setSize({ width, height: this.plot.height });
    });
    this.watch.observe(box);
  }

  draw() {
    const { box, data } = this, { x, y, series } = data;
    this.plot?.destroy();
    const axis = { stroke: '#5f686e', grid: GRID, font: FONT, ticks: GRID, labelFont: FONT, values: (_, list) => list.map((v) => (v === null ? '' : figures(v, 3))) };
    const head = (a) => [a.label, a.unit].filter(Boolean).join(', ');
    const said = (unit) => (_, v) => (v === null || v === undefined ? '–' : `${figures(v)} ${unit}`);
    this.plot = new uPlot({
      width: box.clientWidth || 300, height: data.height ?? 190, legend: { show: data.legend ?? true, live: true },
      cursor: { drag: { x: true, y: false }, points: { size: 6 } },
      scales: { x: { time: false, ...data.xRange && { range: data.xRange } }, y: { distr: this.logarithmic ? 3 : 1, ...data.yRange && !this.logarithmic && { range: data.yRange } } },
      axes: [{ ...axis, label: head(x), labelSize: 18, size: 30 }, { ...axis, label: head(y), labelSize: 18, size: 54 }],
      series: [{ label: x.label, value: said(x.unit) },
        ...series.map((s, i) => ({ label: s.label, stroke: s.colour ?? COLOURS[i % COLOURS.length], width: data.points ? 0 : 1.6, points: { show: false }, spanGaps: false, value: said(y.unit) }))],
      hooks: data.hooks ?? {},
    }, [x.values, ...series.map((s) => (this.logarithmic ? s.values.map((v) => (v > 0 ? v : null)) : s.values))], box);
  }

  /** Makes the axis of the values logarithmic, or even again. */
  log(on) {
    this.logarithmic = on && this.data.series.some((s) => s.values.some((v) => v > 0));
    this.draw();
    return this.logarithmic;
  }

  key(e) {
    const n = this.data.x.values.length, step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10, Home: -n, End: n }[e.key];
    if (!step) return;
    e.preventDefault();
    e.stopPropagation();
    this.at = Math.min(Math.max((this.at ?? (step < 0 ? n : -1)) + step, 0), n - 1);
    const first = this.data.series.find((s) => s.values[this.at] !== null);
    this.plot.setCursor({ left: this.plot.valToPos(this.data.x.values[this.at], 'x'), top: first ? this.plot.valToPos(first.values[this.at], 'y') : 0 });
  }

  png() { save(`${this.data.name}.png`, this.plot.ctx.canvas.toDataURL('image/png')); }

  csv() {
    const { x, y, series, name } = this.data;
    const head = [`${x.label} (${x.unit})`, ...series.map((s) => `${s.label} (${y.unit})`)].map((t) => (/[",\n]/.test(t) ? `"${t.replaceAll('"', '""')}"` : t));
    const rows = x.values.map((v, i) => [v, ...series.map((s) => s.values[i] ?? '')]);
    const url = URL.createObjectURL(new Blob([[head, ...rows].map((r) => r.join(',')).join('\n'), '\n'], { type: 'text/csv' }));
    save(`${name}.csv`, url);
    setTimeout(() => URL.revokeObjectURL(url), 1000);
  }

  /** Buttons for all that: [data-log], [data-picture] and [data-csv] in an element. */
  tools(el) {
    el.querySelector('[data-log]')?.addEventListener('click', (e) => e.target.setAttribute('aria-pressed', String(this.log(e.target.getAttribute('aria-pressed') !== 'true'))));
    el.querySelector('[data-picture]')?.addEventListener('click', () => this.png());
    el.querySelector('[data-csv]')?.addEventListener('click', () => this.csv());
    return this;
  }

  close() {
    this.ended.abort();
    this.watch.disconnect();
    this.plot.destroy();
  }
}
