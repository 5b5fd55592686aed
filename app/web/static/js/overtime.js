// Charts of readings over time or over frequency.

import { Chart } from './chart.js';
import { figures } from './figures.js';

for (const figure of document.querySelectorAll('.over-time[data-plot]')) {
  const { times, values } = JSON.parse(figure.dataset.plot), { name, unit, timeUnit, over } = figure.dataset;
  const output = figure.querySelector('output');
  const told = (plot) => {
    const i = plot.cursor.idx;
    output.textContent = i === null || i === undefined || values[i] === null ? '' : `${figures(values[i])} ${unit} at ${figures(times[i])} ${timeUnit}`;
  };
  new Chart(figure.querySelector('.plot'), { name: name.replaceAll(' ', '-'), x: { label: over, unit: timeUnit, values: times }, y: { label: '', unit }, series: [{ label: name, values }], height: 150, legend: false, hooks: { setCursor: [told] } }).tools(figure);
}
