// Run as I change: after each edit the model is run, as long as that is quick. The server knows whether it
// is, and whether anything changed that a result depends on.

import { say } from './page.js';

export class Light {
  constructor(model) {
    Object.assign(this, { model, key: `light-${model}` });
    document.addEventListener('change', (e) => { if (e.target.id === 'light') this.set(e.target.checked); });
    this.show();
  }

  get on() { return localStorage.getItem(this.key) === 'yes'; }

  set(on) {
    if (on) localStorage.setItem(this.key, 'yes');
    else localStorage.removeItem(this.key);
    this.show();
    if (on) this.changed();
  }

  show() {
    const box = document.getElementById('light');
    if (box) box.checked = this.on;
  }

  /** Something changed, or a run ended: what came in meanwhile is run then. */
  changed() {
    this.show();
    if (!this.on) return;
    clearTimeout(this.waiting);
    this.waiting = setTimeout(async () => {
      const answer = await fetch(`/models/${this.model}/runs`, { method: 'POST', headers: { 'HX-Request': 'true' }, body: new URLSearchParams({ light: 'yes' }) });
      if (answer.ok) return;
      this.set(false);
      say(await answer.text());
    }, 400);
  }
}
