// Trials: what varies, the chart and the table. Edits are sent like those of the
// sheet; what is shown in the chart stands in the address of the page.

import { Chart } from './chart.js';
import { colourAt } from './colours.js';
import { Editor } from './edit.js';
import { figures } from './figures.js';

const root = document.getElementById('trials');
const here = () => Object.fromEntries(new URLSearchParams(location.search));
const editor = new Editor(root, root.dataset.model, root, { extra: () => ({ page: 'trials', ...here() }), refresh: () => `trials?${new URLSearchParams(here())}` });

/** Shows what the address says, or another view of it. */
function show(change = {}) {
  const query = new URLSearchParams({ ...here(), ...change });
  history.replaceState(null, '', `?${query}`);
  return editor.ask('GET', `trials?${query}`);
}

root.addEventListener('change', (e) => {
  const view = e.target.closest('[data-view]');
  if (view) show({ [view.dataset.view]: view.value });
});

root.addEventListener('click', (e) => {
  const op = e.target.closest('[data-op]');
  if (op) editor.ask('POST', 'edit', JSON.parse(op.dataset.op));
  const series = e.target.closest('[data-series]');
  if (series) post(series.dataset.series, JSON.parse(series.dataset.values ?? '{}'));
  const use = e.target.closest('[data-use]');
  if (use) submit(use.dataset.use, JSON.parse(use.dataset.values));
  mark(e.target.closest('[data-trial]')?.dataset.trial);
});

/** Tells the server what is to become of a series, and shows the answer. */
function post(path, values) {
  return htmx.ajax('POST', path, { source: root, target: root, swap: 'morph:innerHTML', values: { ...here(), ...values } });
}

/** Sends a form that leads to another page. */
function submit(path, values) {
  const form = document.createElement('form');
  form.method = 'post';
  form.action = path;
  for (const [name, value] of Object.entries(values)) {
    const input = document.createElement('input');
    Object.assign(input, { type: 'hidden', name, value });
    form.append(input);
  }
  document.body.append(form);
  form.submit();
}

/** A trial is marked in the chart and in the table. */
function mark(trial) {
  if (trial === undefined) return;
  for (const el of root.querySelectorAll('[data-trial]')) el.classList.toggle('marked', el.dataset.trial === trial);
  root.querySelector(`tr[data-trial="${trial}"]`)?.scrollIntoView({ block: 'nearest' });
}

document.body.addEventListener('kettle:changed', (e) => {
  editor.showPending();
  const focus = e.detail?.focus;
  if (!focus?.startsWith('trials/')) return;
  const set = focus.split('/')[1];
  if (set !== here().set) show({ set });
  const field = root.querySelector(`[data-place="${CSS.escape(focus)}"]`);
  field?.focus();
  field?.select?.();
});

let chart, drawnChart;

/** Draws the chart, if it is another one than before: points that can be pressed, on axes. */
function draw() {
  const box = root.querySelector('.trials-chart'), text = box?.dataset.chart;
  if (!text) return;
  const plot = box.querySelector('.plot');
  if (text === drawnChart && plot.childElementCount) return;
  chart?.close();
  drawnChart = text;
  const data = JSON.parse(text), points = [...data.points].sort((a, b) => a.x - b.x);
  const wide = (list) => {
    const lo = Math.min(...list), hi = Math.max(...list), room = 0.06 * (hi - lo) || 0.1 * Math.abs(hi) || 1;
    return [lo - room, hi + room];
  };
  const place = (u) => {
    u.over.querySelectorAll('.point, .end').forEach((el) => el.remove());
    const at = (el, x, y) => {
      Object.assign(el.style, { left: `${u.valToPos(x, 'x')}px`, top: `${u.valToPos(y, 'y')}px` });
      u.over.append(el);
    };
    for (const p of points) {
      const el = document.createElement('button');
      el.className = `point${p.counts ? '' : ' out'}${p.trial === data.best ? ' best' : ''}`;
      el.dataset.trial = p.trial;
      el.title = `trial ${p.trial + 1}: ${figures(p.x)} ${data.x.unit}, ${figures(p.y)} ${data.y.unit}`;
      el.setAttribute('aria-label', el.title);
      if (data.shaded && p.counts) el.style.background = colourAt(p.shade);
      at(el, p.x, p.y);
    }
    if (data.end) {
      const el = document.createElement('span');
      el.className = 'end';
      el.textContent = '+';
      at(el, ...data.end);
    }
  };
  chart = new Chart(plot, { name: 'trials', x: { ...data.x, values: points.map((p) => p.x) }, y: data.y, series: [{ label: data.y.label, values: points.map((p) => p.y), colour: '#1f6f6b' }],
    points: !data.line, height: Math.min(450, Math.max(260, 0.55 * window.innerHeight)), legend: false, xRange: (_, lo, hi) => (hi - lo < 1e-12 * Math.abs(hi) ? wide([lo, hi]) : [lo - 0.04 * (hi - lo), hi + 0.04 * (hi - lo)]), yRange: () => wide(points.map((p) => p.y)),
    hooks: { ready: [place], setScale: [place], setSize: [place] } });
}

document.body.addEventListener('htmx:afterSettle', draw);
draw();

let waiting;
document.body.addEventListener('htmx:sseMessage', (e) => {
  if (e.detail.type !== 'trials' || e.detail.data === root.dataset.state) return;
  root.dataset.state = e.detail.data;
  clearTimeout(waiting);
  waiting = setTimeout(() => show(), 150);
});
document.documentElement.dataset.drawn = 'yes';
