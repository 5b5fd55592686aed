// Making a value a parameter where it stands: a small button above the field
// that has the cursor, or Alt+P.

const LIFTABLE = /^(parts\/[^/]+\/(outline|span|place|array)\/(?!kind|along|centred)|parts\/[^/]+\/cells|conditions\/[^/]+\/values\/(?!medium)|mesh\/(size|across)|materials\/[^/]+\/[a-z_]+$)/;
const WORDS = /\/(name|about|family)$/;

/** Offers to lift the values of fields in an area. */
export class Lift {
  constructor(area, editor) {
    this.editor = editor;
    this.button = document.getElementById('lift');
    area.addEventListener('focusin', (e) => this.offer(e.target));
    area.addEventListener('focusout', () => { this.button.hidden = true; });
    area.addEventListener('scroll', () => { this.button.hidden = true; });
    this.button.addEventListener('pointerdown', (e) => {
      e.preventDefault(); // the field keeps the cursor
      this.go();
    });
    document.addEventListener('keydown', (e) => {
      if (e.altKey && e.key.toLowerCase() === 'p' && !this.button.hidden) {
        e.preventDefault();
        this.go();
      }
    });
  }

  offer(f) {
    const place = f.dataset?.place ?? '';
    const can = f.matches('input.val, textarea.val') && LIFTABLE.test(place) && !WORDS.test(place) && /\d/.test(f.value) && f.value.length < 60 && !f.classList.contains('wrong');
    this.button.hidden = !can;
    if (!can) return;
    const r = f.getBoundingClientRect();
    this.place = place;
    this.button.style.left = `${Math.min(r.left, innerWidth - 90)}px`;
    this.button.style.top = `${r.top - 21}px`;
  }

  /** Stores what is typed, then makes it a parameter. */
  go() {
    const f = document.activeElement;
    this.button.hidden = true;
    if (f?.dataset?.place === this.place) f.blur(); // what was typed goes first
    return this.editor.ask('POST', 'edit', { op: 'lift', place: this.place });
  }
}
