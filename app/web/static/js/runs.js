// The table of runs: readings that are not wanted are hidden, runs are sorted by a reading, and the table is
// turned. What was chosen stays in this browser, model by model.

import { Chart } from './chart.js';

const table = document.getElementById('runs'), tools = document.getElementById('runs-tools');

if (table) {
  const key = `runs of ${document.getElementById('plates').dataset.model}`;
  const head = [...table.tHead.rows[0].cells], columns = head.slice(2).map((el) => ({ el, key: el.dataset.column, name: el.textContent }));
  const runs = [...table.tBodies[0].rows].map((row, order) => ({ order, chosen: row.classList.contains('chosen'), link: row.cells[0], what: row.cells[1], cells: [...row.cells].slice(2) }));
  const plot = document.getElementById('runs-chart');
  let chart = null;
  const kept = JSON.parse(localStorage.getItem(key) ?? '{}');
  const state = { turned: kept.turned ?? table.dataset.turned === 'true', hidden: new Set(kept.hidden), by: kept.by ?? null, down: kept.down ?? false };

  /** A cell in place of another one, which has the same content. */
  const as = (el, tag, attributes = {}) => {
    const cell = document.createElement(tag);
    for (const { name, value } of el.attributes) cell.setAttribute(name, value);
    cell.append(...el.childNodes);
    Object.assign(cell, attributes);
    return cell;
  };
  const button = (text, label, act) => {
    const b = Object.assign(document.createElement('button'), { className: 'link-button', textContent: text, onclick: act });
    b.setAttribute('aria-label', label);
    return b;
  };
  const change = (values) => {
    Object.assign(state, values);
    if (chart) overRuns();
    try {
      localStorage.setItem(key, JSON.stringify({ ...state, hidden: [...state.hidden] }));
    } catch { /* without room for it the choice lasts as long as the page */ }
    draw();
  };

  /** Runs in their order: the newest first, or by a reading. */
  const sorted = () => {
    const i = columns.findIndex((c) => c.key === state.by);
    if (i < 0) return runs;
    const value = (r) => Number(r.cells[i].dataset.sort ?? NaN), way = state.down ? -1 : 1;
    return [...runs].sort((a, b) => (Number.isNaN(value(a)) - Number.isNaN(value(b))) || way * (value(a) - value(b)) || a.order - b.order);
  };

  function title(c) {
    const th = as(c.el, 'th', { scope: state.turned ? 'row' : 'col' }), by = state.by === c.key;
    th.setAttribute('aria-sort', by ? (state.down ? 'descending' : 'ascending') : 'none');
    const name = button(`${c.name}${by ? (state.down ? ' ↓' : ' ↑') : ''}`, `sort the runs by ${c.name}`, () => change(by && state.down ? { by: null, down: false } : { by: c.key, down: by }));
    const hide = button('×', `hide ${c.name}`, () => change({ hidden: new Set([...state.hidden, c.key]) }));
    name.classList.add('column-name');
    hide.classList.add('cross');
    th.replaceChildren(name, hide);
    return th;
  }

  /** A reading over the numbers of the runs: that by which they are sorted, or the first one that is shown. */
  function overRuns() {
    const i = Math.max(0, columns.findIndex((c) => c.key === (state.by ?? columns.find((d) => !state.hidden.has(d.key))?.key)));
    const list = [...runs].reverse(), [name, unit = ''] = columns[i].name.split(/, (?=[^,]*$)/), factor = (cell) => Number(cell.firstChild.textContent.replace('−', '-').replaceAll(/[\s\u202f]/g, ''));
    chart?.close();
    plot.hidden = false;
    chart = new Chart(plot, { name: 'readings-over-runs', x: { label: 'run', unit: '', values: list.map((r) => Number(r.link.textContent.match(/\d+/)[0])) }, y: { label: name, unit }, dots: true,
      series: [{ label: name, values: list.map((r) => { const v = factor(r.cells[i]); return Number.isFinite(v) ? v : null; }) }] });
  }

  function draw() {
    const shown = columns.map((c, i) => ({ ...c, i })).filter((c) => !state.hidden.has(c.key)), list = sorted();
    const mark = (cell, run) => { cell.classList.toggle('chosen', run.chosen); return cell; };
    for (const r of list) { // contents move to new cells each time
      r.link = as(r.link, state.turned ? 'th' : 'td');
      r.what = as(r.what, 'td');
      r.cells = r.cells.map((c) => as(c, 'td'));
    }
    table.classList.toggle('turned', state.turned);
    const rows = state.turned
      ? [[as(head[0], 'th', { scope: 'col' }), ...list.map((r) => mark(r.link, r))], [as(head[1], 'th', { scope: 'row' }), ...list.map((r) => mark(r.what, r))], ...shown.map((c) => [title(c), ...list.map((r) => mark(r.cells[c.i], r))])]
      : [[as(head[0], 'th'), as(head[1], 'th'), ...shown.map(title)], ...list.map((r) => [r.link, r.what, ...shown.map((c) => r.cells[c.i])].map((cell) => mark(cell, r)))];
    [head[0], head[1]] = state.turned ? [rows[0][0], rows[1][0]] : rows[0];
    const heads = state.turned ? 2 : 1;
    const build = (cells) => {
      const tr = document.createElement('tr');
      tr.append(...cells);
      return tr;
    };
    table.tHead.replaceChildren(...rows.slice(0, heads).map(build));
    table.tBodies[0].replaceChildren(...rows.slice(heads).map(build));
    tools.hidden = false;
    tools.replaceChildren(button(state.turned ? 'runs as rows' : 'runs as columns', 'turn the table', () => change({ turned: !state.turned })));
    tools.append(' ', button(chart ? 'no chart' : 'chart over the runs', 'a reading over the runs', () => {
      if (chart) {
        chart.close();
        chart = null;
        plot.replaceChildren();
        plot.hidden = true;
      } else overRuns();
      draw();
    }));
    const away = columns.filter((c) => state.hidden.has(c.key));
    if (away.length) tools.append(' Hidden: ', ...away.flatMap((c, i) => [i ? ', ' : '', button(c.name, `show ${c.name} again`, () => change({ hidden: new Set([...state.hidden].filter((k) => k !== c.key)) }))]));
  }
  draw();
}
