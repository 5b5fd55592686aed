// Lists of places of a device are long: they are fetched when one is about to be opened.

import { say } from './page.js';
import { head } from './window.js';

/** Fills the selects in an area when the pointer or the cursor comes to them. */
export function fillChoices(area, model) {
  const asked = (e) => e.target.closest?.('select[data-asked]');
  const ready = (f) => f.dataset.filled === String(head());

  async function fill(f) {
    if (ready(f)) return;
    const revision = String(head());
    const answer = await fetch(`/models/${model}/choices?place=${encodeURIComponent(f.dataset.place)}`, { headers: { 'HX-Request': 'true' } });
    if (!answer.ok) return say(await answer.text());
    const list = await answer.json(), now = f.value;
    f.replaceChildren(...list.map(([value, text]) => new Option(text, value, value === now, value === now)));
    f.dataset.filled = revision;
  }

  for (const event of ['pointerover', 'focusin']) {
    area.addEventListener(event, (e) => {
      const f = asked(e);
      if (f) fill(f);
    });
  }
  // Pressed before the list is there: it opens as soon as it is.
  area.addEventListener('mousedown', async (e) => {
    const f = asked(e);
    if (!f || ready(f)) return;
    e.preventDefault();
    await fill(f);
    f.focus();
    f.showPicker?.();
  });
}
