// What this window shows. Edits say on which revision they were made: the server carries them
// out where nothing they speak of has changed in another window, and asks otherwise.

const own = Array.from(crypto.getRandomValues(new Uint8Array(8)), (b) => b.toString(16).padStart(2, '0')).join('');
const steps = []; // what this window itself has done: { from, to }

/** The revision that the page shows. */
export const head = () => Number(document.getElementById('revision')?.dataset.head ?? 0);

/** What the page shows now, for an edit that may be sent later. */
export const seen = () => ({ revision: head(), steps: steps.length });

/** The revision that was seen; what the window itself has done since counts as seen. */
export function known(from) {
  let { revision } = from;
  for (const s of steps.slice(from.steps)) if (s.from === revision) revision = s.to;
  return revision;
}

/** The headers of a request that was meant for what was seen. */
export const stamp = (from = seen()) => ({ 'Kettle-Window': own, 'Kettle-Seen': String(known(from)) });

/** Takes note of what an answer says of the window's own edit. */
export function done(header) {
  const from = Number(header('Kettle-Before') ?? 0), to = Number(header('Kettle-After') ?? 0);
  if (from && to && from !== to) steps.push({ from, to });
}

/** Asks what is to become of an edit of something that was changed in another window; true means that it is to be done. */
export function ask(clash, mine) {
  const dialog = document.getElementById('clash');
  const put = (name, text) => {
    const row = dialog.querySelector(`[data-clash="${name}"]`);
    row.hidden = text === undefined;
    row.querySelector('dd').textContent = text || 'nothing';
  };
  dialog.querySelector('p').textContent = clash.message;
  put('was', clash.was);
  put('now', clash.now);
  put('mine', mine);
  dialog.querySelector('[value="mine"]').textContent = mine === undefined ? 'Do it all the same' : 'Put mine in its place';
  dialog.showModal();
  // Its event "close" waits for a frame, which a window in the background has none of.
  return new Promise((resolve) => {
    const end = new AbortController();
    const say = (done) => {
      end.abort();
      resolve(done);
    };
    dialog.addEventListener('submit', (e) => say(e.submitter.value === 'mine'), { signal: end.signal });
    dialog.addEventListener('cancel', () => say(false), { signal: end.signal });
  });
}
