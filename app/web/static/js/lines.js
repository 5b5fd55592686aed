// The field along lines, as charts: runs laid over each other, and the way on the drawing.

import { Chart } from './chart.js';
import { THREE } from './scene.js';
import { say } from './page.js';

/** The letter of an end: A to Z, then A2 and so on. */
const letter = (n) => String.fromCharCode(65 + (n % 26)) + (n < 26 ? '' : Math.floor(n / 26) + 1);

export class Lines {
  /** @param {object} host - config, view (null without a drawing), shown(si) and edit(values) */
  constructor(host, brief) {
    Object.assign(this, { host, brief });
    this.lines = [...brief.querySelectorAll('[data-line]')].map((el, i) => ({ el, letters: [letter(2 * i), letter(2 * i + 1)], ends: host.config.lines[el.dataset.line.split('/').pop()] })).filter((l) => l.ends);
    brief.addEventListener('change', (e) => { if (e.target.matches('[data-overlay]')) this.draw(); });
    brief.addEventListener('click', (e) => {
      if (e.target.id === 'add-line') this.add();
      const line = e.target.matches('[data-csv], [data-picture], [data-log]') && this.lines.find((l) => l.el.contains(e.target));
      if (line && !line.plot) say('No run is chosen.');
      else if (line && e.target.matches('[data-csv]')) line.plot.csv();
      else if (line && e.target.matches('[data-picture]')) line.plot.png();
      else if (line) e.target.setAttribute('aria-pressed', String(line.plot.log(e.target.getAttribute('aria-pressed') !== 'true')));
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

  /** A new line goes through the middle of the device along its longest side. */
  add() {
    const { view, config, edit } = this.host, lo = view.box.min, hi = view.box.max;
    const size = view.box.getSize(new THREE.Vector3()), middle = view.box.getCenter(new THREE.Vector3());
    const along = ['x', 'y', 'z'].reduce((a, b) => (size[b] > size[a] ? b : a));
    const values = { op: 'add-line', id: config.plate };
    const words = (x) => (Math.abs(x) < 1e-9 ? '' : `${Number(x.toPrecision(4))} ${config.length}`);
    for (const axis of ['x', 'y', 'z']) {
      values[`from_${axis}`] = words(axis === along ? lo[axis] : middle[axis]);
      values[`to_${axis}`] = words(axis === along ? hi[axis] : middle[axis]);
    }
    edit(values);
  }

  /** Draws the ways on the drawing, with letters at their ends. */
  mark() {
    const { view, config } = this.host;
    if (!view) return;
    for (const { ends, letters } of this.lines) {
      const at = (i) => new THREE.Vector3(...ends.slice(i, i + 3)).multiplyScalar(config.scale);
      const g = new THREE.BufferGeometry().setFromPoints([at(0), at(3)]);
      const line = new THREE.Line(g, new THREE.LineBasicMaterial({ color: 0x23292d, depthTest: false }));
      line.renderOrder = 5;
      view.scene.add(line);
      letters.forEach((text, end) => view.labels.push({ id: text, kind: 'flag', text, anchor: at(3 * end), way: true }));
    }
    view.draw();
  }

  async fetch(line) {
    const { config } = this.host;
    return Promise.all(this.runs().map(async (run) => {
      const answer = await fetch(`/runs/${run.id}/line?${new URLSearchParams({ field: config.field, ends: line.ends.join(',') })}`, { headers: { 'HX-Request': 'true' } });
      if (!answer.ok) throw new Error(await answer.text());
      return { ...run, ...await answer.json() };
    }));
  }

  /** Draws the charts; of what comes too late nothing is drawn. */
  async draw() {
    const { config, shown } = this.host, ticket = this.newest = {};
    for (const line of this.lines) {
      const box = line.el.querySelector('.plot');
      let runs;
      try {
        runs = await this.fetch(line);
      } catch (fault) {
        say(fault.message);
        continue;
      }
      if (ticket !== this.newest) return;
      line.runs = runs;
      line.plot?.close();
      line.plot = null;
      box.replaceChildren();
      if (!runs.length) {
        box.textContent = 'No run is chosen.';
        continue;
      }
      if (runs.every((r) => r.values.every((v) => v === null))) {
        box.textContent = 'The line runs through no part that has the field.';
        continue;
      }
      const label = config.field.replace(/^=\s*/, '').replaceAll('_', ' ');
      line.plot = new Chart(box, {
        name: 'line', x: { label: `way from ${line.letters.join(' to ')}`, unit: config.length, values: runs[0].far.map((x) => x * config.scale) }, y: { label: config.symbol, unit: config.unit },
        series: runs.map((r) => ({ label: r.number ? `${label} of run ${r.number}` : label, values: r.values.map((v) => (v === null ? null : shown(v))) })),
      });
    }
    document.documentElement.dataset.lines = 'yes';
  }
}
