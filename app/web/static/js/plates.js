// The plates: the field of a run on the surfaces of the parts, with a colour bar,
// the value under the pointer and the places of the extremes.

import { Scene, THREE, choose } from './scene.js';
import { colourAt, ramp } from './colours.js';
import { escaped, say } from './page.js';
import { Slices } from './slices.js';
import { Lines } from './lines.js';
import { ask as askClash, seen, stamp } from './window.js';

const root = document.getElementById('plates');
const settings = document.getElementById('plate-config');
const config = settings && JSON.parse(settings.textContent);

let view, header, values, sets, triangles, material, slices, lines;
let extremes = [];
let range = [0, 1];
let show; // a moment
let edges = 'outlines';
const hidden = new Set();
const groups = []; // { mesh, outlines, edges, info }

const shown = (si) => (si - config.offset) / config.factor;
const NOWHERE = -1e30; // in place of a value where the field is not

/** Prints a number with four figures. */
function figures(x, digits = 4) {
  if (!Number.isFinite(x)) return '–';
  if (x === 0) return '0';
  const places = Math.max(0, digits - 1 - Math.floor(Math.log10(Math.abs(x))));
  return x.toFixed(Math.min(places, 8)).replace('-', '−');
}

async function load() {
  const answer = await fetch(`/runs/${config.run}/surface?of=${config.token}`, { headers: { 'HX-Request': 'true' } });
  if (!answer.ok) return say(await answer.text() || 'The result could not be fetched.');
  read(await answer.arrayBuffer());
  view = new Scene(config.scale, config.length);
  build();
  slices = new Slices({ view, material, config, groups, hidden, nowhere: NOWHERE, redraw: () => view.draw(), cut: sight, middle, edit: change });
  slices.watch(document.getElementById('brief'));
  lines = new Lines({ view, config, figures, shown, edit: change }, document.getElementById('brief'));
  setRange();
  drawBar();
  visibility();
  moments();
  watch();
  document.documentElement.dataset.drawn = 'yes';
}

let positions, outlineIndex, edgeIndex;

/** Takes the surface file apart. */
function read(buffer) {
  const length = new DataView(buffer).getUint32(0, true);
  header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
  let at = 4 + length;
  const take = (Type, n) => {
    const list = new Type(buffer, at, n);
    at += 4 * n;
    return list;
  };
  const c = header.counts;
  positions = take(Float32Array, 3 * c.vertices);
  // For each moment the values of each field; the plate shows one of the fields.
  const fields = header.fields ?? [{ name: config.field }];
  const at0 = Math.max(0, fields.findIndex((f) => f.name === config.field));
  sets = (header.moments ?? [0]).map(() => fields.map(() => take(Float32Array, c.vertices))[at0]);
  for (const list of sets) list.forEach((v, i) => { if (Number.isNaN(v)) list[i] = NOWHERE; });
  values = sets[sets.length - 1];
  triangles = take(Uint32Array, 3 * c.triangles);
  outlineIndex = take(Uint32Array, 2 * c.outlines);
  edgeIndex = take(Uint32Array, 2 * c.edges);
}

// The colour is looked up for each pixel, so that bands follow the field and not
// the corners of the triangles; a face turned aside is a little darker.
const vertexShader = `
  attribute float value;
  varying float v;
  varying vec3 p;
  void main() {
    v = value;
    p = position;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }`;
const fragmentShader = `
  uniform sampler2D scale;
  uniform vec2 range;
  uniform vec4 planes[6];
  uniform float opacity;
  varying float v;
  varying vec3 p;
  void main() {
    for (int i = 0; i < 6; i++) if (dot(planes[i].xyz, p) > planes[i].w) discard;
    float t = clamp((v - range.x) / max(range.y - range.x, 1e-12), 0.0, 1.0);
    vec3 n = normalize(cross(dFdx(p), dFdy(p)));
    float shade = 0.88 + 0.12 * abs(n.z) - 0.05 * abs(n.x);
    if (v < -1e29) {
      gl_FragColor = vec4(vec3(0.85, 0.83, 0.78) * shade, opacity);
      return;
    }
    gl_FragColor = vec4(texture2D(scale, vec2(t * 0.998 + 0.001, 0.5)).rgb * shade, opacity);
  }`;

function build() {
  const scaled = positions.map((x) => x * config.scale);
  const position = new THREE.BufferAttribute(scaled, 3);
  const value = new THREE.BufferAttribute(values.slice(), 1);
  show = (moment) => {
    values = sets[moment];
    value.array.set(values);
    value.needsUpdate = true;
    view.draw();
  };
  const texture = new THREE.DataTexture(ramp(256), 256, 1);
  texture.minFilter = texture.magFilter = THREE.LinearFilter;
  texture.needsUpdate = true;
  material = new THREE.ShaderMaterial({
    vertexShader, fragmentShader, side: THREE.DoubleSide,
    uniforms: { scale: { value: texture }, range: { value: new THREE.Vector2(0, 1) }, planes: { value: Array.from({ length: 6 }, () => new THREE.Vector4(0, 0, 0, 1)) }, opacity: { value: 1 } },
    polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1,
  });
  const box = new THREE.Box3();
  const lines = (index, from, count, colour, opacity) => {
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', position);
    g.setIndex(new THREE.BufferAttribute(index.slice(2 * from, 2 * (from + count)), 1));
    return new THREE.LineSegments(g, new THREE.LineBasicMaterial({ color: colour, transparent: true, opacity }));
  };
  for (const info of header.groups) {
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', position);
    g.setAttribute('value', value);
    g.setIndex(new THREE.BufferAttribute(triangles.slice(3 * info.first, 3 * (info.first + info.count)), 1));
    const mesh = new THREE.Mesh(g, material);
    mesh.userData = info;
    mesh.frustumCulled = false;
    const outlines = lines(outlineIndex, ...info.outlines, 0x23292d, 0.85);
    const mesh2 = lines(edgeIndex, ...info.edges, 0x23292d, 0.28);
    outlines.frustumCulled = mesh2.frustumCulled = false;
    for (let i = 3 * info.first; i < 3 * (info.first + info.count); i++) {
      box.expandByPoint(new THREE.Vector3().fromArray(scaled, 3 * triangles[i]));
    }
    view.scene.add(mesh, outlines, mesh2);
    groups.push({ mesh, outlines, edges: mesh2, info });
  }
  apply();
  view.setBox(box, box.min.z === box.max.z ? 'top' : 'corner'); // a section is seen from above
  marks();
}

/** Shows and hides groups and lines. Inner facets are seen where a part is hidden. */
function apply() {
  for (const g of groups) {
    const on = !hidden.has(g.info.part) && (!g.info.inner || hidden.size > 0);
    g.mesh.visible = on;
    g.outlines.visible = on && edges === 'outlines';
    g.edges.visible = on && edges === 'mesh';
  }
  slices?.show();
  view.draw();
}

function setRange() {
  let lo = Infinity, hi = -Infinity;
  // One scale for all moments.
  for (const list of sets) {
    for (const v of list) {
      if (v === NOWHERE) continue;
      lo = Math.min(lo, v);
      hi = Math.max(hi, v);
    }
  }
  range = [config.low ?? lo, config.high ?? hi];
  if (range[0] >= range[1]) range[1] = range[0] + 1;
  material.uniforms.range.value.set(...range);
}

/** The middle of the range, with the unit of the plate. */
function middle() {
  return `${figures(shown((range[0] + range[1]) / 2)).replace('−', '-')} ${config.unit}`;
}

/** The colour bar: dark at its foot, with the ends and four values between. */
function drawBar() {
  const bar = document.getElementById('bar');
  const h = 320, steps = 64;
  let rects = '';
  for (let i = 0; i < steps; i++) {
    const y = h - (i + 1) * h / steps;
    rects += `<rect x="70" y="${y}" width="15" height="${h / steps + 0.6}" fill="${colourAt((i + 0.5) / steps)}"/>`;
  }
  let text = '';
  for (let i = 0; i <= 5; i++) {
    const y = h - i * h / 5;
    const v = shown(range[0] + (range[1] - range[0]) * i / 5);
    text += `<text x="62" y="${y + 4}" text-anchor="end">${figures(v)}</text><line x1="66" x2="70" y1="${y}" y2="${y}"/>`;
  }
  bar.innerHTML = `<svg viewBox="0 -26 92 ${h + 36}"><text x="85" y="-12" text-anchor="end">${escaped(config.symbol)}, ${escaped(config.unit)}</text>${rects}<rect x="70" y="0" width="15" height="${h}" fill="none" stroke="#23292d" stroke-width="0.6"/>${text}</svg>`;
}

function marks() {
  if (!config.greatest) return;
  const at = (p) => new THREE.Vector3(...p).multiplyScalar(config.scale);
  extremes = [
    { id: 'max', kind: 'flag', text: 'max', anchor: at(config.greatest) },
    { id: 'min', kind: 'flag', text: 'min', anchor: at(config.least) },
  ];
  view.controls.addEventListener('end', sight);
  view.onLook = sight;
  sight();
}

/** Marks of extremes that are hidden by the device get a hollow dot; what is cut away has none. */
function sight() {
  view.labels = [...extremes.filter((l) => !slices || slices.stays(l.anchor)), ...view.labels.filter((l) => l.way)];
  const back = view.camera.getWorldDirection(new THREE.Vector3()).negate();
  const far = 3 * view.box.getSize(new THREE.Vector3()).length();
  const ray = new THREE.Raycaster();
  const meshes = groups.filter((g) => g.mesh.visible).map((g) => g.mesh);
  for (const l of view.labels) {
    ray.set(l.anchor.clone().addScaledVector(back, far), back.clone().negate());
    const hit = ray.intersectObjects(meshes, false).find((h) => !slices || slices.stays(h.point));
    l.behind = Boolean(hit && hit.distance < far * (1 - 2e-3));
  }
  view.draw();
}

function visibility() {
  const list = document.getElementById('visibility');
  const parts = [...new Set(header.groups.map((g) => g.part))].sort((a, b) => a - b);
  for (const part of parts) {
    const li = document.createElement('li');
    const label = document.createElement('label');
    const box = document.createElement('input');
    box.type = 'checkbox';
    box.checked = true;
    box.addEventListener('change', () => {
      if (box.checked) hidden.delete(part);
      else hidden.add(part);
      apply();
    });
    label.append(box, ` ${config.parts[part]}`);
    li.append(label);
    list.append(li);
  }
}

/** The value under the pointer, from the corners of the triangle that was hit. */
function watch() {
  const ray = new THREE.Raycaster();
  const out = document.getElementById('pointer');
  let waiting = false;
  view.canvas.addEventListener('pointermove', (e) => {
    if (waiting || e.buttons) return;
    waiting = true;
    requestAnimationFrame(() => {
      waiting = false;
      const r = view.canvas.getBoundingClientRect();
      ray.setFromCamera(new THREE.Vector2((e.clientX - r.left) / r.width * 2 - 1, 1 - (e.clientY - r.top) / r.height * 2), view.camera);
      const cut = slices.meshes.filter((m) => m?.isMesh); // a level in a section is lines
      const hit = ray.intersectObjects([...groups.filter((g) => g.mesh.visible).map((g) => g.mesh), ...cut], false).find((h) => slices.stays(h.point, h.object));
      if (!hit) {
        out.textContent = '–';
        return;
      }
      const { a, b, c } = hit.face;
      const corner = (i) => new THREE.Vector3().fromBufferAttribute(hit.object.geometry.attributes.position, i);
      const w = THREE.Triangle.getBarycoord(hit.point, corner(a), corner(b), corner(c), new THREE.Vector3());
      const list = hit.object.geometry.attributes.value.array;
      const value = w.x * list[a] + w.y * list[b] + w.z * list[c];
      out.innerHTML = '<b class="fig"></b> <span></span>';
      out.firstChild.textContent = value < 0.5 * NOWHERE ? 'not here' : `${figures(shown(value))} ${config.unit}`;
      out.lastChild.textContent = config.parts[hit.object.userData.part ?? hit.object.userData.seen[hit.faceIndex]];
    });
  });
}

/** Prints a time with a unit that suits the end of the run. */
function time(seconds) {
  const end = header.moments[header.moments.length - 1];
  for (const [least, by, unit] of [[2 * 86400, 86400, 'd'], [2 * 3600, 3600, 'h'], [300, 60, 'min']]) {
    if (end >= least) return `${figures(seconds / by, 3)} ${unit}`;
  }
  return `${figures(seconds, 3)} s`;
}

/** What the values that are shown belong to: a mode, a frequency or a moment. */
function told(i) {
  switch (header.axis) {
    case 'mode': return `${i + 1}: ${config.modes[i]}`;
    case 'frequency': return `${figures(header.moments[i], 4)} Hz`;
  }
  return time(header.moments[i]);
}

/** The slider over the moments of a run in time. */
function moments() {
  if (!header.moments) return;
  const slider = document.getElementById('moment'), play = document.getElementById('play');
  document.getElementById('moments').hidden = false;
  const first = header.axis ? header.shown ?? 0 : sets.length - 1; // that the readings and the marks are of
  slider.max = sets.length - 1;
  slider.value = first;
  const update = () => {
    show(Number(slider.value));
    slices.at(Number(slider.value) === first && !header.axis ? null : Number(slider.value));
    document.getElementById('moment-time').textContent = told(Number(slider.value));
    view.marksOff = Number(slider.value) !== first;
    view.draw();
  };
  slider.addEventListener('input', update);
  let timer;
  play.addEventListener('click', () => {
    const on = play.getAttribute('aria-pressed') !== 'true';
    play.setAttribute('aria-pressed', on);
    play.textContent = on ? 'pause' : 'play';
    clearInterval(timer);
    if (on) {
      timer = setInterval(() => {
        slider.value = (Number(slider.value) + 1) % sets.length;
        update();
      }, header.axis === 'mode' ? 1200 : 200);
    }
  });
  update();
}

/** Saves what is in the frame with its colour bar as a PNG picture. */
async function save() {
  const w = view.canvas.width, h = view.canvas.height, ratio = w / view.holder.clientWidth;
  const sheet = document.createElement('canvas');
  sheet.width = w;
  sheet.height = h;
  const g = sheet.getContext('2d');
  g.fillStyle = '#fefdf9';
  g.fillRect(0, 0, w, h);
  view.renderer.render(view.scene, view.camera);
  g.drawImage(view.canvas, 0, 0);
  const barHeight = h * 0.5, barX = w - 40 * ratio, barY = h * 0.12;
  for (let i = 0; i < 256; i++) {
    g.fillStyle = colourAt((i + 0.5) / 256);
    g.fillRect(barX, barY + barHeight * (1 - (i + 1) / 256), 15 * ratio, barHeight / 256 + 1);
  }
  g.fillStyle = '#23292d';
  g.font = `${12 * ratio}px "IBM Plex Mono", monospace`;
  g.textAlign = 'right';
  for (let i = 0; i <= 5; i++) g.fillText(figures(shown(range[0] + (range[1] - range[0]) * i / 5)), barX - 6 * ratio, barY + barHeight * (1 - i / 5) + 4 * ratio);
  g.fillText(`${config.symbol}, ${config.unit}`, barX + 15 * ratio, barY - 12 * ratio);
  const link = document.createElement('a');
  link.href = sheet.toDataURL('image/png');
  link.download = 'plate.png';
  link.click();
}

if (config) {
  document.getElementById('save-png').addEventListener('click', save);
  choose('edges', (name) => { edges = name; apply(); });
  choose('marks', (name) => { view.marksOff = name === 'off'; view.draw(); });
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
document.getElementById('brief').addEventListener('change', (e) => {
  const place = e.target.dataset.place;
  if (place) change({ op: 'set', place, value: e.target.value });
});
document.getElementById('brief').addEventListener('click', async (e) => {
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
