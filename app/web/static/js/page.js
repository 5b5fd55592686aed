// What every page does: keys for views and for running, messages, and forms that
// are sent as soon as something is chosen.

// What is being typed is never overwritten by an answer that comes in meanwhile.
// A button that was pressed is no field: it may become what stands in its place now.
const field = (el) => el?.matches?.('input, textarea, select') ?? false;
Idiomorph.defaults.ignoreActiveValue = field(document.activeElement);
for (const event of ['focusin', 'focusout']) {
  document.addEventListener(event, (e) => { Idiomorph.defaults.ignoreActiveValue = event === 'focusin' && field(e.target); }, true);
}
// Nor does one close, or open, what a user has opened or closed.
Idiomorph.defaults.callbacks.beforeAttributeUpdated = (name, node) => !(name === 'open' && node.matches('details'));

const said = document.getElementById('said');
let hide, pressed;

/** Shows a message for a while; an empty one hides it. With a function it stays until the next one
 * and says that it can be stopped, which calls that. */
export function say(text, stop) {
  clearTimeout(hide);
  pressed = stop;
  said.textContent = stop ? `${text} Press here to stop.` : text;
  said.hidden = !text;
  if (text && !stop) hide = setTimeout(() => say(''), 9000);
}

said.addEventListener('click', () => {
  pressed?.();
  say('');
});
document.body.addEventListener('htmx:responseError', (e) => {
  if (!e.detail.xhr.getResponseHeader('Content-Type')?.startsWith('application/json')) say(e.detail.xhr.responseText.slice(0, 600));
});
document.body.addEventListener('kettle:said', (e) => say(e.detail.text));
document.body.addEventListener('htmx:sendError', () => say('The server does not answer. What you typed is still here; try again when it runs.'));

/** Says whether a key press belongs to a field. */
export function typing(e) {
  return e.target.closest('input, textarea, select, [contenteditable]') !== null;
}

document.addEventListener('keydown', (e) => {
  if (typing(e) || e.ctrlKey || e.metaKey || e.altKey || document.querySelector('dialog[open]')) return;
  const tab = document.querySelector(`[data-key="${e.key}"]`);
  if (tab) {
    tab.click();
  } else if (e.key === 'Enter' && !e.target.closest('button, a, summary, [role=button]')) {
    document.getElementById('run-button')?.click();
  }
});

// A menu closes when something in it is chosen or when the pointer goes elsewhere.
document.addEventListener('click', (e) => {
  for (const menu of document.querySelectorAll('details.menu[open]')) {
    if (!menu.contains(e.target) || e.target.closest('.menu-sheet button')) menu.open = false;
  }
});

// Some forms are sent as soon as something is chosen, some only when it is meant.
document.addEventListener('change', (e) => e.target.closest('form[data-send]')?.submit());
document.addEventListener('submit', (e) => {
  const words = e.target.dataset.ask;
  if (words && !confirm(words)) e.preventDefault();
});

document.querySelector('#import input')?.addEventListener('change', (e) => e.target.form.submit());
for (const input of document.querySelectorAll('.rename input')) {
  input.addEventListener('change', () => input.form.requestSubmit());
}

/** Text as it may stand in HTML that is written as a string, also within quotation marks. */
export const escaped = (text) => String(text).replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
