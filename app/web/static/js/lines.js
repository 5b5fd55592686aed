// Fields along lines, as charts: several quantities, runs and moments laid over each other, and the ways
// on the drawing.

import { Chart } from './chart.js';
import { THREE } from './scene.js';
import { ask } from './packed.js';
import { typed } from './figures.js';
import { say } from './page.js';

/** The letter of an end: A to Z, then A2 and so on. */
const letter = (n) => String.fromCharCode(65 + (n % 26)) + (n < 26 ? '' : Math.floor(n / 26) + 1);

const AROUND = 72; // chords of a circle on the drawing

/** Places along a way, m. */
function corners({ ends, circle, path }) {
  const list = [], flat = ends ?? path;
  if (flat) for (let i = 0; i < flat.length; i += 3) list.push(new THREE.Vector3(...flat.slice(i, i + 3)));
  if (!circle) return list;
  const round = new THREE.Vector3(...circle.slice(3, 6)), first = new THREE.Vector3(...(Math.abs(round.x) > 0.9 ? [0, 1, 0] : [1, 0, 0]));
  first.addScaledVector(round, -first.dot(round)).normalize();
  const second = round.clone().cross(first), middle = new THREE.Vector3(...circle.slice(0, 3));
  for (let i = 0; i <= AROUND; i++) {
    const angle = 2 * Math.PI * i / AROUND;
    list.push(middle.clone().addScaledVector(first, circle[6] * Math.cos(angle)).addScaledVector(second, circle[6] * Math.sin(angle)));
  }
  return list;
}

export class Lines {
  /** @param {object} host - config, pane (null without a drawing), shown(si), moment() in words or "" and edit(values) */
  constructor(host, brief) {
    Object.assign(this, { host, brief, kept: [] });
    this.lines = [...brief.querySelectorAll('[data-line]')].map((el, i) => ({ el, letters: [letter(2 * i), letter(2 * i + 1)], ...host.config.lines[el.dataset.line.split('/').pop()] })).filter((l) => l.ways);
    brief.addEventListener('change', (e) => { if (e.target.matches('[data-overlay]')) this.draw(); });
    brief.addEventListener('click', (e) => {
      if (e.target.id === 'add-line') this.add('');
      if (e.target.id === 'add-along') this.host.edit({ op: 'add-line', id: this.host.config.plate, kind: 'along', side: e.target.dataset.part });
      if (e.target.id === 'add-circle') this.add('circle');
      if (e.target.id === 'draw-line') this.drawn(e.target);
      if (e.target.id === 'keep-moment') this.keep(e.target);
      const line = e.target.matches('[data-csv], [data-picture], [data-log], [data-axes]') && this.lines.find((l) => l.el.contains(e.target));
      if (line && !line.plot) say('No run is chosen.');
      else if (line) line.plot.act(e.target);
    });
    this.mark();
    this.draw();
  }

  /** The runs that are laid over each other. */
  runs() {
    const boxes = [...this.brief.querySelectorAll('[data-overlay]')];
    if (!boxes.length) return [{ id: this.host.config.run, number: '' }];
    return boxes.filter((b) => b.checked).map((b) => ({ id: b.dataset.overlay, number: `#${b.dataset.number}` }));
  }

  words(x) { return Math.abs(x) < 1e-9 ? '' : `${typed(x, 4)} ${this.host.config.length}`; }

  /** A new line goes through the middle of the device along its longest side; a circle lies in the middle. */
  add(kind) {
    const { pane: { view }, config, edit } = this.host, lo = view.box.min, hi = view.box.max;
    const size = view.box.getSize(new THREE.Vector3()), middle = view.box.getCenter(new THREE.Vector3());
    const along = ['x', 'y', 'z'].reduce((a, b) => (size[b] > size[a] ? b : a));
    const values = { op: 'add-line', id: config.plate, kind };
    for (const axis of ['x', 'y', 'z']) {
      values[`from_${axis}`] = this.words(!kind && axis === along ? lo[axis] : middle[axis]);
      if (!kind) values[`to_${axis}`] = this.words(axis === along ? hi[axis] : middle[axis]);
    }
    if (kind) values.radius = this.words(Math.min(size.x, size.y) / 4);
    edit(values);
  }

  /** Takes both ends of a line from the next two clicks on the device. */
  drawn(button) {
    const { pane, config, edit } = this.host, canvas = pane.view.canvas, before = button.textContent, ends = [], watching = new AbortController();
    const end = () => {
      watching.abort();
      button.textContent = before;
      canvas.style.cursor = '';
    };
    button.textContent = 'click where it begins';
    canvas.style.cursor = 'crosshair';
    let down = null;
    canvas.addEventListener('pointerdown', (e) => { down = [e.clientX, e.clientY]; }, { signal: watching.signal });
    canvas.addEventListener('click', (e) => {
      if (down && Math.hypot(e.clientX - down[0], e.clientY - down[1]) > 4) return; // the view was turned
      const hit = pane.pick(e);
      if (!hit) return say('There is no part here.');
      ends.push(hit.place);
      button.textContent = 'click where it ends';
      if (ends.length < 2) return;
      end();
      const values = { op: 'add-line', id: config.plate };
      for (const axis of ['x', 'y', 'z']) [values[`from_${axis}`], values[`to_${axis}`]] = ends.map((p) => this.words(p[axis]));
      edit(values);
    }, { signal: watching.signal });
    document.addEventListener('keydown', (e) => { if (e.key === 'Escape') end(); }, { signal: watching.signal });
  }

  /** Draws the ways on the drawing, with letters at their ends. */
  mark() {
    const { pane, config } = this.host;
    if (!pane) return;
    const { view } = pane;
    for (const { ways, letters } of this.lines) {
      ways.forEach((way, k) => {
        const points = corners(way).map((p) => p.multiplyScalar(config.scale));
        const line = new THREE.Line(new THREE.BufferGeometry().setFromPoints(points), new THREE.LineBasicMaterial({ color: 0x23292d, depthTest: false }));
        line.renderOrder = 5;
        view.scene.add(line);
        letters.slice(0, way.circle ? 1 : 2).forEach((text, end) => {
          const name = ways.length > 1 ? `${text}${k + 1}` : text;
          if (ways.length === 1 || end === 0) view.labels.push({ id: name, kind: 'flag', text: name, anchor: points[end ? points.length - 1 : 0], way: true });
        });
      });
    }
    view.draw();
  }

  /** Shows another moment, by its place in the list; null for the end of a run in time. */
  at(moment) {
    if (this.moment === moment) return;
    this.moment = moment;
    return this.draw();
  }

  /** Keeps the moment that is shown in the charts, beside those that come, or lets go of all. */
  keep(button) {
    const told = this.host.moment();
    if (this.kept.some((k) => k.told === told)) this.kept = [];
    else this.kept.push({ moment: this.moment, told });
    button.nextElementSibling.textContent = this.kept.map((k) => k.told).join(', ');
    this.draw();
  }

  /** The curves of a line: of each quantity, run, moment and way. */
  async fetch(line) {
    const { config, shown } = this.host, told = this.host.moment();
    const quantities = [{ field: config.field, label: config.words, unit: config.unit, shown },
      ...line.also.map((f) => ({ ...f, shown: (si) => (si - f.offset) / f.factor }))];
    const moments = [...this.kept.filter((k) => k.told !== told), { moment: this.moment, told }];
    const curves = [];
    for (const q of quantities) {
      for (const run of this.runs()) {
        for (const { moment, told: when } of moments) {
          line.ways.forEach((way, k) => {
            const name = [q.label, run.number && `of run ${run.number}`, moments.length > 1 && `at ${when}`, line.ways.length > 1 && `on ${line.letters[0]}${k + 1}`].filter(Boolean).join(' ');
            const query = { field: q.field, way: JSON.stringify(way), ...(moment === null || moment === undefined ? {} : { moment }) };
            curves.push(ask(`/runs/${run.id}/line`, query).then((answer) => answer.json()).then(({ far, values }) => (
              { label: name, unit: q.unit, far, values: values.map((v) => (v === null ? null : q.shown(v))) })));
          });
        }
      }
    }
    return Promise.all(curves);
  }

  /** Draws the charts; of what comes too late nothing is drawn. */
  async draw() {
    const { config } = this.host, ticket = this.newest = {};
    for (const line of this.lines) {
      const box = line.el.querySelector('.plot');
      let curves;
      try {
        curves = await this.fetch(line);
      } catch (fault) {
        if (!(fault instanceof TypeError)) say(fault.message);
        continue;
      }
      if (ticket !== this.newest) return;
      const axes = line.plot?.axes;
      line.plot?.close();
      line.plot = null;
      box.replaceChildren();
      if (!curves.length) {
        box.textContent = 'No run is chosen.';
        continue;
      }
      if (curves.every((c) => c.values.every((v) => v === null))) {
        box.textContent = 'The line runs through no part that has the field.';
        continue;
      }
      const circle = line.ways[0].circle, other = curves.find((c) => c.unit !== config.unit);
      line.plot = new Chart(box, {
        name: 'line', axes, x: { label: circle ? `way round from ${line.letters[0]}` : `way from ${line.letters.join(' to ')}`, unit: config.length, values: curves[0].far.map((x) => x * config.scale) },
        y: { label: line.also.some((f) => f.unit === config.unit) ? '' : config.symbol, unit: config.unit }, y2: other && { label: '', unit: other.unit },
        series: curves.map((c) => ({ label: c.label, values: c.values, second: c.unit !== config.unit })),
      });
    }
    document.documentElement.dataset.lines = 'yes';
  }
}
