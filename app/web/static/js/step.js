// STEP files are turned into triangles here, in the browser, and go to the server as STL:
// the reader of them is large, and only those who need it fetch it.

import { say } from './page.js';

/** Puts the triangles of a STEP file in the place of the file in values of a form. */
export async function withTriangles(values) {
  const file = values.get('file');
  if (!/\.(step|stp)$/i.test(file.name)) return;
  say(`Reading ${file.name} …`);
  const bodies = await triangles(file);
  if (!bodies.length) throw new Error(`${file.name}: there is no body with surfaces in it.`);
  values.set('file', new File([stl(bodies)], file.name.replace(/\.\w+$/, '.stl')));
  values.set('unit', 'mm');
}

/** The bodies of a STEP file in millimetres; a worker reads it, so that the page stays alive. */
async function triangles(file) {
  const worker = new Worker('/static/js/step-worker.js');
  try {
    const data = await file.arrayBuffer();
    return await new Promise((resolve, reject) => {
      worker.onmessage = (e) => (e.data.fault ? reject(new Error(`${file.name}: ${e.data.fault}`)) : resolve(e.data.bodies));
      worker.onerror = (e) => reject(new Error(`${file.name}: the reader of STEP files failed: ${e.message || 'it could not be fetched'}.`));
      worker.postMessage(data, [data]);
    });
  } finally {
    worker.terminate();
  }
}

/** Text of an STL file; names are single words in it. */
function stl(bodies) {
  const lines = [];
  const short = (x) => String(Number(x.toPrecision(8)));
  for (const { name, position, index } of bodies) {
    lines.push(`solid ${(name || 'body').trim().replace(/\s+/g, '_')}`);
    for (let i = 0; i < index.length; i += 3) {
      lines.push('facet normal 0 0 0', 'outer loop');
      for (const v of index.slice(i, i + 3)) lines.push(`vertex ${short(position[3 * v])} ${short(position[3 * v + 1])} ${short(position[3 * v + 2])}`);
      lines.push('endloop', 'endfacet');
    }
    lines.push('endsolid');
  }
  return lines.join('\n');
}
