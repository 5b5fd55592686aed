// The sheet: draws the parts of the model, lights what the pointer is on, offers
// the sentences that can act on a surface, and keeps drawing and brief together.

import { build as buildDevice, style as styleDevice } from './device.js';
import { MeshLook } from './meshlook.js';
import { Scene, THREE, choose } from './scene.js';
import { Tools } from './tools.js';
import { fillChoices } from './choices.js';
import { Editor } from './edit.js';
import { Lift } from './lift.js';
import { Light } from './light.js';
import { Line } from './line.js';
import { Offer } from './offer.js';
import { Chosen } from './chosen.js';
import { say, typing } from './page.js';
import { done, stamp } from './window.js';
import { withTriangles } from './step.js';

const sheet = document.getElementById('sheet');
const model = sheet.dataset.model;
const brief = document.getElementById('brief');
const under = document.getElementById('under');

let data = null; // the scene as the server tells it
let seen = ''; // the same as text
let view = null;
let device = null; // its meshes and lines
let surfaces = []; // meshes, one for each side of a part
let mode = 'shaded';
let opened = null; // part whose dimensions are shown
let last = null; // click
const readings = new Set(); // those whose words are shown
const hidden = new Set(); // ids of parts that are not drawn
const look = new MeshLook(model);

async function load() {
  const answer = await fetch(`/models/${model}/drawing`);
  if (!answer.ok) return say('The drawing could not be fetched.');
  const text = await answer.text();
  if (text === seen) return; // what is chosen stays chosen when a run ends
  seen = text;
  data = JSON.parse(text);
  view ??= new Scene(data.scale, data.unit);
  Object.assign(view, { scale: data.scale, unit: data.unit });
  build();
}

/** Draws the device anew. */
function build() {
  view.clear();
  device = buildDevice(data, view.scene);
  surfaces = device.surfaces;
  last = null;
  look.device = data;
  look.attach(view);
  style();
  view.setBox(device.box, data.flat ? 'top' : 'corner');
  view.controls.addEventListener('end', labels);
  view.onLook = labels;
  tools.refresh();
  labels();
}

function style() {
  styleDevice(device, mode, hidden);
  look.show(mode === 'mesh', hidden);
}

// ---- Marks ----

/** Whether a point of a surface is on the side of all cuts that stays. */
function stays(mesh, point) {
  return mesh.material.clippingPlanes.every((p) => p.distanceToPoint(point) >= -1e-6);
}

/** Points spread over the surfaces of a part that a patch means, with the copy each is on. */
function spots(wanted, copy) {
  const list = [];
  const a = new THREE.Vector3(), b = new THREE.Vector3(), c = new THREE.Vector3();
  for (const mesh of surfaces) {
    if (!wanted(mesh.userData)) continue;
    const p = mesh.geometry.attributes.position, n = p.count / 3;
    const step = Math.max(1, Math.floor(n / 40));
    for (let i = 0; i < n; i += step) {
      if (copy && mesh.userData.copies[i] !== copy - 1) continue;
      a.fromBufferAttribute(p, 3 * i);
      b.fromBufferAttribute(p, 3 * i + 1);
      c.fromBufferAttribute(p, 3 * i + 2);
      const area = b.clone().sub(a).cross(c.clone().sub(a)).length();
      for (const [u, v] of [[0.46, 0.46], [0.47, 0.05], [0.05, 0.47], [0.33, 0.33], [0.75, 0.12], [0.12, 0.75], [0.1, 0.1], [0.7, 0.27], [0.27, 0.7]]) {
        const at = a.clone().multiplyScalar(1 - u - v).addScaledVector(b, u).addScaledVector(c, v);
        if (stays(mesh, at)) list.push({ at, area, mesh });
      }
    }
  }
  return list;
}

const sight = new THREE.Raycaster();

/** Whether a point of a surface is in sight, and not behind another one. */
function inSight(spot) {
  const back = view.camera.getWorldDirection(new THREE.Vector3()).negate();
  const far = view.box.getSize(new THREE.Vector3()).length() * 3;
  sight.set(spot.at.clone().addScaledVector(back, far), back.clone().negate());
  const hit = sight.intersectObjects(surfaces.filter((m) => m.visible && (!m.userData.part.shown && !m.userData.part.clear || m.userData.part === spot.mesh.userData.part)), false).find((h) => stays(h.object, h.point));
  return hit && hit.object.userData.part === spot.mesh.userData.part && Math.abs(hit.distance - far) < far * 1e-4;
}

/** The best place for the end of a leader: in sight, on a large face, away from the others. */
function anchor(list, taken, prefer) {
  const size = view.box.getSize(new THREE.Vector3()).length();
  let best = null;
  for (const s of list) {
    const away = Math.min(0.25 * size, ...taken.map((t) => t.distanceTo(s.at)));
    s.score = away / size + 0.05 * Math.log10(s.area + 1e-9) + prefer(s);
  }
  list.sort((p, q) => q.score - p.score);
  for (const s of list.slice(0, 400)) {
    if (inSight(s)) {
      best = s;
      break;
    }
  }
  return best?.at;
}

/** Gives every balloon and flag the place that it points at, as seen from here. */
function labels() {
  if (!data || !view) return;
  view.camera.updateMatrixWorld();
  const taken = [];
  view.labels = [];
  if (mode === 'mesh') return view.draw();
  const add = (label, list, prefer) => {
    const at = anchor(list, taken, prefer);
    if (!at) return;
    taken.push(at);
    view.labels.push({ ...label, anchor: at });
  };
  for (const f of data.flags) {
    if (f.on.every((o) => hidden.has(o.part))) continue;
    add({ id: f.id, kind: 'flag', text: f.id, up: true }, spots(means(f), f.on[0].copy), (s) => (s.mesh.userData.side.name === 'top' ? 0.1 : 0));
  }
  for (const part of data.parts) {
    if (hidden.has(part.id)) continue;
    add({ id: part.id, kind: 'balloon', text: String(part.number) }, spots((u) => u.part === part, 0), (s) => (s.mesh.userData.side.name === 'top' ? 0 : 0.1));
  }
  view.draw();
}

// ---- Pointing and choosing ----

const ray = new THREE.Raycaster();

/** What lies under a place of the window, the nearest first; what one sees through comes last. */
function hitsAt(e) {
  if (!view || mode === 'mesh') return [];
  const r = view.canvas.getBoundingClientRect();
  ray.setFromCamera(new THREE.Vector2((e.clientX - r.left) / r.width * 2 - 1, 1 - (e.clientY - r.top) / r.height * 2), view.camera);
  const list = ray.intersectObjects(surfaces, false).filter((h) => !h.object.userData.part.shown && h.object.visible && stays(h.object, h.point)).map((h) => {
    const { part, side, copies } = h.object.userData;
    return { mesh: h.object, part, side, copy: copies[h.faceIndex] + 1, point: h.point, normal: h.face.normal };
  });
  return [...list.filter((h) => !h.part.clear), ...list.filter((h) => h.part.clear)];
}

function pick(e) {
  const list = hitsAt(e);
  return list[0] ?? (data?.flat ? edgeNear(e) : null);
}

/** In a section the edge that is within a few pixels of the pointer. */
function edgeNear(e) {
  const r = view.canvas.getBoundingClientRect();
  const at = { x: e.clientX - r.left, y: e.clientY - r.top };
  let best = null;
  for (const mesh of surfaces) {
    const { part, side, copies } = mesh.userData;
    if (part.shown || !mesh.visible || side.name === 'top' || side.name === 'bottom') continue;
    const p = mesh.geometry.attributes.position;
    for (let i = 0; i < p.count; i += 6) {
      const a = new THREE.Vector3().fromBufferAttribute(p, i), b = new THREE.Vector3().fromBufferAttribute(p, i + 1);
      const u = view.project(a), w = view.project(b);
      const l2 = (w.x - u.x) ** 2 + (w.y - u.y) ** 2 || 1;
      const t = Math.min(1, Math.max(0, ((at.x - u.x) * (w.x - u.x) + (at.y - u.y) * (w.y - u.y)) / l2));
      const d = Math.hypot(u.x + t * (w.x - u.x) - at.x, u.y + t * (w.y - u.y) - at.y);
      if (d < (best?.d ?? 7)) {
        const normal = new THREE.Vector3(b.y - a.y, a.x - b.x, 0).normalize();
        best = { d, mesh, part, side, copy: copies[i / 3] + 1, point: a.lerp(b, t), normal };
      }
    }
  }
  return best;
}

/** Lights the surfaces for which test is true. */
function light(test, strength = 1) {
  let changed = false;
  for (const mesh of surfaces) {
    const lit = test(mesh.userData) ? strength : 0;
    changed ||= lit !== mesh.userData.lit;
    mesh.userData.lit = lit;
  }
  if (changed) {
    style();
    view.draw();
  }
}

function means(flag) {
  return ({ part, side }) => flag.on.some((o) => part.id === o.part && !hidden.has(o.part) && (o.side === '' || o.side === '*' || side.name === o.side));
}

let down = null;

function watchCanvas() {
  const canvas = document.getElementById('canvas');
  canvas.addEventListener('pointermove', (e) => {
    if (e.buttons || !view || !offer.hidden || tools.busy || tools.chosen.length) return;
    const hit = data.flat ? edgeNear(e) ?? pick(e) : pick(e);
    under.textContent = hit ? hit.side.words : '';
    light(({ part, side }) => hit && part === hit.part && side === hit.side);
    markSentences(hit);
  });
  canvas.addEventListener('pointerleave', () => {
    if (tools.chosen.length) return;
    under.textContent = '';
    if (offer.hidden) light(() => false);
  });
  canvas.addEventListener('pointerdown', (e) => { down = [e.clientX, e.clientY]; });
  canvas.addEventListener('pointerup', (e) => {
    if (!down || Math.hypot(e.clientX - down[0], e.clientY - down[1]) > 4 || e.shiftKey) return;
    const list = hitsAt(e);
    const near = data.flat && edgeNear(e);
    if (near) list.unshift(near);
    if (tools.measuring) return tools.measure(list[0] ?? null);
    // A second click at the same place means the next one behind.
    const again = last && Math.hypot(e.clientX - last.x, e.clientY - last.y) < 3;
    const depth = again && list.length ? (last.depth + 1) % list.length : 0;
    last = { x: e.clientX, y: e.clientY, depth };
    chooseSurface(list[depth] ?? null, e);
  });
}

/** Chooses a surface: it is lit, offered sentences, and can be drawn out. */
function chooseSurface(hit, e) {
  if (!hit) return closeOffer();
  light((u) => u.part === hit.part && u.side === hit.side, 2);
  const within = data.flat && ['top', 'bottom'].includes(hit.side.name); // of a section
  tools.face(within ? null : hit);
  offer.open({ ...hit, within }, e);
}

/** Marks the sentences that speak of what the pointer is on. */
function markSentences(hit) {
  for (const el of brief.querySelectorAll('[data-sentence], [data-part]')) {
    const flag = data.flags.find((f) => f.id === el.dataset.sentence);
    const on = hit && (el.dataset.part ? el.dataset.part === hit.part.id : flag && means(flag)({ part: hit.part, side: hit.side }));
    el.classList.toggle('lit', Boolean(on));
  }
}

function closeOffer() {
  last = null;
  offer.close();
  tools.clear();
  if (view) light(() => false);
}

const state = () => document.getElementById('brief-state')?.dataset.state ?? '';
/** What the page shows: an answer carries only what differs. */
const showing = (whole) => ({ 'Kettle-State': whole ? '' : state(), 'Kettle-Open': detailed() });
const editor = new Editor(brief, model, sheet, { headers: showing });
fillChoices(brief, model);

function post(values) {
  return editor.ask('POST', 'edit', values);
}

const offer = new Offer(document.getElementById('offer'), brief, (kind, on) => post({ op: 'add-sentence', kind, on }), (part) => openPart(part, true), act,
  () => data?.flags ?? [], ({ sentence, section, patch, on }) => post({ op: `patch-${patch}`, id: sentence, section, on }));

/** What the offer does besides sentences: finer cells, hide, move. */
function act(name, { part, on }) {
  if (name === 'finer') post({ op: 'add-near', on });
  if (name === 'layers') post({ op: 'add-wall', on });
  if (name === 'hide') hide([part]);
  if (name === 'move') tools.parts([part]);
}

/** Takes parts out of sight; with none, all come back. */
function hide(ids) {
  if (ids.length) {
    ids.forEach((id) => hidden.add(id));
    tools.clear(); // what is hidden is not chosen: a drawing that comes in later says so no more
  } else hidden.clear();
  under.textContent = hidden.size ? `${hidden.size} hidden; press A to show all` : '';
  if (!view) return;
  style();
  labels();
}

const tools = new Tools({ get view() { return view; }, get data() { return data; }, get surfaces() { return surfaces; }, get hidden() { return hidden; },
  post, under, light, hide, hitsAt, choose: chooseSurface, chosen: (ids) => chosen.show(ids), lift: (place) => editor.ask('POST', 'edit', { op: 'lift', place }) });

const chosen = new Chosen({ post, hide, choose: (ids) => (ids.length ? tools.parts(ids) : closeOffer()), parts: () => data?.parts ?? [] }, brief);

// ---- The brief ----

/** The part whose details are on the page, '' for none. */
const detailed = () => [...brief.querySelectorAll('.part-more')].find((el) => el.childElementCount)?.closest('.part').dataset.part ?? '';

/** Shows the dimensions of one part; they are fetched if they are not here. */
async function openPart(id, focus = false) {
  opened = id;
  if (id) folded.delete(brief.querySelector(`.part[data-part="${CSS.escape(id)}"]`)?.dataset.group);
  showOpened();
  const el = id && brief.querySelector(`.part[data-part="${CSS.escape(id)}"]`);
  const more = el?.querySelector('.part-more');
  if (more && !more.childElementCount) {
    await editor.after(async () => {
      if (opened !== id || more.childElementCount) return;
      const answer = await fetch(`/models/${model}/parts/${encodeURIComponent(id)}`, { headers: { 'HX-Request': 'true', ...showing() } });
      if (!answer.ok) return say(await answer.text());
      const before = detailed();
      if (before) document.getElementById(`more-${before}`).replaceChildren();
      more.innerHTML = await answer.text();
    });
  }
  if (focus && opened === id) more?.querySelector('.val')?.focus();
}

/** Groups of parts whose rows are folded away. */
const folded = new Set();

/** Sections of the brief that are folded away, as long as this window is open. */
const away = new Set(JSON.parse(sessionStorage.getItem(`folded ${model}`) ?? '[]'));

function showSections() {
  sessionStorage.setItem(`folded ${model}`, JSON.stringify([...away]));
  for (const button of brief.querySelectorAll('[data-fold-section]')) {
    const folded = away.has(button.dataset.foldSection);
    button.setAttribute('aria-expanded', String(!folded));
    button.closest('.sec').classList.toggle('folded-away', folded);
  }
}
showSections();

function showOpened() {
  for (const el of brief.querySelectorAll('.part[data-group]')) {
    const away = folded.has(el.dataset.group);
    el.classList.toggle('folded', away);
    el.querySelector('.group-head')?.setAttribute('aria-expanded', String(!away));
  }
  for (const el of brief.querySelectorAll('.part')) {
    const open = el.dataset.part === opened;
    el.classList.toggle('open', open);
    el.querySelector('.balloon').setAttribute('aria-expanded', String(open));
  }
}

/** Shows or hides the words of a reading. */
function openReading(id, open = !readings.has(id)) {
  if (open) readings.add(id);
  else readings.delete(id);
  showReadings();
}

function showReadings() {
  for (const el of brief.querySelectorAll('.reading')) {
    const open = readings.has(el.dataset.sentence);
    el.classList.toggle('open', open);
    el.querySelector('.flag').setAttribute('aria-expanded', String(open));
  }
}

/** Takes the user to a place of the model. */
async function go(place) {
  const parts = place.split('/');
  if (parts[0] === 'parts' && parts.length > 2 && !['name', 'material', 'role'].includes(parts[2])) await openPart(parts[1]);
  if (parts[0] === 'materials') {
    // The details of a part that is made of it have what its physics uses.
    const part = [...brief.querySelectorAll('.part')].find((el) => el.querySelector('[data-place$="/material"]').value === parts[1]);
    if (part) await openPart(part.dataset.part);
  }
  while (parts.length) {
    const at = parts.join('/');
    const el = brief.querySelector(`[data-place="${CSS.escape(at)}"]`) ?? [...brief.querySelectorAll('[data-place]')].find((f) => f.dataset.place.startsWith(at + '/'));
    if (el && parts.length > 1 || el && parts[0] === place) {
      away.delete(el.closest('.sec')?.querySelector('[data-fold-section]')?.dataset.foldSection);
      showSections();
      const part = el.closest('.part-more')?.closest('.part');
      if (part) openPart(part.dataset.part);
      if (parts[0] === 'readings') openReading(parts[1], true);
      el.scrollIntoView({ block: 'center' });
      el.focus();
      el.select?.();
      return;
    }
    parts.pop();
  }
  const [group, material] = place.split('/');
  if (group === 'materials') {
    location.href = `/models/${model}/materials?m=${encodeURIComponent(material)}&go=${encodeURIComponent(place)}`;
    return;
  }
  if (group === 'trials') {
    location.href = `/models/${model}/trials?set=${encodeURIComponent(material ?? '')}`;
    return;
  }
  const names = { parts: 1, physics: 2, conditions: 3, readings: 6 };
  const section = brief.querySelectorAll('.sec')[names[place] ?? 0];
  section.scrollIntoView({ block: 'center' });
  section.querySelector('summary')?.focus();
}

brief.addEventListener('click', (e) => {
  const op = e.target.closest('[data-op]');
  if (op) editor.ask('POST', op.dataset.path ?? 'edit', JSON.parse(op.dataset.op));
  const open = e.target.closest('[data-open]');
  if (open) openPart(opened === open.dataset.open ? null : open.dataset.open);
  const fold = e.target.closest('[data-fold]')?.dataset.fold;
  if (fold !== undefined) {
    if (!folded.delete(fold)) folded.add(fold);
    showOpened();
  }
  const section = e.target.closest('[data-fold-section]')?.dataset.foldSection;
  if (section) {
    if (!away.delete(section)) away.add(section);
    showSections();
  }
  const reading = e.target.closest('[data-open-reading]');
  if (reading) openReading(reading.dataset.openReading);
  const note = e.target.closest('[data-note]');
  if (note) writeNote(note.dataset.note);
  const remove = e.target.closest('[data-remove]');
  if (remove) post({ op: 'remove-sentence', section: remove.dataset.section, id: remove.dataset.remove });
});

/** Shows the note of a sentence, to be written. */
function writeNote(place) {
  const field = brief.querySelector(`[data-place="${CSS.escape(place)}"]`);
  if (place.startsWith('readings/')) openReading(place.split('/')[1], true);
  field.closest('.note-line').hidden = false;
  field.focus();
}

sheet.addEventListener('click', (e) => {
  const to = e.target.closest('[data-goto]');
  if (to) go(to.dataset.goto);
  if (e.target.closest('[data-close]')) closeOffer();
});

// A drawing that is chosen becomes parts; the answer says what was left out.
brief.addEventListener('change', async (e) => {
  const form = e.target.closest('#trace');
  if (!form || e.target.type !== 'file' || !e.target.files.length) return;
  const values = new FormData(form), name = e.target.files[0].name;
  form.reset();
  const ticket = new AbortController();
  say(`${name} is being read.`, () => ticket.abort());
  let answer, words;
  try {
    await withTriangles(values);
    answer = await fetch(form.action, { method: 'POST', body: values, headers: { 'HX-Request': 'true', ...stamp() }, signal: ticket.signal });
    words = await answer.text();
  } catch (fault) {
    return ticket.signal.aborted || say(fault.message);
  }
  done((name) => answer.headers.get(name));
  say(words);
  if (answer.ok) form.closest('details').open = false;
});

// Hovering a sentence, or being in one, lights its surface.
for (const event of ['pointerover', 'focusin']) {
  brief.addEventListener(event, (e) => {
    if (!data || !view) return;
    const s = e.target.closest('[data-sentence]'), p = e.target.closest('[data-part]');
    const flag = s && data.flags.find((f) => f.id === s.dataset.sentence);
    if (flag) light(means(flag));
    else if (p) light(({ part }) => part.id === p.dataset.part);
    else light(() => false);
  });
}
brief.addEventListener('pointerleave', () => view && light(() => false));

// An input is as wide as what is in it where the browser cannot do that itself.
if (!CSS.supports('field-sizing', 'content')) {
  brief.addEventListener('input', (e) => { if (e.target.matches('input.val')) e.target.size = Math.max(e.target.value.length, 1); });
}

// A value that one is in can be made a parameter in one gesture.
new Lift(brief, editor);
const runs = new Light(model);
new Line(brief, { post, set: (place, value) => editor.set(place, value), go, open: (id) => openPart(id, true) });

document.addEventListener('keydown', (e) => {
  if (e.key === 'Escape') {
    tools.end();
    closeOffer();
  }
  if (typing(e) || !(e.ctrlKey || e.metaKey)) return;
  const key = e.key.toLowerCase();
  if (key === 'z' || key === 'y') {
    e.preventDefault();
    editor.ask('POST', key === 'y' || e.shiftKey ? 'redo' : 'undo');
  }
});

document.body.addEventListener('kettle:changed', (e) => {
  editor.showPending();
  showOpened();
  showReadings();
  showSections();
  chosen.mark();
  load();
  look.stale();
  runs.changed();
  const focus = e.detail?.focus;
  if (focus) {
    if (e.detail.open) opened = e.detail.open;
    showOpened();
    go(focus);
  }
});

// Something else changed the model, or a run ended: fetch the brief again. The
// answer to an edit of our own comes at about the same time and says it too.
let waiting;
document.body.addEventListener('htmx:sseMessage', (e) => {
  if (e.detail.type !== 'changed') return;
  clearTimeout(waiting);
  waiting = setTimeout(() => {
    if (e.detail.data !== state()) editor.refresh();
    runs.changed();
  }, 300);
});

choose('draw', (name) => { mode = name; closeOffer(); style(); labels(); });
choose('marks', (name) => { view.marksOff = name === 'off'; view.draw(); });
watchCanvas();
load().then(() => { document.documentElement.dataset.drawn = 'yes'; });
