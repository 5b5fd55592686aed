// The plates: what a run has come to, in one pane, or two runs beside each other.

import { THREE, choose } from './scene.js';
import { Pane } from './pane.js';
import { Axis } from './axis.js';
import { Lines } from './lines.js';
import { nowhere, Scale } from './scale.js';
import { figures, typed } from './figures.js';
import { ask } from './packed.js';
import { say } from './page.js';
import { ask as askClash, seen, stamp } from './window.js';

const root = document.getElementById('plates'), brief = document.getElementById('brief');
const settings = document.getElementById('plate-config');
const config = settings && JSON.parse(settings.textContent);
const beside = config?.beside;
const looks = new Map(); // how parts are drawn that are not drawn as the others are, by their numbers
let panes = [], axis = null;

/** What is drawn of a difference: its own unit and ends, and nothing that is computed inside one run alone. */
async function difference() {
  const { run, unit, factor } = config.minus;
  const answer = await ask(`/runs/${config.run}/values`, { field: config.field, minus: run });
  let lo = Infinity, hi = -Infinity;
  for (const v of new Float32Array(await answer.arrayBuffer())) if (!Number.isNaN(v)) [lo, hi] = [Math.min(lo, v), Math.max(hi, v)];
  if (lo > hi) throw new Error('The two runs have the field nowhere together.');
  return {
    ...config, unit, factor, offset: 0, low: null, high: null, extent: [lo, hi], symbol: `Δ${config.symbol}`, look: { ...config.look, map: 'about zero', logarithmic: false },
    slices: [], levels: [], arrows: [], streams: [], probes: {}, greatest: null, least: null,
  };
}

async function load() {
  let drawing = config;
  try {
    if (config.minus) drawing = await difference();
  } catch (fault) {
    return say(fault.message);
  }
  const extents = [drawing, ...(beside ? [beside] : [])].map((c) => c.extent);
  for (const [part, how] of Object.entries(config.seen)) looks.set(Number(part), how);
  const shared = { seen: looks, edit: change, extents };
  const holder = document.getElementById('view');
  panes = [new Pane(drawing, holder, shared)];
  if (beside) panes.push(new Pane(beside, document.getElementById('view-beside'), shared));
  try {
    for (const p of panes) await p.load();
  } catch (fault) {
    return say(fault.message);
  }
  const [pane] = panes;
  if (beside) link();
  document.getElementById('bar').innerHTML = pane.scale.bar();
  pane.sections.watch(brief);
  const lines = new Lines({ pane, config, shown: (si) => (si - config.offset) / config.factor, moment: () => axis?.told() ?? '', edit: change }, brief);
  pane.onProbes = told;
  told(pane.probes);
  visibility();
  bent();
  axis = new Axis(panes, config, lines);
  panes.forEach(watch);
  document.documentElement.dataset.drawn = 'yes';
}

/** Views that are linked look the same way. */
function link() {
  let busy = false;
  for (const from of panes) {
    from.view.controls.addEventListener('change', () => {
      if (busy) return;
      busy = true;
      for (const to of panes) {
        if (to === from) continue;
        to.view.half = from.view.half;
        to.view.camera.position.copy(from.view.camera.position);
        to.view.camera.quaternion.copy(from.view.camera.quaternion);
        to.view.camera.zoom = from.view.camera.zoom;
        to.view.controls.target.copy(from.view.controls.target);
        to.view.resize();
        to.view.controls.update();
      }
      busy = false;
    });
  }
  const slider = document.getElementById('wipe');
  if (!slider) return;
  const wipe = () => { document.getElementById('view-beside').style.clipPath = `inset(0 0 0 ${slider.value / 10}%)`; };
  slider.addEventListener('input', wipe);
  wipe();
}

/** The parts, each of which can be pale or hidden; the plate keeps that. */
function visibility() {
  const list = document.getElementById('visibility');
  const parts = [...new Set(panes[0].surface.header.groups.map((g) => g.part))].sort((a, b) => a - b);
  for (const part of parts) {
    const li = document.createElement('li'), select = document.createElement('select');
    select.className = 'val seen';
    select.setAttribute('aria-label', `how ${config.parts[part]} is drawn`);
    for (const [how, words] of [['', 'drawn'], ['pale', 'pale'], ['hidden', 'hidden']]) select.append(new Option(words, how, false, (looks.get(part) ?? '') === how));
    select.addEventListener('change', async () => {
      if (select.value) looks.set(part, select.value);
      else looks.delete(part);
      panes.forEach((p) => p.apply());
      await edit({ op: 'see-part', id: config.plate, part: config.partIDs[part], how: select.value });
    });
    li.append(`${config.parts[part]} `, select);
    list.append(li);
  }
}

/** Says how many times the displacement the drawing is bent. */
function bent() {
  const out = document.getElementById('bent');
  const { factor } = panes[0].surface;
  if (out) out.textContent = factor ? `Drawn bent by ${figures(factor, 3)} times the displacement; what it was before is drawn in grey.` : '';
}

/** The values of the probes beside their sentences. */
function told(probes) {
  for (const p of probes) {
    const out = brief.querySelector(`[data-probe$="/${p.number}"] output`);
    if (out) out.textContent = p.value === null ? 'there is nothing here' : panes[0].scale.words(p.value);
  }
}

/** The value under the pointer; a double click pins a probe there. */
function watch(pane) {
  const out = document.getElementById('pointer');
  let waiting = false;
  pane.view.canvas.addEventListener('pointermove', (e) => {
    if (waiting || e.buttons) return;
    waiting = true;
    requestAnimationFrame(() => {
      waiting = false;
      const hit = pane.pick(e);
      if (!hit) {
        out.textContent = '–';
        return;
      }
      out.innerHTML = '<b class="fig"></b> <span></span>';
      out.firstChild.textContent = nowhere(hit.value) ? 'not here' : pane.scale.words(hit.value);
      out.lastChild.textContent = pane.config.parts[hit.part];
    });
  });
  pane.view.canvas.addEventListener('dblclick', (e) => {
    const hit = pane.surface.bending ? null : pane.pick(e); // where it is bent a place is another one
    if (hit) addProbe(hit.place);
  });
}

const words = (x) => (Math.abs(x) < 1e-9 ? '' : `${typed(x, 5)} ${config.length}`);

function addProbe(at) {
  const z = panes[0].surface.box.min.z === panes[0].surface.box.max.z ? '' : words(at.z);
  change({ op: 'add-probe', id: config.plate, x: words(at.x), y: words(at.y), z });
}

/** Saves what is in the frame with its colour bar as a PNG picture. */
function save() {
  const { view, scale } = panes[0];
  const w = view.canvas.width, h = view.canvas.height, sheet = document.createElement('canvas');
  sheet.width = w;
  sheet.height = h;
  const g = sheet.getContext('2d');
  g.fillStyle = '#fefdf9';
  g.fillRect(0, 0, w, h);
  view.renderer.render(view.scene, view.camera);
  g.drawImage(view.canvas, 0, 0);
  scale.paint(g, w, h, w / view.canvas.clientWidth);
  const picture = document.createElement('a');
  picture.href = sheet.toDataURL('image/png');
  picture.download = 'plate.png';
  picture.click();
}

if (config) {
  document.getElementById('save-png').addEventListener('click', save);
  choose('edges', (name) => panes.forEach((p) => { p.surface.edges = name; p.surface.apply(); }));
  choose('marks', (name) => panes.forEach((p) => { p.view.marksOff = p.marksHidden = name === 'off'; p.view.draw(); }));
  brief.addEventListener('click', (e) => {
    const [pane] = panes, { id } = e.target;
    if (!pane?.vectors) return;
    if (id === 'add-level') change({ op: 'add-level', id: config.plate, at: new Scale(config).typed(0.5) });
    else if (id === 'add-levels') {
      const scale = new Scale(config), texts = [1, 2, 3, 4, 5].map((i) => scale.typed(i / 6));
      change(new URLSearchParams([['op', 'add-level'], ['id', config.plate], ...texts.map((t) => ['at', t])]));
    } else if (id === 'add-probe') addProbe(pane.view.box.getCenter(new THREE.Vector3()));
    else if (e.target.dataset.addSlice) {
      const across = e.target.dataset.addSlice;
      change({ op: 'add-slice', id: config.plate, across, at: `${typed(pane.view.box.getCenter(new THREE.Vector3())[across], 3)} ${config.length}` });
    } else if (id === 'particles') {
      const on = e.target.getAttribute('aria-pressed') !== 'true';
      e.target.setAttribute('aria-pressed', on);
      panes.forEach((p) => p.vectors.run(on));
    }
  });
  document.getElementById('rest')?.addEventListener('click', (e) => {
    const on = e.target.getAttribute('aria-pressed') !== 'true';
    e.target.setAttribute('aria-pressed', on);
    panes.forEach((p) => p.rest.show(on));
  });
  load();
} else {
  document.documentElement.dataset.drawn = 'yes';
}

/** Sends an edit; of one that clashes with another window it is asked whether it is to be done. */
async function edit(values, from) {
  const answer = await fetch(`/models/${root.dataset.model}/edit`, {
    method: 'POST', headers: { 'HX-Request': 'true', ...stamp(from) }, body: new URLSearchParams(values) });
  if (answer.status === 409 && answer.headers.get('Content-Type').startsWith('application/json')) {
    const clash = await answer.json();
    return await askClash(clash, values.value) ? edit(values, { ...seen(), revision: clash.revision }) : answer;
  }
  if (!answer.ok) say(await answer.text());
  return answer;
}

/** Changes the model and shows the page as it is then. */
async function change(values) {
  const answer = await edit(values);
  if (answer.ok || answer.status === 409) location.reload();
}

// A setting of the plate was changed.
brief.addEventListener('change', (e) => {
  const place = e.target.dataset.place;
  if (place) change({ op: 'set', place, value: e.target.value });
});
brief.addEventListener('click', async (e) => {
  const button = e.target.closest('button[data-op]');
  if (!button) return;
  const operation = JSON.parse(button.dataset.op), answer = await edit(operation);
  if (!answer.ok) return;
  const here = new URL(location.href);
  if (operation.op === 'remove-plate') here.searchParams.delete('plate');
  const focus = JSON.parse(answer.headers.get('HX-Trigger-After-Swap') ?? '{}')['kettle:changed']?.focus ?? '';
  if (focus.startsWith('plates/')) here.searchParams.set('plate', focus.split('/')[1]);
  location.href = here;
});
document.body.addEventListener('htmx:sseMessage', (e) => {
  if (e.detail.type !== 'changed' || e.detail.data === root.dataset.state) return;
  const before = root.dataset.state.split('/'), now = e.detail.data.split('/'), status = now[2];
  root.dataset.state = e.detail.data;
  // A change of the model alone leaves the run that is shown.
  if (before[1] === now[1] && before[2] === now[2]) return;
  if (status && status !== 'queued' && status !== 'running') {
    const plate = new URLSearchParams(location.search).get('plate');
    location.href = location.pathname + (plate ? `?plate=${encodeURIComponent(plate)}` : '');
  }
});
