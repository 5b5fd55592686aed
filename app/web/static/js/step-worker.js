// Reads one STEP file and answers with its bodies as triangles, lengths in millimetres.

importScripts('/static/vendor/step/occt-import-js.js');

// Chords are at most a thousandth of the size of the bodies, and 8 degrees, off their arcs.
const fineness = { linearUnit: 'millimeter', linearDeflectionType: 'bounding_box_ratio', linearDeflection: 0.001, angularDeflection: 8 * Math.PI / 180 };

async function unpacked(path) {
  const answer = await fetch(path);
  if (!answer.ok) throw new Error(`its reader could not be fetched (${answer.status})`);
  return new Response(answer.body.pipeThrough(new DecompressionStream('gzip'))).arrayBuffer();
}

onmessage = async ({ data }) => {
  try {
    const reader = await self.occtimportjs({ wasmBinary: await unpacked('/static/vendor/step/occt-import-js.wasm.gz') });
    const read = reader.ReadStepFile(new Uint8Array(data), fineness);
    if (!read.success) throw new Error('it is no STEP file that can be read; write it anew, or save the body as STL.');
    postMessage({ bodies: read.meshes.map((m) => ({ name: m.name, position: m.attributes.position.array, index: m.index.array })) });
  } catch (fault) {
    postMessage({ fault: fault.message ?? String(fault) });
  }
};
