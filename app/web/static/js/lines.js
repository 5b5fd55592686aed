// The field along lines, as charts: runs laid over each other, and the way on the drawing.

import uPlot from '/static/vendor/uplot/uPlot.esm.js';
import { THREE } from './scene.js';
import { say } from './page.js';

const COLOURS = ['#b04a26', '#1f6f6b', '#6b5b95', '#8a6d1b', '#3b6ea5', '#7a3b69'];

/** The letter of an end: A to Z, then A2 and so on. */
const letter = (n) => String.fromCharCode(65 + (n % 26)) + (n < 26 ? '' : Math.floor(n / 26) + 1);

export class Lines {
  /** @param {object} host - config, view (null without a drawing), figures(x), shown(si) and edit(values) */
  constructor(host, brief) {
    Object.assign(this, { host, brief });
    const style = document.createElement('link');
    style.rel = 'stylesheet';
    style.href = '/static/vendor/uplot/uPlot.min.css';
    document.head.append(style);
    this.lines = [...brief.querySelectorAll('[data-line]')].map((el, i) => ({ el, letters: [letter(2 * i), letter(2 * i + 1)], ends: host.config.lines[el.dataset.line.split('/').pop()] })).filter((l) => l.ends);
    brief.addEventListener('change', (e) => { if (e.target.matches('[data-overlay]')) this.draw(); });
    brief.addEventListener('click', (e) => {
      if (e.target.id === 'add-line') this.add();
      const line = e.target.matches('[data-csv]') && this.lines.find((l) => l.el.contains(e.target));
      if (line) this.save(line);
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
    const { config, shown, figures } = this.host, ticket = this.newest = {};
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
      line.plot?.destroy();
      box.replaceChildren();
      if (!runs.length) {
        box.textContent = 'No run is chosen.';
        continue;
      }
      if (runs.every((r) => r.values.every((v) => v === null))) {
        box.textContent = 'The line runs through no part that has the field.';
        continue;
      }
      const grid = { stroke: '#e6e1d3', width: 1 }, font = '11px "IBM Plex Mono", monospace';
      const axis = { stroke: '#5f686e', grid, font, ticks: grid, values: (_, list) => list.map((v) => figures(v, 3)) };
      line.plot = new uPlot({
        width: box.clientWidth, height: 190, legend: { live: true },
        cursor: { drag: { x: true, y: false }, points: { size: 6 } },
        scales: { x: { time: false } },
        axes: [{ ...axis, label: `way from ${line.letters.join(' to ')}, ${config.length}`, labelFont: font, labelSize: 18, size: 30 }, { ...axis, label: `${config.symbol}, ${config.unit}`, labelFont: font, labelSize: 18, size: 52 }],
        series: [{ label: 'way', value: (_, v) => (v === null ? '–' : `${figures(v)} ${config.length}`) },
          ...runs.map((r, i) => ({ label: r.number || config.symbol, stroke: COLOURS[i % COLOURS.length], width: 1.6, value: (_, v) => (v === null ? '–' : `${figures(v)} ${config.unit}`) }))],
      }, [runs[0].far.map((x) => x * config.scale), ...runs.map((r) => r.values.map((v) => (v === null ? null : shown(v))))], box);
    }
    document.documentElement.dataset.lines = 'yes';
  }

  /** Saves what is drawn as CSV. */
  save(line) {
    const { config, shown } = this.host;
    if (!line.runs?.length) return say('No run is chosen.');
    const head = [`way (${config.length})`, ...line.runs.map((r) => `${config.field}${r.number && ` of run ${r.number}`} (${config.unit})`)];
    const rows = line.runs[0].far.map((x, i) => [x * config.scale, ...line.runs.map((r) => (r.values[i] === null ? '' : shown(r.values[i])))]);
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([[head, ...rows].map((r) => r.join(',')).join('\n'), '\n'], { type: 'text/csv' }));
    link.download = 'line.csv';
    link.click();
    URL.revokeObjectURL(link.href);
  }
}
