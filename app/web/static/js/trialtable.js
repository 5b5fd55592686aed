// The table of trials: sorted, filtered, with columns hidden and trials chosen, and the slip of the one that is marked.

const COMPARE = { '<': (a, b) => a < b, '>': (a, b) => a > b, '≤': (a, b) => a <= b, '≥': (a, b) => a >= b, '=': (a, b) => a === b };

export class Table {
  constructor(root, act) {
    Object.assign(this, { root, act, by: null, down: false, chosen: new Set(), brushed: null, hidden: new Set() });
    root.addEventListener('click', (e) => {
      const head = e.target.closest('.trials-table th button');
      if (head) this.sort(head.closest('th'));
      const chosen = e.target.closest('[data-chosen]');
      if (chosen) this.use(chosen);
      if (e.target.id === 'choose-marked') {
        for (const r of this.rows()) this.choose(r.dataset.trial, r.hasAttribute('data-marked'));
        this.count();
      }
      const slip = e.target.closest('[data-slip]');
      if (slip) this.slip(slip);
    });
    root.addEventListener('input', (e) => { if (e.target.id === 'trial-filter') this.filter(); });
    root.addEventListener('change', (e) => {
      if (e.target.matches('.choose')) this.choose(e.target.closest('tr').dataset.trial, e.target.checked);
      else if (e.target.id === 'choose-all') this.rows().filter((r) => !r.hidden).forEach((r) => this.choose(r.dataset.trial, e.target.checked));
      else if (e.target.matches('[data-column]')) this.column(e.target.dataset.column, !e.target.checked);
      else return;
      this.count();
    });
    root.addEventListener('submit', (e) => {
      const form = e.target.closest('.by-hand');
      if (!form) return;
      e.preventDefault();
      this.form = null;
      act.post(form.getAttribute('action'), Object.fromEntries(new FormData(form)));
    });
  }

  get table() { return this.root.querySelector('.trials-table table'); }

  rows() { return [...this.root.querySelectorAll('.trials-table tbody tr')]; }

  heads() { return [...this.root.querySelectorAll('.trials-table thead th')]; }

  /** What was hidden, chosen and sorted stays so when the table comes anew. */
  fill() {
    const { table } = this;
    if (!table) return;
    const columns = this.root.querySelector('#trial-columns');
    columns.replaceChildren(...this.heads().filter((h) => h.dataset.key).map((h) => {
      const label = document.createElement('label'), box = document.createElement('input');
      Object.assign(box, { type: 'checkbox', checked: !this.hidden.has(h.dataset.key) });
      box.dataset.column = h.dataset.key;
      label.append(box, ` ${h.textContent}`);
      return label;
    }));
    for (const key of this.hidden) this.column(key, true);
    for (const r of this.rows()) r.querySelector('.choose').checked = this.chosen.has(r.dataset.trial);
    if (this.by !== null) this.order();
    this.filter();
    this.count();
    if (this.at !== undefined) this.open(this.at);
  }

  sort(head) {
    const by = this.heads().indexOf(head);
    this.down = this.by === by && !this.down;
    this.by = by;
    this.order();
  }

  order() {
    const { by, down } = this;
    this.heads().forEach((h, i) => { if (h.hasAttribute('aria-sort')) h.setAttribute('aria-sort', i === by ? (down ? 'descending' : 'ascending') : 'none'); });
    const value = (r) => (r.children[by]?.dataset.value ? Number(r.children[by].dataset.value) : null);
    // Those without a value come last either way.
    const rows = this.rows().map((r) => [value(r), r]).sort(([a], [b]) => (a === null) - (b === null) || (down ? b - a : a - b));
    this.table.tBodies[0].append(...rows.map(([, r]) => r));
  }

  column(key, hide) {
    if (hide) this.hidden.add(key);
    else this.hidden.delete(key);
    const i = this.heads().findIndex((h) => h.dataset.key === key);
    if (i < 0) return;
    this.heads()[i].hidden = hide;
    for (const r of this.rows()) r.children[i].hidden = hide;
  }

  /** Shows the trials that were brushed in the chart alone, or all for null. */
  only(trials) {
    this.brushed = trials;
    this.filter();
  }

  /** Words of the line, or a comparison of a column: its name or key, a sign and a number in the unit of the column. */
  filter() {
    const field = this.root.querySelector('#trial-filter');
    if (!field) return;
    const text = field.value.trim(), m = /^(.+?)\s*(<=|>=|[<>=≤≥])\s*([-+−]?[\d.,]+(?:e[-+]?\d+)?)/i.exec(text);
    const heads = this.heads();
    let keep = (r) => r.textContent.toLowerCase().includes(text.toLowerCase());
    let wrong = '';
    if (m) {
      const name = m[1].toLowerCase(), sign = COMPARE[{ '<=': '≤', '>=': '≥' }[m[2]] ?? m[2]], number = Number(m[3].replace('−', '-').replace(',', '.'));
      const exact = heads.findIndex((h) => h.dataset.key?.toLowerCase() === name);
      const i = exact >= 0 ? exact : heads.findIndex((h) => h.textContent.trim().toLowerCase().startsWith(name));
      if (i < 0 || Number.isNaN(number)) wrong = `no column begins with “${m[1]}”`;
      else keep = (r) => r.children[i].dataset.value && sign(Number(r.children[i].dataset.value), number);
    }
    field.setCustomValidity(wrong);
    field.title = wrong;
    let shown = 0;
    for (const r of this.rows()) {
      r.hidden = !wrong && text !== '' && !keep(r) || this.brushed !== null && !this.brushed.has(Number(r.dataset.trial));
      shown += !r.hidden;
    }
    this.shown = shown;
    this.count();
  }

  choose(trial, on) {
    if (on) this.chosen.add(trial);
    else this.chosen.delete(trial);
    const box = this.root.querySelector(`.trials-table tr[data-trial="${trial}"] .choose`);
    if (box) box.checked = on;
  }

  count() {
    const words = this.root.querySelector('#chosen-words');
    if (!words) return;
    const all = this.rows().length, parts = [];
    if (this.shown < all) parts.push(`${this.shown} of ${all} shown`);
    if (this.chosen.size) parts.push(`${this.chosen.size} chosen`);
    words.textContent = parts.join(' · ');
    for (const b of this.root.querySelectorAll('[data-chosen]')) b.disabled = !this.chosen.size;
  }

  use(button) {
    const places = [...this.chosen].join(','), does = button.dataset.chosen;
    const values = { places };
    if (does !== 'run') values.marked = does === 'mark';
    if (button.dataset.set) values.set = button.dataset.set;
    this.chosen.clear();
    this.act.post(button.dataset.path, values);
  }

  /** The slip of a trial: its values, and what can be done with it. */
  open(trial) {
    const slip = this.root.querySelector('#trial-slip'), row = this.root.querySelector(`.trials-table tr[data-trial="${trial}"]`);
    if (!slip || !row) return;
    this.at = trial;
    row.classList.add('marked');
    const heads = this.heads(), series = this.root.querySelector('[data-chosen="mark"]')?.dataset.path.replace('/mark', '');
    const words = document.createElement('p');
    const b = document.createElement('b');
    b.textContent = `Trial ${row.children[1].textContent}`;
    words.append(b);
    heads.forEach((h, i) => {
      if (!h.dataset.key || !row.children[i].textContent) return;
      const [name, unit] = h.textContent.trim().split(', ').length > 1 ? [h.textContent.trim().replace(/, [^,]*$/, ''), h.textContent.trim().replace(/^.*, /, '')] : [h.textContent.trim(), ''];
      words.append(` · ${name} `);
      const value = document.createElement('span');
      value.className = 'fig';
      value.textContent = `${row.children[i].textContent.replace('✎', '')} ${unit}`.trim();
      words.append(value);
    });
    const does = document.createElement('p');
    const button = (text, action) => {
      const el = document.createElement('button');
      Object.assign(el, { className: 'link-button', textContent: text });
      el.dataset.slip = action;
      does.append(el, ' ');
    };
    if (series && row.dataset.made === 'true') {
      button('put it on the sheet', 'use');
      if (row.dataset.run) {
        const link = document.createElement('a');
        Object.assign(link, { href: `plates?run=${row.dataset.run}`, textContent: 'show its plates' });
        does.append(link, ' ');
      }
      button(row.dataset.counts === 'true' ? 'leave it out' : 'keep it', 'keep');
      button('set a value by hand', 'hand');
      if (!row.dataset.slopes) button('its slopes', 'slopes');
    }
    if (this.form?.dataset.trial !== String(trial)) this.form = null;
    if (row.dataset.slopes) {
      const slopes = document.createElement('span');
      Object.assign(slopes, { className: 'aside', textContent: row.dataset.slopes });
      words.append(document.createElement('br'), slopes);
    }
    slip.replaceChildren(words, does, ...this.form ? [this.form] : []); // what is being typed stays when the table comes anew
    slip.hidden = false;
  }

  slip(button) {
    const series = this.root.querySelector('[data-chosen="mark"]').dataset.path.replace('/mark', ''), place = this.at;
    const row = this.root.querySelector(`.trials-table tr[data-trial="${place}"]`);
    switch (button.dataset.slip) {
      case 'use': return this.act.submit(`${series}/use`, { place });
      case 'keep': return this.act.post(`${series}/keep`, { place, kept: row.dataset.counts !== 'true' });
      case 'slopes': return this.act.post(`${series}/slopes`, { place });
      default: return this.hand(series, place);
    }
  }

  /** Asks for a value by hand, and why. */
  hand(series, place) {
    const form = document.createElement('form');
    form.className = 'by-hand';
    form.dataset.trial = place;
    form.action = `${series}/by-hand`;
    const readings = this.heads().filter((h) => /^r\d+$/.test(h.dataset.key ?? ''));
    const input = (name, hint, size) => {
      const el = document.createElement('input');
      Object.assign(el, { name, placeholder: hint, size, className: 'val', autocomplete: 'off' });
      el.setAttribute('aria-label', hint);
      return el;
    };
    const select = document.createElement('select');
    Object.assign(select, { name: 'reading', className: 'val' });
    select.setAttribute('aria-label', 'reading');
    for (const h of readings) select.append(new Option(h.textContent.trim(), h.dataset.key));
    const hidden = input('place', 'trial', 1), button = document.createElement('button');
    Object.assign(hidden, { type: 'hidden', value: place });
    Object.assign(button, { className: 'link-button', textContent: 'set' });
    form.append(hidden, select, ' is ', input('value', 'value, empty for the computed', 22), ' as ', input('reason', 'reason', 24), ' ', button);
    this.form?.remove();
    this.form = form;
    this.root.querySelector('#trial-slip').append(form);
    select.focus();
  }
}
