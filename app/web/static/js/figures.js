// Numbers in words, as pages show them.

/** Prints a number with some figures. */
export function figures(x, digits = 4) {
  if (!Number.isFinite(x)) return '–';
  if (x === 0) return '0';
  const power = Math.floor(Math.log10(Math.abs(x)));
  if (power < -3 || power > 6) {
    const [mantissa, exponent] = x.toExponential(Math.max(0, digits - 1)).split('e');
    return `${Number(mantissa)}·10${superscript(Number(exponent))}`.replace('-', '−');
  }
  const places = Math.max(0, digits - 1 - power);
  return x.toFixed(Math.min(places, 8)).replace('-', '−');
}

const superscript = (n) => String(n).replace(/[-\d]/g, (c) => (c === '-' ? '⁻' : '⁰¹²³⁴⁵⁶⁷⁸⁹'[c]));

/** Prints a time with a unit that suits the end of a run, s. */
export function time(seconds, end) {
  for (const [least, by, unit] of [[2 * 86400, 86400, 'd'], [2 * 3600, 3600, 'h'], [300, 60, 'min']]) {
    if (end >= least) return `${figures(seconds / by, 3)} ${unit}`;
  }
  return `${figures(seconds, 3)} s`;
}

/** A number as it is typed, with a plain minus. */
export const typed = (x, digits = 4) => String(Number(x.toPrecision(digits)));
