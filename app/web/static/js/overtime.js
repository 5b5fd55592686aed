// Charts over time: a pointer that shows the moment and the value on the curve, moved by the
// mouse or the arrow keys.

const SVG = 'http://www.w3.org/2000/svg';

/** Prints a number with four figures, with a true minus. */
function figures(x) {
  if (x === 0) return '0';
  const places = Math.max(0, 3 - Math.floor(Math.log10(Math.abs(x))));
  return x.toFixed(Math.min(places, 8)).replace('-', '−');
}

function element(name, attributes) {
  const node = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, value);
  return node;
}

function follow(figure) {
  const plot = JSON.parse(figure.dataset.plot);
  const svg = figure.querySelector('svg');
  const output = figure.querySelector('output');
  const line = element('line', { class: 'pointer', y1: plot.top, y2: plot.bottom });
  const dot = element('circle', { class: 'pointer', r: 2.6 });
  let at = plot.x.length - 1;

  const show = (i) => {
    at = Math.min(Math.max(i, 0), plot.x.length - 1);
    line.setAttribute('x1', plot.x[at]);
    line.setAttribute('x2', plot.x[at]);
    dot.setAttribute('cx', plot.x[at]);
    dot.setAttribute('cy', plot.y[at]);
    svg.append(line, dot);
    output.textContent = `${figures(plot.values[at])} ${figure.dataset.unit} at ${figures(plot.times[at])} ${figure.dataset.timeUnit}`;
  };
  const hide = () => {
    line.remove();
    dot.remove();
    output.textContent = '';
  };
  svg.addEventListener('pointermove', (event) => {
    const box = svg.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * svg.viewBox.baseVal.width;
    let best = 0;
    for (let i = 1; i < plot.x.length; i++) if (Math.abs(plot.x[i] - x) < Math.abs(plot.x[best] - x)) best = i;
    show(best);
  });
  svg.addEventListener('pointerleave', () => { if (document.activeElement !== figure) hide(); });
  figure.addEventListener('focus', () => show(at));
  figure.addEventListener('blur', hide);
  figure.addEventListener('keydown', (event) => {
    const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10, Home: -plot.x.length, End: plot.x.length }[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    show(at + step);
  });
}

for (const figure of document.querySelectorAll('.over-time[data-plot]')) follow(figure);
