// The axis of a result: time, frequency or the number of a mode. A slider, steps, play at a speed, the
// swing of a mode or of a response, and a film or numbered pictures of all that.

import { figures, time } from './figures.js';
import { say } from './page.js';
import { save } from './chart.js';
import { zipSync } from '../vendor/fflate/fflate.js';

export class Axis {
  /** @param {Pane[]} panes - that show the same moment  @param {object} config - of the plate  @param {Lines} lines - that do so too */
  constructor(panes, config, lines) {
    Object.assign(this, { panes, config, lines, header: panes[0].surface.header, speed: 1 });
    const box = document.getElementById('moments');
    const { header } = this;
    this.swings = header.axis === 'mode' ? Boolean(panes[0].surface.factor) : Boolean(config.swings || (config.bendsToo && panes[0].surface.factor));
    if (!header.moments && !this.swings) return;
    box.hidden = false;
    const of = (id) => document.getElementById(id);
    this.slider = of('moment');
    this.slider.max = (header.moments?.length ?? 1) - 1;
    this.slider.value = panes[0].surface.first;
    this.slider.addEventListener('input', () => this.update());
    of('play').addEventListener('click', () => this.play(!this.playing));
    of('step-back').addEventListener('click', () => this.step(-1));
    of('step-on').addEventListener('click', () => this.step(1));
    of('speed').addEventListener('change', (e) => { this.speed = Number(e.target.value); });
    of('film').addEventListener('click', () => this.film());
    of('stills').addEventListener('click', () => this.stills());
    of('keep-moment').hidden = !header.moments || !lines.lines.length;
    if (!window.MediaRecorder) of('film').hidden = true;
    of('swing').hidden = of('phase-of').hidden = !this.swings;
    of('phase').addEventListener('input', (e) => {
      const part = Number(e.target.value);
      if (this.swinging) this.swing(false);
      this.turn(part);
    });
    of('swing').addEventListener('click', () => this.swing(!this.swinging));
    this.update();
  }

  /** What the values that are shown belong to: a mode, a frequency or a moment. */
  told(i = Number(this.slider?.value ?? 0)) {
    const { header, config } = this;
    if (!header.moments) return '';
    switch (header.axis) {
      case 'mode': return `${i + 1}: ${config.modes[i]}`;
      case 'frequency': return `${figures(header.moments[i], 4)} Hz`;
    }
    return time(header.moments[i], header.moments[header.moments.length - 1]);
  }

  async update() {
    const i = Number(this.slider.value), { header } = this;
    document.getElementById('moment-time').textContent = this.told(i);
    const seen = this.panes.map((p) => p.at(this.near(p, i)).catch((fault) => say(fault.message)));
    if (header.moments) this.lines.at(i === this.panes[0].surface.first && !header.axis ? null : i);
    await Promise.all(seen);
  }

  /** The set of a pane that is shown with the set i of the first one: of another run in time the nearest moment. */
  near(pane, i) {
    const { header, sets } = pane.surface;
    if (pane === this.panes[0] || header.axis || !header.moments || !this.header.moments) return Math.min(i, sets - 1);
    const at = this.header.moments[i];
    return header.moments.reduce((best, t, k) => (Math.abs(t - at) < Math.abs(header.moments[best] - at) ? k : best), 0);
  }

  /** Steps, and at the end begins again. */
  step(by) {
    const n = Number(this.slider.max) + 1;
    this.slider.value = (Number(this.slider.value) + by + n) % n;
    return this.update();
  }

  async play(on) {
    this.playing = on;
    const button = document.getElementById('play');
    button.setAttribute('aria-pressed', on);
    button.textContent = on ? 'pause' : 'play';
    while (this.playing) {
      const began = performance.now();
      await this.step(1);
      const rest = (this.header.axis === 'mode' ? 1200 : 200) / this.speed - (performance.now() - began);
      await new Promise((done) => { setTimeout(done, Math.max(rest, 16)); });
    }
  }

  /** Lets what swings do so: once in two seconds at speed 1. */
  swing(on) {
    this.swinging = on;
    document.getElementById('swing').setAttribute('aria-pressed', on);
    if (!on) return this.turn(0);
    const began = performance.now();
    const step = (now) => {
      if (!this.swinging) return;
      this.phase = ((now - began) / 1000 * this.speed / 2) % 1;
      this.turn(this.phase);
      requestAnimationFrame(step);
    };
    requestAnimationFrame(step);
  }

  /** Shows what swings at a part of its swing. */
  turn(part) {
    document.getElementById('phase').value = part;
    document.getElementById('phase-told').textContent = `${Math.round(360 * part)}°`;
    this.panes.forEach((p) => p.turn(2 * Math.PI * part));
  }

  /** Records one way through all moments, or one swing, as WebM. */
  async film() {
    const button = document.getElementById('film'), canvas = this.panes[0].view.canvas;
    if (this.recording) return;
    this.recording = true;
    button.textContent = 'recording …';
    const recorder = new MediaRecorder(canvas.captureStream(25), { mimeType: 'video/webm' }), pieces = [];
    recorder.ondataavailable = (e) => pieces.push(e.data);
    const ended = new Promise((done) => { recorder.onstop = done; });
    recorder.start();
    if (this.swings) {
      this.swing(true);
      await new Promise((done) => { setTimeout(done, 2000 / this.speed); });
      this.swing(false);
    } else {
      this.slider.value = 0;
      for (let i = 0; i <= Number(this.slider.max); i++) {
        this.slider.value = i;
        await this.update();
        await new Promise((done) => { setTimeout(done, 200 / this.speed); });
      }
    }
    recorder.stop();
    await ended;
    this.hand('plate.webm', new Blob(pieces, { type: 'video/webm' }));
    button.textContent = 'film, WebM';
    this.recording = false;
  }

  /** Hands a file over. */
  hand(name, blob) {
    const href = URL.createObjectURL(blob);
    save(name, href);
    setTimeout(() => URL.revokeObjectURL(href), 10000);
  }

  /** Numbered pictures of all moments, or of one swing, in an archive. */
  async stills() {
    const button = document.getElementById('stills'), { canvas } = this.panes[0].view, files = {};
    if (this.recording) return;
    this.recording = true;
    this.play(false);
    const swings = this.swings, count = swings ? 24 : Number(this.slider.max) + 1;
    for (let i = 0; i < count; i++) {
      button.textContent = `picture ${i + 1} of ${count} …`;
      if (swings) this.turn(i / count);
      else {
        this.slider.value = i;
        await this.update();
      }
      const { view } = this.panes[0];
      view.renderer.render(view.scene, view.camera);
      const png = await new Promise((done) => { canvas.toBlob(done, 'image/png'); });
      files[`plate-${String(i + 1).padStart(4, '0')}.png`] = [new Uint8Array(await png.arrayBuffer()), { level: 0 }];
    }
    if (swings) this.turn(0);
    this.hand('plate-pictures.zip', new Blob([zipSync(files)], { type: 'application/zip' }));
    button.textContent = 'pictures, PNG';
    this.recording = false;
  }
}
