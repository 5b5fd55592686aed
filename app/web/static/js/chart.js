// Charts: several curves over one variable on one or two axes, with a pointer that the mouse or the arrow
// keys move, a zoom (drag over a part of it, double click for all), ends of the axes by hand, a logarithmic
// axis, and what leaves as a picture or as CSV.

import uPlot from '/static/vendor/uplot/uPlot.esm.js';
import { figures } from './figures.js';

const COLOURS = ['#b04a26', '#1f6f6b', '#6b5b95', '#8a6d1b', '#3b6ea5', '#7a3b69'];
const GRID = { stroke: '#e6e1d3', width: 1 }, FONT = '11px "IBM Plex Mono", monospace';

const style = document.createElement('link');
Object.assign(style, { rel: 'stylesheet', href: '/static/vendor/uplot/uPlot.min.css' });
document.head.append(style);

/** How many figures it takes to tell the ticks of an axis apart. */
function apart(list) {
  const ticks = list.filter((v) => v !== null), step = Math.abs(ticks.at(-1) - ticks[0]) / Math.max(1, ticks.length - 1);
  const most = Math.max(...ticks.map(Math.abs));
  return step > 0 && most > 0 ? Math.min(8, Math.max(3, Math.ceil(Math.log10(most / step)) + 1)) : 3;
}

/** Saves something as a file. */
export function save(name, href) {
  const link = document.createElement('a');
  Object.assign(link, { href, download: name });
  link.click();
}

export class Chart {
  /**
   * @param {Element} box
   * @param {object} data - x {label, unit, values}, y and y2 {label, unit}, series [{label, values, second (is on y2)}] with null where there
   *   is none, name of files, axes (ends by hand, see ends), legend (whether what is under the pointer stands below), points (whether curves
   *   are not drawn), dots (whether each value has one), and hooks of uPlot
   */
  constructor(box, data) {
    Object.assign(this, { box, data, logarithmic: false, axes: data.axes ?? {} });
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

  /** The scale of an axis: what lies between its ends by hand, as far as there are any. */
  range(name, own, more = {}) {
    const { from = null, to = null } = this.axes[name] ?? {};
    if (from === null && to === null) return { ...more, ...own && { range: own } };
    return { ...more, range: (plot, lo, hi) => {
      const [a, b] = typeof own === 'function' ? own(plot, lo, hi) : own ?? uPlot.rangeNum(lo ?? 0, hi ?? 1, 0.1, true);
      return [from ?? a, to ?? b];
    } };
  }

  draw() {
    const { box, data } = this, { x, y, y2, series } = data;
    this.plot?.destroy();
    const axis = { stroke: '#5f686e', grid: GRID, font: FONT, ticks: GRID, labelFont: FONT, values: (_, list) => list.map((v) => (v === null ? '' : figures(v, apart(list)))) };
    const head = (a) => [a.label, a.unit].filter(Boolean).join(', ');
    const said = (unit) => (_, v) => (v === null || v === undefined ? '–' : `${figures(v)} ${unit}`);
    const values = { distr: this.logarithmic ? 3 : 1 };
    this.plot = new uPlot({
      width: box.clientWidth || 300, height: data.height ?? 190, legend: { show: data.legend ?? true, live: true },
      cursor: { drag: { x: true, y: false }, points: { size: 6 } },
      scales: { x: this.range('x', data.xRange, { time: false }), y: this.range('y', this.logarithmic ? null : data.yRange, values), ...y2 && { y2: this.range('y2', null, values) } },
      axes: [{ ...axis, label: head(x), labelSize: 18, size: 30 }, { ...axis, label: head(y), labelSize: 18, size: 54 },
        ...y2 ? [{ ...axis, scale: 'y2', side: 1, grid: { show: false }, label: head(y2), labelSize: 18, size: 54 }] : []],
      series: [{ label: x.label, value: said(x.unit) },
        ...series.map((s, i) => ({ label: s.label, scale: s.second ? 'y2' : 'y', stroke: s.colour ?? COLOURS[i % COLOURS.length], dash: s.second ? [6, 3] : undefined, width: data.points ? 0 : 1.6, points: { show: Boolean(data.dots), size: 6 }, spanGaps: false, value: said(s.second ? y2.unit : y.unit) }))],
      hooks: data.hooks ?? {},
    }, [x.values, ...series.map((s) => (this.logarithmic ? s.values.map((v) => (v > 0 ? v : null)) : s.values))], box);
  }

  /** Makes the axis of the values logarithmic, or even again. */
  log(on) {
    this.logarithmic = on && this.data.series.some((s) => s.values.some((v) => v > 0));
    this.draw();
    return this.logarithmic;
  }

  /** Asks for the ends of the axes, or stops asking. */
  ends() {
    const before = this.box.parentElement.querySelector('.axis-ends');
    if (before) return before.remove();
    const form = document.createElement('p');
    form.className = 'axis-ends aside';
    const names = [['x', this.data.x], ['y', this.data.y], ...this.data.y2 ? [['y2', this.data.y2]] : []];
    for (const [name, { label, unit }] of names) {
      form.append(`${name === 'x' ? label : `values`}, ${unit || '1'}: from `);
      for (const end of ['from', 'to']) {
        const input = document.createElement('input');
        Object.assign(input, { type: 'text', className: 'val', placeholder: 'all', size: 7, value: this.axes[name]?.[end] ?? '' });
        input.setAttribute('aria-label', `${name === 'x' ? label : 'values'} in ${unit || '1'}, ${end}`);
        input.addEventListener('change', () => this.end(name, end, input));
        form.append(input, end === 'from' ? ' to ' : '. ');
      }
    }
    this.box.before(form);
    form.querySelector('input').focus();
  }

  /** Takes an end of an axis that was typed; what is no number, or leaves nothing between the ends, is said to be so. */
  end(name, end, input) {
    const text = input.value.trim().replace('−', '-').replace(',', '.'), value = text === '' ? null : Number(text);
    const ends = { ...this.axes[name], [end]: value };
    const wrong = value !== null && !Number.isFinite(value) ? 'write a number, or nothing for all' : (ends.from ?? -Infinity) >= (ends.to ?? Infinity) ? 'the axis ends before it begins'
      : this.logarithmic && name !== 'x' && value !== null && value <= 0 ? 'a logarithmic axis begins above zero' : '';
    input.setCustomValidity(wrong);
    input.reportValidity();
    if (wrong) return;
    this.axes[name] = ends;
    this.draw();
  }

  key(e) {
    const n = this.data.x.values.length, step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10, Home: -n, End: n }[e.key];
    if (!step) return;
    e.preventDefault();
    e.stopPropagation();
    this.at = Math.min(Math.max((this.at ?? (step < 0 ? n : -1)) + step, 0), n - 1);
    const first = this.data.series.find((s) => s.values[this.at] !== null);
    this.plot.setCursor({ left: this.plot.valToPos(this.data.x.values[this.at], 'x'), top: first ? this.plot.valToPos(first.values[this.at], first.second ? 'y2' : 'y') : 0 });
  }

  png() { save(`${this.data.name}.png`, this.plot.ctx.canvas.toDataURL('image/png')); }

  csv() {
    const { x, y, y2, series, name } = this.data;
    const head = [`${x.label} (${x.unit})`, ...series.map((s) => `${s.label} (${s.second ? y2.unit : y.unit})`)].map((t) => (/[",\n]/.test(t) ? `"${t.replaceAll('"', '""')}"` : t));
    const rows = x.values.map((v, i) => [v, ...series.map((s) => s.values[i] ?? '')]);
    const url = URL.createObjectURL(new Blob([[head, ...rows].map((r) => r.join(',')).join('\n'), '\n'], { type: 'text/csv' }));
    save(`${name}.csv`, url);
    setTimeout(() => URL.revokeObjectURL(url), 1000);
  }

  /** Does what a button of the chart says: [data-log], [data-axes], [data-picture] or [data-csv]. */
  act(button) {
    if (button.matches('[data-csv]')) this.csv();
    else if (button.matches('[data-picture]')) this.png();
    else if (button.matches('[data-axes]')) this.ends();
    else if (button.matches('[data-log]')) button.setAttribute('aria-pressed', String(this.log(button.getAttribute('aria-pressed') !== 'true')));
  }

  /** The buttons for all that in an element. */
  tools(el) {
    el.addEventListener('click', (e) => this.act(e.target), { signal: this.ended.signal });
    return this;
  }

  close() {
    this.ended.abort();
    this.watch.disconnect();
    this.plot.destroy();
  }
}
