// Edits of values where they stand. A value is taken when one leaves its field,
// edits are sent one after the other, and a value that is still on its way is
// shown whatever an earlier answer says.

/** Sends edits of the fields in an area and swaps the answers into the root. */
export class Editor {
  constructor(root, model, area = root, extra = () => ({})) {
    this.root = root;
    this.extra = extra; // values that go with every edit
    this.model = model;
    this.queue = Promise.resolve();
    this.open = 0; // edits whose answers are not shown yet
    this.pending = new Map();
    area.addEventListener('change', (e) => {
      const f = e.target.closest('.val[data-place]');
      if (f) this.set(f.dataset.place, f.value);
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

  set(place, value) {
    const mark = { value };
    this.pending.set(place, mark);
    return this.ask('POST', `edit?op=set&place=${encodeURIComponent(place)}`, { value }, () => {
      if (this.pending.get(place) === mark) this.pending.delete(place);
    });
  }

  /** One request after the other: the last answer is the newest. */
  ask(method, path, values = {}, after = () => {}) {
    this.open++;
    this.root.setAttribute('aria-busy', 'true');
    this.queue = this.queue.then(async () => {
      // htmx swaps the answer before it resolves, so the mark goes before the swap.
      const stop = (e) => {
        if (e.detail.target === this.root) after();
      };
      document.body.addEventListener('htmx:beforeSwap', stop);
      try {
        await htmx.ajax(method, `/models/${this.model}/${path}`, { source: this.root, target: this.root, swap: 'morph:innerHTML', values: { ...this.extra(), ...values } });
      } finally {
        document.body.removeEventListener('htmx:beforeSwap', stop);
        after();
      }
      this.showPending();
    }).catch(() => {}).finally(() => {
      this.open--;
      if (!this.open) this.root.removeAttribute('aria-busy');
    });
    return this.queue;
  }

  showPending() {
    for (const [place, { value }] of this.pending) {
      for (const f of document.querySelectorAll(`.val[data-place="${CSS.escape(place)}"]`)) f.value = value;
    }
  }
}
