// The device as meshes and lines: one mesh for each side of a part, its outline, what is
// cut away, and where parts are at once that should not be.

import { THREE } from './scene.js';

const LIT = { 1: 0xb4d6d1, 2: 0x86bbb5 }; // under the pointer; chosen

/** Makes the meshes and lines of all parts in a scene and returns them with their box. */
export function build(data, scene) {
  const surfaces = [], lines = [];
  const box = new THREE.Box3();
  const clipping = (data.cuts ?? []).map((c) => {
    const normal = new THREE.Vector3().setComponent(c.axis, c.greater ? 1 : -1);
    return new THREE.Plane(normal, (c.greater ? -c.at : c.at) * data.scale + 1e-6);
  });
  for (const part of data.parts) {
    part.sides.forEach((side, index) => {
      const mesh = sideMesh(data, part, side, index);
      if (!mesh) return;
      mesh.material.clippingPlanes = clipping;
      scene.add(mesh);
      surfaces.push(mesh);
      mesh.geometry.computeBoundingBox();
      if (!part.shown || !data.parts.some((p) => !p.shown)) box.union(mesh.geometry.boundingBox);
    });
    const edges = outline(data, part);
    edges.material.clippingPlanes = clipping;
    scene.add(edges);
    lines.push(edges);
  }
  for (const plane of clipping) {
    const half = box.clone();
    plane.normal.toArray().forEach((n, axis) => {
      if (n > 0) half.min.setComponent(axis, Math.max(half.min.getComponent(axis), -plane.constant));
      if (n < 0) half.max.setComponent(axis, Math.min(half.max.getComponent(axis), plane.constant));
    });
    if (!half.isEmpty()) box.copy(half);
  }
  if (box.isEmpty()) box.set(new THREE.Vector3(-50, -50, -50), new THREE.Vector3(50, 50, 50));
  for (const prism of data.overlaps ?? []) scene.add(clash(data, prism));
  for (const m of data.motions ?? []) scene.add(motion(data, m, box));
  for (const w of data.ways ?? []) {
    const part = data.parts.find((p) => p.id === w.part);
    if (!part) continue;
    const drawn = way(data, w);
    drawn.userData.part = part;
    scene.add(drawn);
    lines.push(drawn);
  }
  for (const s of data.symbols ?? []) {
    const part = data.parts.find((p) => p.id === s.part);
    if (!part) continue;
    for (const drawn of symbol(data, s)) {
      drawn.userData.part = part;
      scene.add(drawn);
      lines.push(drawn);
      drawn.geometry.computeBoundingBox();
      box.union(drawn.geometry.boundingBox.clone().applyMatrix4(drawn.matrix));
    }
  }
  return { surfaces, lines, box };
}

/** Applies the way of drawing, what is lit and what is hidden. */
export function style({ surfaces, lines }, mode, hidden) {
  const seen = (part) => !hidden.has(part.id) && mode !== 'mesh';
  for (const mesh of surfaces) {
    const { part, lit } = mesh.userData;
    const m = mesh.material;
    const ghost = part.shown || part.clear || mode === 'see-through';
    mesh.visible = seen(part);
    m.transparent = ghost || mode === 'lines';
    m.opacity = mode === 'lines' ? 0 : part.clear ? 0.07 : part.shown ? 0.1 : mode === 'see-through' ? 0.28 : 1;
    m.depthWrite = !ghost && mode !== 'lines';
    m.vertexColors = !lit;
    m.color.set(lit ? LIT[lit] : 0xffffff);
    if (lit) m.opacity = Math.max(m.opacity, part.clear ? 0.3 : 0.55);
    m.needsUpdate = true;
  }
  for (const l of lines) l.visible = seen(l.userData.part);
}

/** A motion that nothing keeps the device from, as an arrow both ways, straight or round an axis, in red over everything. */
function motion(data, m, box) {
  const turn = new THREE.Vector3(...m.turn), turns = turn.lengthSq() > 0;
  const along = turns ? turn : new THREE.Vector3(...m.move);
  const size = box.getSize(new THREE.Vector3()).length(), middle = box.getCenter(new THREE.Vector3());
  const position = [];
  let points = [];
  if (turns) {
    const through = new THREE.Vector3(...m.through).multiplyScalar(data.scale);
    through.addScaledVector(turn, middle.clone().sub(through).dot(turn)); // the place on the axis beside the middle
    points = circle(through, turn, 0.2 * size, 0.75);
  } else {
    for (const s of [-0.62, 0.62]) points.push(middle.clone().addScaledVector(along, s * size));
  }
  follow(position, points);
  head(position, points[0], points[1], 0.045 * size, turns ? turn : null);
  head(position, points[points.length - 1], points[points.length - 2], 0.045 * size, turns ? turn : null);
  return strokes(position, 0xb3261e, 6);
}

/** The strokes from each point to the next. */
function follow(position, points) {
  points.forEach((p, i) => { if (i > 0) position.push(...points[i - 1].toArray(), ...p.toArray()); });
}

/** Two strokes that lean against the way an arrow comes. */
function head(position, tip, before, size, across) {
  const back = before.clone().sub(tip).normalize(), aside = back.clone().cross(across ?? new THREE.Vector3(back.z ? 1 : 0, 0, back.z ? 0 : 1)).normalize();
  for (const s of [-1, 1]) position.push(...tip.toArray(), ...tip.clone().addScaledVector(back, size).addScaledVector(aside, 0.55 * s * size).toArray());
}

/** Lines over everything. */
function strokes(position, color, order) {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(position, 3));
  const lines = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color, depthTest: false, transparent: true }));
  lines.renderOrder = order;
  return lines;
}

/** A circle, or a part of one, about a place and an axis. */
function circle(at, axis, radius, part = 1) {
  const a = new THREE.Vector3(Math.abs(axis.x) > 0.9 ? 0 : 1, Math.abs(axis.x) > 0.9 ? 1 : 0, 0).cross(axis).normalize(), b = axis.clone().cross(a);
  const points = [];
  for (let i = 0; i <= 48; i++) {
    const angle = (i / 48) * 2 * Math.PI * part;
    points.push(at.clone().addScaledVector(a, radius * Math.cos(angle)).addScaledVector(b, radius * Math.sin(angle)));
  }
  return points;
}

/** A direction that a sentence gives a part: an arrow, a turn, or in a section a circle with a point for what comes towards the viewer and
 * a cross for what goes away. */
function way(data, w) {
  const at = new THREE.Vector3(...w.at).multiplyScalar(data.scale), along = new THREE.Vector3(...w.along), size = w.size * data.scale;
  const position = [];
  if (w.turns) {
    const points = circle(at, along, 0.42 * size, 0.9);
    follow(position, points);
    head(position, points[points.length - 1], points[points.length - 3], 0.1 * size, along);
  } else if (data.flat && Math.abs(along.z) > 0.5) {
    follow(position, circle(at, along, 0.3 * size));
    if (along.z > 0) follow(position, circle(at, along, 0.05 * size));
    else for (const s of [-1, 1]) follow(position, [-1, 1].map((k) => at.clone().add(new THREE.Vector3(0.21 * size * k, 0.21 * size * k * s, 0))));
  } else {
    const ends = [-0.38, 0.38].map((s) => at.clone().addScaledVector(along, s * size));
    follow(position, ends);
    head(position, ends[1], ends[0], 0.2 * size, null);
  }
  return strokes(position, 0x23292d, 4);
}

/** What stands at a point of a line: shapes of paper with dark edges, along the line where it has a way. */
function symbol(data, s) {
  const size = s.size * data.scale, at = new THREE.Vector3(...s.at).multiplyScalar(data.scale), way = new THREE.Vector3(...s.along);
  const turn = new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 1, 0), way); // shapes stand along y
  const upright = new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 1, 0), new THREE.Vector3(0, 0, 1));
  const list = [];
  const add = (geometry, { by = [0, 0, 0], to = turn, fill = 0xfffdf8, edges = 20 } = {}) => {
    const matrix = new THREE.Matrix4().compose(at, to, new THREE.Vector3(size, size, size)).multiply(new THREE.Matrix4().makeTranslation(...by));
    for (const drawn of [fill === null ? null : new THREE.Mesh(geometry, new THREE.MeshBasicMaterial({ color: fill, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 })),
      new THREE.LineSegments(new THREE.EdgesGeometry(geometry, edges), new THREE.LineBasicMaterial({ color: 0x23292d }))]) {
      if (!drawn) continue;
      drawn.matrixAutoUpdate = false;
      drawn.matrix.copy(matrix);
      list.push(drawn);
    }
  };
  switch (s.kind) {
    case 'tank': // a trough, filled to above its middle
      add(new THREE.BoxGeometry(2.6, 1.1, 1.8), { to: upright, by: [0, 0.75, 0], fill: 0xb8d6e0 });
      add(new THREE.BoxGeometry(2.6, 0.55, 1.8), { to: upright, by: [0, 1.58, 0], fill: null });
      break;
    case 'valve': // a plate across the pipe, with a stem and a wheel
      add(new THREE.CylinderGeometry(0.62, 0.62, 0.16, 24));
      add(new THREE.CylinderGeometry(0.05, 0.05, 1.3, 8), { to: upright, by: [0, 0.65, 0], edges: 60 });
      add(new THREE.TorusGeometry(0.34, 0.05, 8, 24).rotateX(Math.PI / 2), { to: upright, by: [0, 1.3, 0], fill: 0x23292d, edges: 80 });
      break;
    case 'pump': // a drum with the way in which it drives
      add(new THREE.CylinderGeometry(0.75, 0.75, 0.5, 28).rotateX(Math.PI / 2));
      add(new THREE.ConeGeometry(0.34, 0.8, 3).rotateY(Math.PI / 6), { fill: 0xb5623f });
      break;
    case 'check': // a plate that a cone leans against
      add(new THREE.CylinderGeometry(0.6, 0.6, 0.12, 24), { by: [0, 0.3, 0] });
      add(new THREE.ConeGeometry(0.45, 0.6, 20), { by: [0, -0.06, 0], edges: 30 });
      break;
    case 'mouth':
      add(new THREE.CylinderGeometry(0.62, 0.26, 0.5, 20, 1, true), { by: [0, 0.25, 0] });
      break;
    case 'out':
    case 'in':
      add(new THREE.ConeGeometry(0.32, 0.8, 16).rotateX(s.kind === 'in' ? Math.PI : 0), { to: upright, by: [0, 0.95, 0], fill: s.kind === 'in' ? 0x86bbb5 : 0xd5a489, edges: 30 });
      break;
    case 'fitting':
      add(new THREE.CylinderGeometry(0.42, 0.42, 0.5, 16), { edges: 30 });
      break;
    case 'meter': // a small dial on a foot
      add(new THREE.CylinderGeometry(0.03, 0.03, 0.7, 6), { to: upright, by: [0, 0.6, 0], edges: 80 });
      add(new THREE.SphereGeometry(0.2, 16, 12), { to: upright, by: [0, 1.05, 0], fill: 0x2a7d73, edges: 80 });
      break;
  }
  return list;
}

/** Where two parts are at once, in red over everything. */
function clash(data, prism) {
  const k = data.scale, position = [];
  for (const t of prism.triangles) {
    for (const z of [prism.z0, prism.z1]) for (const p of t) position.push(p[0] * k, p[1] * k, z * k);
    t.forEach((p, i) => {
      const q = t[(i + 1) % 3];
      position.push(p[0] * k, p[1] * k, prism.z0 * k, q[0] * k, q[1] * k, prism.z0 * k, q[0] * k, q[1] * k, prism.z1 * k);
      position.push(p[0] * k, p[1] * k, prism.z0 * k, q[0] * k, q[1] * k, prism.z1 * k, p[0] * k, p[1] * k, prism.z1 * k);
    });
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(position, 3));
  const mesh = new THREE.Mesh(geometry, new THREE.MeshBasicMaterial({ color: 0xb3261e, transparent: true, opacity: 0.22, depthTest: false, side: THREE.DoubleSide }));
  mesh.renderOrder = 5;
  return mesh;
}

/** One side of a part, all its copies together. */
function sideMesh(data, part, side, index) {
  const k = data.scale;
  const position = [], copies = [];
  const push = (copy, ...points) => {
    for (const p of points) position.push(p[0] * k, p[1] * k, p[2] * k);
    copies.push(copy);
  };
  part.copies.forEach((body, copy) => {
    if (body.solid) {
      body.solid.triangles.forEach((t, i) => { if (body.solid.side[i] === index) push(copy, ...t.map((v) => body.solid.points[v])); });
      return;
    }
    if (side.name === 'top' || side.name === 'bottom') {
      const [outer, ...holes] = body.loops.map((l) => l.points.map((p) => new THREE.Vector2(p[0], p[1])));
      const flat = [outer, ...holes].flat();
      for (const t of THREE.ShapeUtils.triangulateShape(outer, holes)) {
        const order = side.name === 'top' ? t : [t[0], t[2], t[1]];
        const z = side.name === 'top' ? body.z1 : body.z0;
        push(copy, ...order.map((i) => [flat[i].x, flat[i].y, z]));
      }
      return;
    }
    for (const loop of body.loops) {
      loop.points.forEach((p, i) => {
        if (loop.side[i] !== index) return;
        const q = loop.points[(i + 1) % loop.points.length];
        push(copy, [...p, body.z0], [...q, body.z0], [...q, body.z1]);
        push(copy, [...p, body.z0], [...q, body.z1], [...p, body.z1]);
      });
    }
  });
  if (!position.length) return null;
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(position, 3));
  geometry.setAttribute('color', new THREE.Float32BufferAttribute(tones(part, position), 3));
  const material = new THREE.MeshBasicMaterial({ vertexColors: true, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 });
  const mesh = new THREE.Mesh(geometry, material);
  mesh.userData = { part, side, copies, lit: 0 };
  return mesh;
}

/** The colour of each vertex: lightest upward, darker toward the sides. */
function tones(part, position) {
  const [top, front, right] = part.tones.map((t) => new THREE.Color(t));
  const out = [];
  const a = new THREE.Vector3(), b = new THREE.Vector3(), c = new THREE.Vector3(), colour = new THREE.Color();
  for (let i = 0; i < position.length; i += 9) {
    a.fromArray(position, i);
    b.fromArray(position, i + 3).sub(a);
    c.fromArray(position, i + 6).sub(a);
    b.cross(c).normalize();
    const side = Math.min(1, Math.max(0, 0.5 + 0.5 * (b.x * 0.8 - b.y * 0.35)));
    colour.copy(front).lerp(right, side).lerp(top, Math.max(0, b.z));
    for (let k = 0; k < 3; k++) out.push(colour.r, colour.g, colour.b);
  }
  return out;
}

/** The edges of a surface at which it turns by more than 30°. */
function creases(solid, k) {
  const g = new THREE.BufferGeometry();
  g.setAttribute('position', new THREE.Float32BufferAttribute(solid.triangles.flatMap((t) => t.flatMap((v) => solid.points[v].map((x) => x * k))), 3));
  return new THREE.EdgesGeometry(g, 30).attributes.position.array;
}

function outline(data, part) {
  const k = data.scale, points = [];
  for (const body of part.copies) {
    if (body.solid) {
      if (!body.smooth) points.push(...creases(body.solid, k));
      continue;
    }
    for (const loop of body.loops) {
      loop.points.forEach((p, i) => {
        const q = loop.points[(i + 1) % loop.points.length];
        for (const z of [body.z0, body.z1]) points.push(p[0] * k, p[1] * k, z * k, q[0] * k, q[1] * k, z * k);
        if (loop.corner[i]) points.push(p[0] * k, p[1] * k, body.z0 * k, p[0] * k, p[1] * k, body.z1 * k);
      });
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
  const lines = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: part.shown || part.clear ? 0x9a9a92 : 0x23292d, transparent: true, opacity: part.shown || part.clear ? 0.55 : 1 }));
  lines.userData.part = part;
  return lines;
}
