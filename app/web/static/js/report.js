// The report: its plates are drawn one after another and become pictures, so that a printer has them.

import { Pane } from './pane.js';
import { say } from './page.js';

async function draw() {
  const settings = document.getElementById('report-plates'), figures = [...document.querySelectorAll('.report-picture')];
  const configs = settings ? JSON.parse(settings.textContent) : [];
  for (const [i, config] of configs.entries()) {
    const holder = figures[i], canvas = holder.querySelector('canvas');
    try {
      const pane = new Pane(config, holder, { seen: new Map(Object.entries(config.seen).map(([part, how]) => [Number(part), how])), extents: [config.extent], edit: () => {} });
      await pane.load();
      await pane.settled();
      holder.querySelector('.colourbar').innerHTML = pane.scale.bar();
      pane.view.renderer.render(pane.view.scene, pane.view.camera);
      pane.view.drawLabels();
      const picture = document.createElement('img');
      picture.alt = canvas.getAttribute('aria-label');
      picture.className = 'canvas';
      picture.src = canvas.toDataURL('image/png');
      await picture.decode();
      canvas.replaceWith(picture);
      pane.view.close();
    } catch (fault) {
      holder.textContent = fault.message;
    }
  }
  document.documentElement.dataset.drawn = 'yes';
}

document.getElementById('print').addEventListener('click', () => window.print());
draw().catch((fault) => say(fault.message));
