// Several parts that are chosen get a material, a role or a group at once, or go. They are chosen by a frame on
// the drawing (Shift and drag), or in the brief by their numbers (Ctrl or Shift and a click).

export class Chosen {
  /** @param {object} host - post(values), choose(ids), hide(ids), and parts(), with id and name, of the drawing */
  constructor(host, brief) {
    Object.assign(this, { host, brief, ids: [], box: document.getElementById('chosen') });
    this.box.addEventListener('change', (e) => {
      const { what } = e.target.dataset;
      if (what) this.set(what, e.target.value.trim());
    });
    this.box.addEventListener('click', (e) => {
      const { deed } = e.target.dataset, id = this.ids.join(',');
      if (deed === 'hide') host.hide(this.ids);
      if (deed === 'remove') host.post({ op: 'remove-parts', id });
      if (deed) host.choose([]);
    });
    brief.addEventListener('click', (e) => {
      const balloon = e.target.closest('.balloon');
      if (!balloon || !(e.ctrlKey || e.metaKey || e.shiftKey)) return;
      e.stopImmediatePropagation();
      const id = balloon.dataset.open;
      host.choose(this.ids.includes(id) ? this.ids.filter((x) => x !== id) : [...this.ids, id]);
    }, true);
  }

  set(what, value) {
    if (what !== 'group' && !value) return; // a part has a material and a role
    this.host.post({ op: 'set-parts', id: this.ids.join(','), what, value });
  }

  /** Shows what can be done with parts; with none it goes. */
  show(ids) {
    const before = this.ids.join();
    this.ids = ids;
    this.box.hidden = !ids.length;
    this.mark();
    if (!ids.length || before === ids.join()) return;
    const parts = this.host.parts().filter((p) => ids.includes(p.id));
    this.box.querySelector('b').textContent = parts.length === 1 ? parts[0].name : `${parts.length} parts`;
    const value = (id, what) => this.brief.querySelector(`[data-place="parts/${CSS.escape(id)}/${what}"]`)?.value ?? '';
    for (const field of this.box.querySelectorAll('[data-what]')) { // what all of them have
      const list = new Set(field.dataset.what === 'group' ? ids.map((id) => this.brief.querySelector(`.part[data-part="${CSS.escape(id)}"]`)?.dataset.group ?? '') : ids.map((id) => value(id, field.dataset.what)));
      field.value = list.size === 1 ? [...list][0] : '';
      if (field.tagName === 'INPUT') field.placeholder = list.size === 1 ? 'none' : 'different';
    }
  }

  /** Marks the rows of the parts that are chosen. */
  mark() {
    for (const el of this.brief.querySelectorAll('.part')) el.classList.toggle('is-chosen', this.ids.includes(el.dataset.part));
  }
}
