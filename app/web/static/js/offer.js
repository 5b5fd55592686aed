// What can act on a surface that was clicked, or on its part: sentences by what
// they are about, found by typing, beside the place of the click.

import { escaped } from './page.js';

/** Offers the kinds of sentences that the menus of a brief list. */
export class Offer {
  /**
   * @param {HTMLElement} area - where the offer is shown
   * @param {HTMLElement} brief - holds the menus
   * @param {(kind: string, on: string) => void} choose - is told what was chosen
   * @param {(part: string) => void} openPart - shows the dimensions of a part
   * @param {(name: string, what: {part: string, on: string}) => void} act - finer, hide, move
   * @param {() => object[]} flags - what sentences are about
   * @param {(what: {sentence: string, section: string, patch: string, on: string}) => void} patch - adds a surface to a sentence or takes it away
   */
  constructor(area, brief, choose, openPart, act, flags, patch) {
    Object.assign(this, { area, brief, choose, openPart, act, flags, patch });
    area.addEventListener('click', (e) => this.clicked(e));
    area.addEventListener('input', (e) => { if (e.target.matches('.finder')) this.find(e.target.value); });
    area.addEventListener('keydown', (e) => this.keyed(e));
  }

  get hidden() {
    return this.area.hidden;
  }

  close() {
    this.area.hidden = true;
  }

  /** The kinds of one menu, in its order. */
  kinds(menu) {
    return [...this.brief.querySelectorAll(`[data-kinds="${menu}"] button`)].map((b) => ({
      key: JSON.parse(b.dataset.op).kind, title: b.textContent, group: b.dataset.group, acts: b.dataset.acts.split(' '),
    }));
  }

  /** Shows what can act on a surface of a part, or on one copy of it, at a place of the window. */
  open({ part, side, copy, within }, { clientX, clientY }) {
    within ||= side.name === ''; // between the points of a line
    const used = new Set([...this.brief.querySelectorAll('[data-sentence][data-kind]')].map((s) => s.dataset.kind));
    const row = (k, read) => {
      const places = [['surface', escaped(`${part.id}|${side.name}`), 'here'], ['body', escaped(part.id), 'part']].filter(([acts]) => k.acts.includes(acts) && !(within && acts === 'surface'));
      if (!places.length) return '';
      if (!read && places.length === 1 && places[0][2] === 'here') return `<li><button data-kind="${escaped(k.key)}" data-on="${places[0][1]}">${escaped(k.title)}</button></li>`;
      return `<li class="either"><span>${escaped(k.title)}</span>${places.map(([, on, word]) => `<button data-kind="${escaped(k.key)}" data-on="${on}" aria-label="${escaped(k.title)}: ${word}">${word}</button>`).join('')}</li>`;
    };
    const groups = (menu, prefix, read) => {
      const kinds = this.kinds(menu);
      return [...new Set(kinds.map((k) => k.group))].map((group, i) => {
        const mine = kinds.filter((k) => k.group === group);
        const rows = mine.map((k) => row(k, read)).join('');
        const open = !read && (i === 0 || mine.some((k) => used.has(k.key)));
        return rows && `<details ${open ? 'open' : ''}><summary>${prefix}${escaped(group)}</summary><ul>${rows}</ul></details>`;
      }).join('');
    };
    this.area.innerHTML = `<header><b></b><button class="cross" data-close aria-label="close">×</button></header>
      <input class="finder" placeholder="type to find" aria-label="find a sentence" autocomplete="off" spellcheck="false">
      ${part.copies.length > 1 ? `<p class="which"><label><input type="radio" name="which" value="" checked> every copy</label><label><input type="radio" name="which" value="${copy}"> number ${copy} alone</label></p>` : ''}
      ${this.also(part, side)}
      <div class="groups">${groups('condition', '', false)}${groups('reading', 'read: ', true)}</div>
      <p class="deeds"><button data-part-open="${escaped(part.id)}">dimensions</button><button data-act="move">move it</button><button data-act="hide">hide it</button>${within ? '' : '<button data-act="finer">finer cells here</button><button data-act="layers">layers here</button>'}</p>`;
    this.what = { part: part.id, on: `${part.id}|${side.name}` };
    this.area.querySelector('b').textContent = within ? part.name : side.words;
    for (const d of this.area.querySelectorAll('details')) d.dataset.first = d.open ? 'open' : '';
    this.area.hidden = false;
    const frame = this.area.offsetParent.getBoundingClientRect();
    const kept = (at, size, room) => `${Math.max(Math.min(at, room - size - 8), 8)}px`;
    this.area.style.maxHeight = `${frame.height - 16}px`;
    this.area.style.left = kept(clientX - frame.left + 14, this.area.offsetWidth, frame.width);
    this.area.style.top = kept(clientY - frame.top - 20, this.area.offsetHeight, frame.height);
    this.area.querySelector('.finder').focus({ preventScroll: true });
  }

  /** Sentences to which a surface can be added, and those from which it can be taken away. */
  also(part, side) {
    const on = side.name === '' ? part.id : `${part.id}|${side.name}`;
    const buttons = this.flags().filter((f) => f.on.every((o) => (o.side === '') === (side.name === ''))).map((f) => {
      const has = f.on.some((o) => o.part === part.id && (o.side === '*' || o.side === side.name));
      return has && f.on.length < 2 && f.on[0].side !== '*' ? '' : `<button data-sentence="${escaped(f.id)}" data-section="${f.reading ? 'readings' : 'conditions'}" data-patch="${has ? 'take' : 'add'}" data-on="${escaped(on)}" title="${escaped(f.words)}">${has ? 'not ' : ''}${escaped(f.id)}</button>`;
    }).join('');
    return buttons && `<p class="also"><span>here, too:</span>${buttons}</p>`;
  }

  /** Narrows the offer to the sentences that hold all the words typed. */
  find(typed) {
    const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
    for (const group of this.area.querySelectorAll('details')) {
      let left = 0;
      for (const li of group.querySelectorAll('li')) {
        const text = `${group.querySelector('summary').textContent} ${li.textContent}`.toLowerCase();
        li.hidden = !words.every((w) => text.includes(w));
        left += !li.hidden;
      }
      group.hidden = !left;
      group.open = words.length ? left > 0 : group.dataset.first === 'open';
    }
  }

  /** The keys of the finder: Enter takes the first sentence, the arrows go through them. */
  keyed(e) {
    const shown = [...this.area.querySelectorAll('details[open]:not([hidden]) li:not([hidden]) button')];
    const at = shown.indexOf(document.activeElement);
    if (e.key === 'Enter' && e.target.matches('.finder')) {
      e.preventDefault();
      shown[0]?.click();
    }
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      e.preventDefault();
      const next = at + (e.key === 'ArrowDown' ? 1 : -1);
      (shown[next] ?? this.area.querySelector('.finder')).focus();
    }
  }

  clicked(e) {
    const b = e.target.closest('button');
    if (!b) return;
    if (b.dataset.kind) {
      const copy = this.area.querySelector('[name=which]:checked')?.value;
      this.choose(b.dataset.kind, copy ? `${b.dataset.on}${b.dataset.on.includes('|') ? '' : '|'}|${copy}` : b.dataset.on);
    }
    if (b.dataset.patch) this.patch(b.dataset);
    if (b.dataset.partOpen) this.openPart(b.dataset.partOpen);
    this.close();
    if (b.dataset.act) this.act(b.dataset.act, this.what);
  }
}
