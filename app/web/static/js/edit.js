// Edits of values where they stand. A value is taken when one leaves its field,
// edits are sent one after the other, and a value that is still on its way is
// shown whatever an earlier answer says.

import { say } from './page.js';
import { ask as askClash, done, head, known, seen, stamp } from './window.js';

/** Sends edits of the fields in an area and swaps the answers into the root. */
export class Editor {
  constructor(root, model, area = root, { extra = () => ({}), refresh = 'brief', headers = () => ({}) } = {}) {
    this.root = root;
    this.extra = extra; // values that go with every edit
    this.headers = headers; // and what the page shows
    this.refresh = (whole) => this.ask('GET', typeof refresh === 'function' ? refresh() : refresh, {}, { whole });
    this.model = model;
    this.queue = Promise.resolve();
    this.open = 0; // edits whose answers are not shown yet
    this.pending = new Map();
    area.addEventListener('focusin', (e) => {
      if (e.target.matches('.val[data-place]')) e.target.seen = seen();
    });
    // What was typed into is left alone by answers; left as it was, it shows what is there now.
    area.addEventListener('focusout', (e) => {
      const f = e.target;
      if (f.seen && known(f.seen) !== head() && !this.open) setTimeout(() => this.open || this.refresh(true));
    });
    area.addEventListener('change', (e) => {
      const f = e.target.closest('.val[data-place]');
      if (f) this.set(f.dataset.place, f.value, f.seen);
    });
    area.addEventListener('keydown', (e) => {
      const f = e.target;
      if (!f.matches('input.val, textarea.val')) return;
      if (e.key === 'Enter') {
        e.preventDefault();
        f.blur();
      } else if (e.key === 'Escape') {
        f.value = this.pending.get(f.dataset.place)?.value ?? f.defaultValue;
        f.blur();
      }
    });
  }

  set(place, value, from = seen()) {
    const mark = { value };
    this.pending.set(place, mark);
    return this.ask('POST', `edit?op=set&place=${encodeURIComponent(place)}`, { value }, { from, after: () => {
      if (this.pending.get(place) === mark) this.pending.delete(place);
    } });
  }

  /** One request after the other: the last answer is the newest. An edit is meant for what was seen when it was made. */
  ask(method, path, values = {}, { from = method === 'GET' ? undefined : seen(), after = () => {}, whole = false } = {}) {
    this.open++;
    this.root.setAttribute('aria-busy', 'true');
    this.queue = this.queue.then(async () => {
      let answer;
      // htmx swaps the answer before it resolves, so the mark goes before the swap.
      const stop = (e) => {
        if (e.detail.target !== this.root) return;
        answer = e.detail.xhr;
        done((name) => answer.getResponseHeader(name));
        after();
      };
      document.body.addEventListener('htmx:beforeSwap', stop);
      try {
        await htmx.ajax(method, `/models/${this.model}/${path}`, { source: this.root, target: this.root, swap: 'morph:innerHTML', headers: { ...this.headers(whole), ...stamp(from) }, values: { ...this.extra(), ...values } });
      } finally {
        document.body.removeEventListener('htmx:beforeSwap', stop);
        after();
      }
      this.showPending();
      if (answer?.status === 409) this.clash(answer, () => this.ask(method, path, values, { from: this.rival, after }), values.value);
    }).catch((fault) => console.warn(fault)).finally(() => {
      this.open--;
      if (!this.open) this.root.removeAttribute('aria-busy');
    });
    return this.queue;
  }

  /** Does something when the answers to all edits so far are shown, and before those to later ones. */
  after(what) {
    this.queue = this.queue.then(what).catch(() => {});
    return this.queue;
  }

  /** What an edit speaks of was changed or removed in another window. */
  async clash(answer, again, mine) {
    if (answer.getResponseHeader('Content-Type')?.startsWith('application/json')) {
      const clash = JSON.parse(answer.responseText);
      const { steps } = seen();
      this.rival = { revision: clash.revision, steps };
      if (await askClash(clash, mine)) return again();
    } else if (mine) {
      say(`${answer.responseText} What you typed: ${mine}`);
    }
    return this.refresh(true);
  }

  showPending() {
    for (const [place, { value }] of this.pending) {
      for (const f of document.querySelectorAll(`.val[data-place="${CSS.escape(place)}"]`)) f.value = value;
    }
  }
}
