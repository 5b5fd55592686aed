// The line at the head of the brief: what is typed there is found in the model, added to it or changed
// in it, for those who would rather type than point. It offers what fits, and Enter does the first.

const MOST = 9; // offers

/** A text without marks and case, for comparing. */
const bare = (text) => text.toLowerCase().replace(/\s+/g, ' ').trim();

export class Line {
  /** @param {Element} brief  @param {object} act - post(values), set(place, value), go(place) and open(part) */
  constructor(brief, act) {
    Object.assign(this, { brief, act, offers: [], at: 0 });
    this.list = document.createElement('ul');
    this.list.className = 'line-list';
    this.list.id = 'line-list';
    this.list.setAttribute('role', 'listbox');
    this.list.setAttribute('aria-label', 'what the line can do');
    this.list.hidden = true;
    document.body.append(this.list);
    brief.addEventListener('input', (e) => { if (e.target.id === 'line') this.show(); });
    brief.addEventListener('focusin', (e) => { if (e.target.id === 'line') this.show(); });
    brief.addEventListener('focusout', (e) => { if (e.target.id === 'line') this.list.hidden = true; });
    brief.addEventListener('keydown', (e) => { if (e.target.id === 'line') this.key(e); });
    this.list.addEventListener('mousedown', (e) => {
      e.preventDefault(); // the line keeps the focus until the offer is taken
      const li = e.target.closest('li');
      if (li) this.take(this.offers[li.dataset.at]);
    });
    document.addEventListener('keydown', (e) => {
      if (e.key !== '/' || e.ctrlKey || e.metaKey || e.altKey || e.target.closest('input, textarea, select, dialog')) return;
      e.preventDefault();
      this.field.focus();
      this.field.select();
    });
  }

  get field() { return document.getElementById('line'); }

  /** All that the brief has and can do, in words. */
  things() {
    const list = [], words = (el) => [...el.childNodes].map((n) => (n.nodeType === 3 ? n.textContent : n.matches?.('select') ? n.selectedOptions[0]?.text ?? '' : n.matches?.('input, textarea') ? n.value || n.placeholder : n.matches?.('.acts, .cross, details, .fig, svg') ? '' : words(n))).join(' ');
    for (const el of this.brief.querySelectorAll('.sentence[data-sentence]')) {
      const id = el.dataset.sentence, section = id.startsWith('r') && el.matches('.reading') ? 'readings' : 'conditions';
      list.push({ does: 'go to', words: `${id}: ${bare(words(el.querySelector('.saying, .reading-name') ?? el))}`, do: () => this.act.go(`${section}/${id}`) });
    }
    for (const el of this.brief.querySelectorAll('.part')) list.push({ does: 'go to', words: el.querySelector('[data-place$="/name"]').value, do: () => this.act.open(el.dataset.part) });
    for (const el of this.brief.querySelectorAll('#parameters-rows > li')) {
      const name = el.querySelector('[data-place$="/name"]').value;
      list.push({ does: 'go to', words: `${name}: ${el.querySelector('[data-place$="/about"]').value}`, do: () => this.act.go(`parameters/${name}/value`) });
    }
    for (const [kinds, does] of [['[data-kinds="condition"]', 'add condition'], ['[data-kinds="reading"]', 'add reading']]) {
      for (const b of this.brief.querySelectorAll(`${kinds} button[data-op]`)) list.push({ does, words: bare(b.textContent), also: b.dataset.group, do: () => this.act.post(JSON.parse(b.dataset.op)) });
    }
    for (const b of this.brief.querySelectorAll('button[data-op*="add-part"]')) list.push({ does: 'add part', words: bare(b.textContent), do: () => this.act.post(JSON.parse(b.dataset.op)) });
    for (const b of this.brief.querySelectorAll('.sec > header > .menu > button[data-op], .sec > header .two button[data-op]')) list.push({ does: 'add', words: bare(b.textContent).replace(/^\+ /, ''), do: () => this.act.post(JSON.parse(b.dataset.op)) });
    return list;
  }

  /** What the text says to change: name = value, or part: material. */
  changes(text) {
    const list = [];
    const equal = /^([\p{L}_][\p{L}\d_]*)\s*=\s*(.+)$/u.exec(text);
    if (equal) {
      const [, name, value] = equal;
      if (this.brief.querySelector(`[data-place="parameters/${CSS.escape(name)}/value"]`)) list.push({ does: 'set', words: `${name} to ${value}`, do: () => this.act.set(`parameters/${name}/value`, value) });
      else list.push({ does: 'add parameter', words: `${name} = ${value}`, do: () => this.act.post({ op: 'add-parameter', name, value }) });
    }
    const made = /^(.+?)\s*:\s*(.+)$/.exec(text);
    if (made) {
      const part = [...this.brief.querySelectorAll('.part')].find((el) => bare(el.querySelector('[data-place$="/name"]').value).startsWith(bare(made[1])));
      const materials = [...document.querySelectorAll('#materials option')].map((o) => o.value).filter((m) => bare(m).includes(bare(made[2])));
      if (part) for (const m of materials) list.push({ does: 'make', words: `${part.querySelector('[data-place$="/name"]').value} of ${m}`, do: () => this.act.set(`parts/${part.dataset.part}/material`, m) });
    }
    return list;
  }

  /** Offers what has all words: what the sheet has before what may be added, those that begin with them first. */
  show() {
    const text = this.field.value, terms = bare(text).split(' ').filter(Boolean);
    const score = (thing) => {
      const all = bare(`${thing.does} ${thing.words} ${thing.also ?? ''}`);
      if (!terms.every((t) => all.includes(t))) return 0;
      return terms.reduce((sum, t) => sum + (bare(thing.words).startsWith(t) ? 3 : ` ${all}`.includes(` ${t}`) ? 2 : 1), 0);
    };
    const found = terms.length ? this.things().map((t) => [score(t), t]).filter(([n]) => n).sort(([n, a], [m, b]) => (b.does === 'go to') - (a.does === 'go to') || m - n).map(([, t]) => t) : [];
    this.offers = [...this.changes(text.trim()), ...found].slice(0, MOST);
    this.at = 0;
    this.draw();
  }

  draw() {
    const { field, list } = this;
    list.hidden = !field.value.trim();
    field.setAttribute('aria-expanded', String(!list.hidden));
    if (list.hidden) return;
    const box = field.getBoundingClientRect();
    Object.assign(list.style, { left: `${box.left}px`, top: `${box.bottom + 2}px`, width: `${Math.max(box.width, 360)}px` });
    list.replaceChildren(...this.offers.map((o, i) => {
      const li = document.createElement('li');
      li.id = `line-offer-${i}`;
      li.dataset.at = i;
      li.setAttribute('role', 'option');
      li.setAttribute('aria-selected', String(i === this.at));
      const does = document.createElement('span');
      does.className = 'cap';
      does.textContent = o.does;
      li.append(does, ` ${o.words}`);
      return li;
    }));
    if (!this.offers.length) {
      const li = document.createElement('li');
      li.className = 'none';
      li.textContent = 'Nothing has these words. t = 6 mm sets a parameter, pan floor: copper a material.';
      list.append(li);
    }
    field.setAttribute('aria-activedescendant', this.offers.length ? `line-offer-${this.at}` : '');
  }

  key(e) {
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      e.preventDefault();
      const n = this.offers.length;
      if (n) this.at = (this.at + (e.key === 'ArrowDown' ? 1 : n - 1)) % n;
      this.draw();
    } else if (e.key === 'Enter') {
      e.preventDefault();
      if (this.offers.length) this.take(this.offers[this.at]);
    } else if (e.key === 'Escape') {
      this.field.value = '';
      this.field.blur();
    }
  }

  /** Does what an offer says; what leads nowhere else leaves the cursor in the line. */
  async take(offer) {
    const { field } = this;
    field.value = '';
    this.list.hidden = true;
    if (offer.does === 'go to' || offer.does.startsWith('add')) field.blur();
    await offer.do();
  }
}
