// A look at the mesh before a run: its cells, coloured by part or by quality, cut open by
// a plane, with the worst of them named.

import { colourAt } from './colours.js';
import { THREE } from './scene.js';
import { say } from './page.js';

/** The colour of a least angle: the sharper, the warmer. */
const colourOf = (angle) => colourAt(0.3 + 0.7 * (1 - angle / 60));

/** Draws the mesh of a model in a scene, and its panel. */
export class MeshLook {
  constructor(model) {
    this.model = model;
    this.panel = document.getElementById('mesh-panel');
    this.by = 'part';
    this.cut = { axis: '', at: 0.5 };
    this.panel.addEventListener('input', (e) => this.changed(e));
    this.panel.addEventListener('click', (e) => {
      if (e.target.closest('.mesh-stop')) this.stop();
      const worst = e.target.closest('[data-worst]');
      if (worst) {
        const place = this.header.worst[worst.dataset.worst];
        this.point(place, `${place.angle.toFixed(0)}°`);
      }
    });
  }

  /** Takes a scene, also one that was drawn anew. */
  attach(view) {
    this.view = view;
    this.group = null;
  }

  /** The model has changed: what is known of its mesh is of no use. */
  stale() {
    this.header = null;
    if (this.on) this.fetch();
  }

  show(on, hidden) {
    this.on = on;
    this.hidden = hidden;
    this.panel.hidden = !on;
    if (this.group) this.group.visible = on;
    if (on && (!this.header || !this.group)) this.fetch();
    else if (on) this.build();
    if (!on && !this.header) this.ticket?.abort();
  }

  /** Nobody waits for the mesh any more: the server does not go on with it. */
  stop() {
    this.ticket?.abort();
    this.panel.querySelector('.mesh-stop').hidden = true;
    this.panel.querySelector('.mesh-words').textContent = 'The mesh was not made to its end. Show it again, or make its cells larger.';
  }

  async fetch() {
    const { axis } = this.cut;
    const box = this.view.box;
    const query = axis ? `?cut=${axis}&at=${THREE.MathUtils.lerp(box.min[axis], box.max[axis], this.cut.at) / this.view.scale}` : '';
    this.ticket?.abort(); // another one is asked for: the server need not go on
    const ticket = this.ticket = new AbortController();
    const words = this.panel.querySelector('.mesh-words'), stop = this.panel.querySelector('.mesh-stop');
    let waits = true;
    const told = setInterval(async () => {
      // News that cannot be had, or that is cut off, is no news.
      const text = await fetch(`/models/${this.model}/mesh/progress`, { signal: ticket.signal }).then((a) => a.text()).catch(() => '');
      if (!text || !waits || ticket !== this.ticket) return;
      words.textContent = text;
      stop.hidden = false;
    }, 400);
    const done = () => {
      waits = false;
      clearInterval(told);
      if (ticket === this.ticket) stop.hidden = true;
    };
    ticket.signal.addEventListener('abort', done);
    let answer, body;
    try {
      answer = await fetch(`/models/${this.model}/mesh${query}`, { headers: { 'HX-Request': 'true' }, signal: ticket.signal });
      body = await (answer.ok ? answer.arrayBuffer() : answer.text());
    } catch (fault) {
      // Whoever ends a ticket has said so, or asks for another mesh.
      if (ticket.signal.aborted) return;
      words.textContent = `The mesh did not arrive: ${fault.message}. Show it again.`;
      return;
    } finally {
      done();
    }
    if (ticket !== this.ticket) return;
    if (!answer.ok) {
      words.textContent = body;
      this.clear();
      return;
    }
    this.read(body);
    this.build();
    document.documentElement.dataset.meshed = 'yes';
  }

  read(buffer) {
    const length = new DataView(buffer).getUint32(0, true);
    this.header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
    let at = 4 + length;
    const take = (Type, n) => {
      const list = new Type(buffer, at, n);
      at += 4 * n;
      return list;
    };
    const c = this.header.counts;
    Object.assign(this, { positions: take(Float32Array, 3 * c.vertices), triangles: take(Uint32Array, 3 * c.triangles), angles: take(Float32Array, c.triangles), parts: take(Uint32Array, c.triangles), edges: take(Uint32Array, 2 * c.edges) });
    this.words();
  }

  clear() {
    if (!this.group) return;
    this.view.scene.remove(this.group);
    this.group.traverse((o) => o.geometry?.dispose());
    this.group = null;
    this.view.draw();
  }

  build() {
    this.clear();
    if (!this.on || !this.header) return;
    const k = this.view.scale, n = this.triangles.length / 3;
    const position = [], colour = [];
    const shade = new THREE.Color();
    const a = new THREE.Vector3(), b = new THREE.Vector3(), c = new THREE.Vector3();
    for (let t = 0; t < n; t++) {
      const part = this.partOf(this.parts[t]);
      if (!part || this.hidden.has(part.id)) continue;
      [a, b, c].forEach((p, i) => p.fromArray(this.positions, 3 * this.triangles[3 * t + i]).multiplyScalar(k));
      for (const p of [a, b, c]) position.push(p.x, p.y, p.z);
      if (part.id === this.lit) shade.set(0xb3261e);
      else if (this.by === 'part') shade.set(part.tones[Math.abs(b.clone().sub(a).cross(c.clone().sub(a)).normalize().z) > 0.5 ? 0 : 1]);
      else shade.set(colourOf(this.angles[t]));
      for (let i = 0; i < 3; i++) colour.push(shade.r, shade.g, shade.b);
    }
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', new THREE.Float32BufferAttribute(position, 3));
    geometry.setAttribute('color', new THREE.Float32BufferAttribute(colour, 3));
    const faces = new THREE.Mesh(geometry, new THREE.MeshBasicMaterial({ vertexColors: true, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 }));
    const lines = new THREE.BufferGeometry();
    lines.setAttribute('position', new THREE.BufferAttribute(this.positions.map((x) => x * k), 3));
    lines.setIndex(new THREE.BufferAttribute(this.edges, 1));
    const edges = new THREE.LineSegments(lines, new THREE.LineBasicMaterial({ color: 0x23292d, transparent: true, opacity: this.edges.length > 60000 ? 0.22 : 0.45 }));
    edges.visible = !this.hidden.size; // they are of all parts
    this.group = new THREE.Group();
    this.group.add(faces, edges);
    this.view.scene.add(this.group);
    this.view.draw();
  }

  partOf(number) {
    return this.device?.parts.find((p) => p.number === number + 1);
  }

  words() {
    const h = this.header;
    const count = (n) => n.toLocaleString('en').replaceAll(',', '\u202f');
    this.panel.querySelector('.mesh-words').textContent = `${count(h.cells)} cells, ${count(h.unknowns)} unknowns; ${h.words}.`;
    const most = Math.max(...h.angles);
    this.panel.querySelector('.mesh-angles').innerHTML = h.angles.map((n, i) => {
      const height = n ? Math.max(1.5, 30 * n / most) : 0;
      return `<rect x="${20 * i + 0.5}" y="${32 - height}" width="19" height="${height}" fill="${colourOf(5 * i + 2.5)}"><title>${5 * i}° to ${5 * i + 5}°: ${count(n)} cells</title></rect>`;
    }).join('');
    this.panel.querySelector('.mesh-worst').innerHTML = (h.worst ?? []).map((w, i) => `<li><button data-worst="${i}"></button></li>`).join('');
    this.panel.querySelectorAll('.mesh-worst button').forEach((b, i) => { b.textContent = h.worst[i].words; });
    this.panel.querySelector('.mesh-notes').innerHTML = '';
    for (const note of h.notes) {
      const b = document.createElement('button');
      b.className = 'doubt';
      b.textContent = note.words;
      b.title = 'show this part';
      b.addEventListener('click', () => {
        this.lit = this.lit === note.part ? null : note.part;
        this.build();
        if (this.lit && note.at) this.point(note, 'thin');
      });
      this.panel.querySelector('.mesh-notes').append(b);
    }
  }

  changed(e) {
    if (e.target.name === 'by') {
      this.by = e.target.value;
      this.build();
    }
    if (e.target.name === 'cut-axis') this.cut.axis = e.target.value;
    if (e.target.name === 'cut-at') this.cut.at = Number(e.target.value);
    if (e.target.name.startsWith('cut')) {
      this.panel.querySelector('[name=cut-at]').hidden = !this.cut.axis;
      clearTimeout(this.waiting);
      this.waiting = setTimeout(() => this.fetch(), 60);
    }
  }

  /** Marks a place in the drawing with a word. */
  point(place, text) {
    const at = new THREE.Vector3(...place.at).multiplyScalar(this.view.scale);
    this.view.labels = [{ id: 'worst', kind: 'flag', text, anchor: at, up: true }];
    this.view.marksOff = false;
    this.view.draw();
    say(place.words);
  }
}
