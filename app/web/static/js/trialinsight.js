// What the surfaces tell: it is asked for apart from the page, as it may take a while, and stays until other trials are there. The sliders ask what
// is predicted where they stand.

import { typed } from './figures.js';

export class Insight {
  constructor(root, act) {
    Object.assign(this, { root, act, key: null, html: '', moved: () => {} });
    root.addEventListener('input', (e) => { if (e.target.matches('.sliders input')) this.slide(e.target); });
    root.addEventListener('click', (e) => {
      const go = e.target.closest('[data-at]');
      if (go) this.go(go.dataset.at);
      if (e.target.id === 'try-it') act.post(e.target.dataset.path, { at: this.at() });
      if (e.target.id === 'use-it') act.submit(e.target.dataset.path, { at: this.at() });
      const reading = e.target.closest('.predicted tr[data-reading]');
      if (reading) this.slopes(reading.dataset.reading);
    });
  }

  get box() { return this.root.querySelector('#insight'); }

  /** The values of the sliders, '' for none yet. */
  at() { return [...this.root.querySelectorAll('.sliders input')].map((el) => el.value).join(','); }

  /** Puts what is known into its place, or asks for it. */
  async fill() {
    const { box } = this;
    if (!box) {
      this.key = null;
      return;
    }
    const key = `${box.dataset.source} ${box.dataset.key}`;
    if (this.key === key) {
      if (!box.childElementCount && this.html) this.put();
      return;
    }
    this.key = key;
    this.html = '';
    box.innerHTML = '<section class="sec"><span class="no">D</span><header><h2>What makes it vary</h2></header><p class="aside">The surfaces are being fitted.</p></section>';
    const answer = await fetch(box.dataset.source, { headers: { 'HX-Request': 'true' } });
    if (this.key !== key) return; // others were asked for since
    if (!answer.ok) {
      this.key = null;
      box.innerHTML = '<section class="sec"><span class="no">D</span><header><h2>What makes it vary</h2></header><p class="doubt">The surfaces cannot be shown now.</p></section>';
      return;
    }
    this.html = await answer.text();
    this.put();
  }

  put() {
    const { box } = this;
    if (!box) return;
    const before = this.at();
    box.innerHTML = this.html;
    this.choice();
    for (const bar of box.querySelectorAll('.bar')) {
      bar.style.setProperty('--total', `${bar.dataset.total}%`);
      bar.style.setProperty('--first', `${bar.dataset.first}%`);
    }
    if (before && before.split(',').length === this.root.querySelectorAll('.sliders input').length) this.go(before);
    else this.ask();
    this.root.dataset.insight = this.key;
  }

  /** The choice of the surface stands in the sentence that is about it. */
  choice() {
    const at = this.root.querySelector('#surface-choice');
    const template = this.root.querySelector('#surface-field');
    if (at && template) at.replaceChildren(template.content.cloneNode(true));
  }

  slide(input) {
    input.nextElementSibling.querySelector('b').textContent = typed(Number(input.value)).replace('-', '−');
    clearTimeout(this.waiting);
    this.waiting = setTimeout(() => this.ask(), 60);
  }

  go(at) {
    const values = at.split(',');
    [...this.root.querySelectorAll('.sliders input')].forEach((el, i) => {
      el.value = values[i];
      el.nextElementSibling.querySelector('b').textContent = typed(Number(el.value)).replace('-', '−');
    });
    this.ask();
  }

  async ask() {
    const at = this.at();
    if (!at || !this.box) return;
    this.moved();
    const answer = await fetch(`${this.box.dataset.source.replace('insight', 'predict')}?at=${encodeURIComponent(at)}`);
    if (!answer.ok || at !== this.at()) return; // the sliders have moved on
    this.said = await answer.json();
    for (const q of this.said.readings) {
      const cell = this.root.querySelector(`.predicted tr[data-reading="${q.key}"] .value`);
      if (cell) cell.textContent = q.text;
    }
    const keeps = this.root.querySelector('#keeps');
    if (keeps) keeps.hidden = this.said.keeps || !this.said.limited;
    this.slopes(this.sloped ?? this.said.readings[0]?.key);
  }

  /** Says how a reading changes with each parameter where the sliders stand. */
  slopes(key) {
    this.sloped = key;
    const q = this.said?.readings.find((r) => r.key === key), el = this.root.querySelector('#slopes');
    for (const r of this.root.querySelectorAll('.predicted tr[data-reading]')) r.classList.toggle('chosen', r.dataset.reading === key);
    if (el && q) el.textContent = `Here ${this.root.querySelector(`.predicted tr[data-reading="${key}"] td`).textContent} changes by ${q.slopes.join(', ')}.`;
  }
}
