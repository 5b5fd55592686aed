// The sheet: draws the parts of the model, lights what the pointer is on, offers
// the sentences that can act on a surface, and keeps drawing and brief together.

import { Scene, THREE, choose } from './scene.js';
import { Editor } from './edit.js';
import { Lift } from './lift.js';
import { Offer } from './offer.js';
import { say, typing } from './page.js';

const sheet = document.getElementById('sheet');
const model = sheet.dataset.model;
const brief = document.getElementById('brief');
const under = document.getElementById('under');

let data = null; // the scene as the server tells it
let view = null;
let surfaces = []; // meshes, one for each side of a part
let mode = 'shaded';
let opened = null; // part whose dimensions are shown
const readings = new Set(); // those whose words are shown
const LIT = { 1: 0xb4d6d1, 2: 0x86bbb5 }; // under the pointer; chosen

async function load() {
  const answer = await fetch(`/models/${model}/drawing`);
  if (!answer.ok) return say('The drawing could not be fetched.');
  data = await answer.json();
  view ??= new Scene(data.scale, data.unit);
  Object.assign(view, { scale: data.scale, unit: data.unit });
  build();
}

/** Makes the meshes and lines of all parts. */
function build() {
  view.clear();
  surfaces = [];
  const box = new THREE.Box3();
  for (const part of data.parts) {
    const group = new THREE.Group();
    group.userData.part = part;
    part.sides.forEach((side, index) => {
      const mesh = sideMesh(part, side, index);
      if (mesh) {
        group.add(mesh);
        surfaces.push(mesh);
        mesh.geometry.computeBoundingBox();
        if (!part.shown || !data.parts.some((p) => !p.shown)) box.union(mesh.geometry.boundingBox);
      }
    });
    group.add(outline(part));
    view.scene.add(group);
  }
  if (box.isEmpty()) box.set(new THREE.Vector3(-50, -50, -50), new THREE.Vector3(50, 50, 50));
  style();
  view.setBox(box);
  view.controls.addEventListener('end', labels);
  view.onLook = labels;
  labels();
}

/** One side of a part, all its copies together. */
function sideMesh(part, side, index) {
  const k = data.scale;
  const position = [], copies = [];
  const push = (copy, ...points) => {
    for (const p of points) position.push(p[0] * k, p[1] * k, p[2] * k);
    copies.push(copy);
  };
  part.copies.forEach((body, copy) => {
    if (side.name === 'top' || side.name === 'bottom') {
      const [outer, ...holes] = body.loops.map((l) => l.points.map((p) => new THREE.Vector2(p[0], p[1])));
      const flat = [outer, ...holes].flat();
      for (const t of THREE.ShapeUtils.triangulateShape(outer, holes)) {
        const order = side.name === 'top' ? t : [t[0], t[2], t[1]];
        const z = side.name === 'top' ? body.z1 : body.z0;
        push(copy, ...order.map((i) => [flat[i].x, flat[i].y, z]));
      }
      return;
    }
    for (const loop of body.loops) {
      loop.points.forEach((p, i) => {
        if (loop.side[i] !== index) return;
        const q = loop.points[(i + 1) % loop.points.length];
        push(copy, [...p, body.z0], [...q, body.z0], [...q, body.z1]);
        push(copy, [...p, body.z0], [...q, body.z1], [...p, body.z1]);
      });
    }
  });
  if (!position.length) return null;
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(position, 3));
  geometry.setAttribute('color', new THREE.Float32BufferAttribute(tones(part, position), 3));
  const material = new THREE.MeshBasicMaterial({ vertexColors: true, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 });
  const mesh = new THREE.Mesh(geometry, material);
  mesh.userData = { part, side, copies, lit: 0 };
  return mesh;
}

/** The colour of each vertex: lightest upward, darker toward the sides. */
function tones(part, position) {
  const [top, front, right] = part.tones.map((t) => new THREE.Color(t));
  const out = [];
  const a = new THREE.Vector3(), b = new THREE.Vector3(), c = new THREE.Vector3(), colour = new THREE.Color();
  for (let i = 0; i < position.length; i += 9) {
    a.fromArray(position, i);
    b.fromArray(position, i + 3).sub(a);
    c.fromArray(position, i + 6).sub(a);
    b.cross(c).normalize();
    const side = Math.min(1, Math.max(0, 0.5 + 0.5 * (b.x * 0.8 - b.y * 0.35)));
    colour.copy(front).lerp(right, side).lerp(top, Math.max(0, b.z));
    for (let k = 0; k < 3; k++) out.push(colour.r, colour.g, colour.b);
  }
  return out;
}

function outline(part) {
  const k = data.scale, points = [];
  for (const body of part.copies) {
    for (const loop of body.loops) {
      loop.points.forEach((p, i) => {
        const q = loop.points[(i + 1) % loop.points.length];
        for (const z of [body.z0, body.z1]) points.push(p[0] * k, p[1] * k, z * k, q[0] * k, q[1] * k, z * k);
        if (loop.corner[i]) points.push(p[0] * k, p[1] * k, body.z0 * k, p[0] * k, p[1] * k, body.z1 * k);
      });
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
  const lines = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: part.shown ? 0x9a9a92 : 0x23292d, transparent: true, opacity: part.shown ? 0.55 : 1 }));
  lines.userData.outline = true;
  return lines;
}

/** Applies the way of drawing and what is lit. */
function style() {
  for (const mesh of surfaces) {
    const { part, lit } = mesh.userData;
    const m = mesh.material;
    const ghost = part.shown || mode === 'see-through';
    m.transparent = ghost || mode === 'lines';
    m.opacity = mode === 'lines' ? 0 : part.shown ? 0.1 : mode === 'see-through' ? 0.28 : 1;
    m.depthWrite = !ghost && mode !== 'lines';
    m.vertexColors = !lit;
    m.color.set(lit ? LIT[lit] : 0xffffff);
    if (lit) m.opacity = Math.max(m.opacity, 0.55);
    m.needsUpdate = true;
  }
}

// ---- Marks ----

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
        list.push({ at: a.clone().multiplyScalar(1 - u - v).addScaledVector(b, u).addScaledVector(c, v), area, mesh });
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
  const hit = sight.intersectObjects(surfaces.filter((m) => !m.userData.part.shown || m.userData.part === spot.mesh.userData.part), false)[0];
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
  const add = (label, list, prefer) => {
    const at = anchor(list, taken, prefer);
    if (!at) return;
    taken.push(at);
    view.labels.push({ ...label, anchor: at });
  };
  for (const f of data.flags) {
    add({ id: f.id, kind: 'flag', text: f.id, up: true }, spots(means(f), f.copy), (s) => (s.mesh.userData.side.name === 'top' ? 0.1 : 0));
  }
  for (const part of data.parts) {
    add({ id: part.id, kind: 'balloon', text: String(part.number) }, spots((u) => u.part === part, 0), (s) => (s.mesh.userData.side.name === 'top' ? 0 : 0.1));
  }
  view.draw();
}

// ---- Pointing and choosing ----

const ray = new THREE.Raycaster();

function pick(e) {
  if (!view) return null;
  const r = view.canvas.getBoundingClientRect();
  ray.setFromCamera(new THREE.Vector2((e.clientX - r.left) / r.width * 2 - 1, 1 - (e.clientY - r.top) / r.height * 2), view.camera);
  const hits = ray.intersectObjects(surfaces, false).filter((h) => !h.object.userData.part.shown);
  if (!hits.length) return null;
  const { part, side, copies } = hits[0].object.userData;
  return { mesh: hits[0].object, part, side, copy: copies[hits[0].faceIndex] + 1 };
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
  return ({ part, side }) => part.id === flag.part && (flag.side === '' || flag.side === '*' || side.name === flag.side);
}

let down = null;

function watchCanvas() {
  const canvas = document.getElementById('canvas');
  canvas.addEventListener('pointermove', (e) => {
    if (e.buttons || !view || !offer.hidden) return;
    const hit = pick(e);
    under.textContent = hit ? hit.side.words : '';
    light(({ part, side }) => hit && part === hit.part && side === hit.side);
    markSentences(hit);
  });
  canvas.addEventListener('pointerleave', () => {
    under.textContent = '';
    if (offer.hidden) light(() => false);
  });
  canvas.addEventListener('pointerdown', (e) => { down = [e.clientX, e.clientY]; });
  canvas.addEventListener('pointerup', (e) => {
    if (!down || Math.hypot(e.clientX - down[0], e.clientY - down[1]) > 4) return;
    const hit = pick(e);
    if (hit) {
      light((u) => u.part === hit.part && u.side === hit.side, 2);
      const within = data.flat && ['top', 'bottom'].includes(hit.side.name); // of a section
      offer.open({ ...hit, within }, e);
    }
    else closeOffer();
  });
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
  offer.close();
  if (view) light(() => false);
}

const editor = new Editor(brief, model, sheet);

function post(values) {
  return editor.ask('POST', 'edit', values);
}

const offer = new Offer(document.getElementById('offer'), brief, (kind, on) => post({ op: 'add-sentence', kind, on }), (part) => openPart(part, true));

// ---- The brief ----

/** Shows the dimensions of one part. */
function openPart(id, focus = false) {
  opened = id;
  for (const el of brief.querySelectorAll('.part')) {
    const open = el.dataset.part === id;
    el.classList.toggle('open', open);
    el.querySelector('.balloon').setAttribute('aria-expanded', String(open));
    if (open && focus) el.querySelector('.part-more .val')?.focus();
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
function go(place) {
  const parts = place.split('/');
  while (parts.length) {
    const at = parts.join('/');
    const el = brief.querySelector(`[data-place="${CSS.escape(at)}"]`) ?? [...brief.querySelectorAll('[data-place]')].find((f) => f.dataset.place.startsWith(at + '/'));
    if (el && parts.length > 1 || el && parts[0] === place) {
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
  const reading = e.target.closest('[data-open-reading]');
  if (reading) openReading(reading.dataset.openReading);
  const remove = e.target.closest('[data-remove]');
  if (remove) post({ op: 'remove-sentence', section: remove.dataset.section, id: remove.dataset.remove });
});

sheet.addEventListener('click', (e) => {
  const to = e.target.closest('[data-goto]');
  if (to) go(to.dataset.goto);
  if (e.target.closest('[data-close]')) closeOffer();
});

// A drawing that is chosen becomes parts; the answer says what was left out.
brief.addEventListener('change', async (e) => {
  const form = e.target.closest('#trace');
  if (!form || e.target.type !== 'file' || !e.target.files.length) return;
  const answer = await fetch(form.action, { method: 'POST', body: new FormData(form), headers: { 'HX-Request': 'true' } });
  say(await answer.text());
  form.reset();
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

document.addEventListener('keydown', (e) => {
  if (e.key === 'Escape') closeOffer();
  if (typing(e) || !(e.ctrlKey || e.metaKey)) return;
  const key = e.key.toLowerCase();
  if (key === 'z' || key === 'y') {
    e.preventDefault();
    editor.ask('POST', key === 'y' || e.shiftKey ? 'redo' : 'undo');
  }
});

document.body.addEventListener('kettle:changed', (e) => {
  editor.showPending();
  brief.dataset.state = document.getElementById('brief-state')?.dataset.state ?? brief.dataset.state;
  openPart(opened);
  showReadings();
  load();
  const focus = e.detail?.focus;
  if (focus) {
    if (focus.startsWith('parts/')) openPart(focus.split('/')[1]);
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
    if (e.detail.data !== brief.dataset.state) editor.ask('GET', 'brief');
  }, 300);
});

choose('draw', (name) => { mode = name; style(); view.draw(); });
choose('marks', (name) => { view.marksOff = name === 'off'; view.draw(); });
watchCanvas();
load().then(() => { document.documentElement.dataset.drawn = 'yes'; });
