// Numbers as the server packs them: a 32-bit length, a JSON header, and arrays of 32-bit numbers.

/** An answer that is no such thing, in words. */
export class Refusal extends Error {}

/** Asks the server for something of a run, a list being a value of one name each; a refusal is thrown in its own words. */
export async function ask(path, query, signal) {
  const values = Object.entries(query).flatMap(([name, value]) => (Array.isArray(value) ? value.map((v) => [name, v]) : [[name, value]]));
  const answer = await fetch(`${path}?${new URLSearchParams(values)}`, { headers: { 'HX-Request': 'true' }, signal });
  if (!answer.ok) throw new Refusal(await answer.text() || 'What was asked for could not be fetched.');
  return answer;
}

/** Takes an answer apart: its header, and take(Type, n) for the next array. */
export function unpack(buffer) {
  const length = new DataView(buffer).getUint32(0, true);
  let at = 4 + length;
  return {
    header: JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length))),
    take(Type, n) {
      const list = new Type(buffer, at, n);
      at += 4 * n;
      return list;
    },
  };
}

/** Puts another number in place of what is none. */
export function filled(list, number) {
  for (let i = 0; i < list.length; i++) if (Number.isNaN(list[i])) list[i] = number;
  return list;
}
