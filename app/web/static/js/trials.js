// Trials: what varies, the chart and the table. Edits are sent like those of the
// sheet; what is shown in the chart stands in the address of the page.

import { Editor } from './edit.js';
import { say } from './page.js';
import { Insight } from './trialinsight.js';
import { Picture } from './trialpicture.js';
import { Table } from './trialtable.js';

const root = document.getElementById('trials');
const here = () => Object.fromEntries(new URLSearchParams(location.search));
const editor = new Editor(root, root.dataset.model, root, { extra: () => ({ page: 'trials', ...here() }), refresh: () => `trials?${new URLSearchParams(here())}` });

/** Shows what the address says, or another view of it. */
function show(change = {}) {
  const query = new URLSearchParams({ ...here(), ...change });
  history.replaceState(null, '', `?${query}`);
  return editor.ask('GET', `trials?${query}`);
}

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

const act = { post, submit, mark, say, at: () => insight.at() };
const table = new Table(root, act), insight = new Insight(root, act), picture = new Picture(root, act);
insight.moved = () => picture.refresh();
picture.brushed = (trials) => table.only(trials);

root.addEventListener('change', (e) => {
  const view = e.target.closest('[data-view]');
  if (view) show({ [view.dataset.view]: view.value });
  const vary = e.target.closest('[data-vary]');
  if (vary?.value) editor.ask('POST', 'edit', { op: 'vary-value', id: vary.dataset.vary, place: vary.value });
  const fields = e.target.closest('[data-fields]');
  if (fields) editor.ask('POST', 'edit', { op: 'trial-fields', id: fields.dataset.fields, on: fields.checked });
});

root.addEventListener('click', (e) => {
  const op = e.target.closest('[data-op]');
  if (op) editor.ask('POST', 'edit', JSON.parse(op.dataset.op));
  const series = e.target.closest('[data-series]');
  if (series) post(series.dataset.series, JSON.parse(series.dataset.values ?? '{}'));
  const use = e.target.closest('[data-use]');
  if (use) submit(use.dataset.use, JSON.parse(use.dataset.values));
  if (!e.target.closest('input, button:not(.point)')) mark(e.target.closest('[data-trial]')?.dataset.trial);
  else if (e.target.closest('.point')) mark(e.target.dataset.trial);
});

root.addEventListener('submit', (e) => {
  const form = e.target.closest('.trial-table');
  if (!form) return;
  e.preventDefault();
  const values = Object.fromEntries(new FormData(form));
  if (!values.file?.size) delete values.file;
  if (!values.file && !values.text.trim()) return say('Type or paste the lines of a table, or choose a file.');
  htmx.ajax('POST', form.action, { source: form, target: root, swap: 'morph:innerHTML', values: { ...here(), ...values } }).then(() => {
    form.closest('details').open = false;
    show();
  });
});

/** A trial is marked in the chart and in the table, and its values stand between them. */
function mark(trial) {
  if (trial === undefined) return;
  for (const el of root.querySelectorAll('[data-trial]')) el.classList.toggle('marked', el.dataset.trial === trial);
  root.querySelector(`.trials-table tr[data-trial="${trial}"]`)?.scrollIntoView({ block: 'nearest' });
  table.open(trial);
  picture.mark(trial);
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

/** Fills what the answer of the server leaves to scripts. */
function draw() {
  table.fill();
  insight.fill();
  picture.draw();
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
