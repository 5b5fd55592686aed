// The materials of a model and of the library: a list that is searched as one
// types, and the properties of one material, edited where they stand.

import { Editor } from './edit.js';
import { say, typing } from './page.js';
import { Lift } from './lift.js';
import { head } from './window.js';

const stuff = document.getElementById('stuff');
const model = stuff.dataset.model;
const one = document.getElementById('stuff-one');
const rows = document.getElementById('stuff-rows');
const find = document.getElementById('find');
const nothing = document.getElementById('nothing');
const name = () => rows.querySelector('[aria-current]')?.querySelector('span').textContent ?? new URLSearchParams(location.search).get('m') ?? '';

const editor = new Editor(one, model, one, { extra: () => ({ page: 'materials', m: name() }), refresh: () => `materials?m=${encodeURIComponent(name())}` });
new Lift(one, editor);

let newest;
const usual = find.title;

/** Shows the materials that have all the words of the search, or a property within its bounds. */
async function search() {
  const text = find.value.trim(), ticket = newest = {};
  let found = null;
  if (/\d/.test(text)) {
    const answer = await fetch(`/models/${model}/materials/find?q=${encodeURIComponent(text)}`, { headers: { 'HX-Request': 'true' } }).then((a) => a.json(), () => ({}));
    if (ticket !== newest) return; // more has been typed
    if (answer.bounds) {
      find.title = answer.fault ?? usual;
      find.setAttribute('aria-invalid', String(Boolean(answer.fault)));
      found = new Map(answer.found.map((f) => [f.name, f.value]));
    }
  }
  if (!found) find.removeAttribute('aria-invalid');
  const words = find.value.toLowerCase().split(/\s+/).filter(Boolean);
  let shown = 0;
  for (const row of rows.querySelectorAll('.stuff-row')) {
    const value = found?.get(row.querySelector('span').textContent);
    row.hidden = found ? value === undefined : !words.every((w) => row.dataset.search.includes(w));
    const small = row.querySelector('.found');
    small.textContent = value ?? '';
    small.hidden = value === undefined;
    if (!row.hidden) shown++;
  }
  for (const title of rows.querySelectorAll('h3')) title.hidden = words.length > 0;
  nothing.hidden = shown > 0;
}

find.addEventListener('input', search);
find.addEventListener('keydown', (e) => {
  const visible = [...rows.querySelectorAll('.stuff-row:not([hidden])')];
  if (e.key === 'Enter' && visible.length) visible[0].click();
  if (e.key === 'ArrowDown' && visible.length) visible[0].focus();
  if (e.key === 'Escape') {
    find.value = '';
    search();
  }
});
rows.addEventListener('keydown', (e) => {
  if (e.key !== 'ArrowDown' && e.key !== 'ArrowUp') return;
  const visible = [...rows.querySelectorAll('.stuff-row:not([hidden])')];
  const next = visible[visible.indexOf(document.activeElement) + (e.key === 'ArrowDown' ? 1 : -1)];
  e.preventDefault();
  (next ?? find).focus();
});
document.addEventListener('keydown', (e) => {
  if (e.key === '/' && !typing(e)) {
    e.preventDefault();
    find.focus();
  }
});

document.getElementById('make').addEventListener('click', () => editor.ask('POST', 'edit', { op: 'add-material', name: find.value.trim() }));

one.addEventListener('click', (e) => {
  const b = e.target.closest('[data-op]');
  if (b) editor.ask('POST', 'edit', { ...b.dataset });
});

// After an edit the address names the material, and a new value waits for text.
document.body.addEventListener('kettle:material', (e) => {
  history.replaceState(null, '', `?m=${encodeURIComponent(e.detail.name)}`);
  if (!nothing.hidden) {
    find.value = '';
  }
  search();
  rows.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest' });
  if (e.detail.focus) one.querySelector(`[data-place="${CSS.escape(e.detail.focus)}"]`)?.focus();
});

// Something else changed the model: fetch the material again.
let waiting;
document.body.addEventListener('htmx:sseMessage', (e) => {
  if (e.detail.type !== 'changed') return;
  clearTimeout(waiting);
  waiting = setTimeout(() => {
    if (Number(e.detail.data.split('/')[0]) !== head()) editor.refresh();
  }, 300);
});

const file = document.querySelector('#stuff-import input[type="file"]');
file.addEventListener('change', async () => {
  const answer = await fetch(file.form.action, { method: 'POST', body: new FormData(file.form), headers: { 'HX-Request': 'true' } });
  if (answer.ok) location.href = answer.url;
  else say(await answer.text());
  file.value = '';
});

const asked = new URLSearchParams(location.search).get('go');
if (asked) one.querySelector(`[data-place="${CSS.escape(asked)}"]`)?.focus();
rows.querySelector('[aria-current]')?.scrollIntoView({ block: 'center' });
