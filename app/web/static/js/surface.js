// The surface of a run: its parts with the values of a field, their outlines and mesh lines, drawn as
// they were made or bent. Values are fetched moment by moment, when they are wanted.

import { MeshBVH, acceleratedRaycast } from '../vendor/bvh/three-mesh-bvh.js';
import { THREE } from './scene.js';
import { NOWHERE, fieldMaterial } from './scale.js';
import { ask, filled, unpack } from './packed.js';

const KEPT = 96e6; // bytes of values that are kept

/** Lets what is behind a material be seen. */
function seeThrough(material) {
  material.uniforms.opacity.value = 0.22;
  material.transparent = true;
  material.depthWrite = false;
}

export class Surface {
  constructor(view, config, scale, seen) {
    Object.assign(this, { view, config, scale, seen, groups: [], edges: 'outlines', kept: new Map(), bending: 0 });
  }

  /** Fetches the shape and the values of the moment that is shown first. */
  async load() {
    const { config } = this;
    const answer = await ask(`/runs/${config.run}/surface`, { of: config.token });
    const { header, take } = unpack(await answer.arrayBuffer());
    this.header = header;
    const c = header.counts;
    this.base = take(Float32Array, 3 * c.vertices).map((x) => x * config.scale);
    this.triangles = take(Uint32Array, 3 * c.triangles);
    this.outlineIndex = take(Uint32Array, 2 * c.outlines);
    this.edgeIndex = take(Uint32Array, 2 * c.edges);
    this.sets = header.moments?.length ?? 1;
    this.first = header.axis ? header.shown ?? 0 : this.sets - 1; // that the readings and the marks are of
    this.build(await this.values(this.first));
    this.moment = this.first;
  }

  /** Values of the field, or another one, at a moment, or the components of a vector one after another. */
  async values(moment, vector, other) {
    const key = `${vector ?? other ?? ''} ${moment}`;
    if (!this.kept.has(key)) {
      const { run, token, field, minus } = this.config;
      const what = vector ? { vector } : { field: other ?? field };
      if (minus && !vector) what.minus = minus.run;
      const answer = await ask(`/runs/${run}/values`, { ...what, moment, of: token });
      const list = filled(new Float32Array(await answer.arrayBuffer()), vector ? 0 : NOWHERE);
      this.kept.set(key, list);
      while (this.kept.size > 2 && this.kept.size * list.byteLength > KEPT) this.kept.delete(this.kept.keys().next().value);
    }
    return this.kept.get(key);
  }

  build(values) {
    const { view, header } = this;
    this.position = new THREE.BufferAttribute(this.base.slice(), 3);
    this.value = new THREE.BufferAttribute(values.slice(), 1);
    this.material = fieldMaterial(this.scale);
    this.planes = this.material.uniforms.planes;
    this.faint = fieldMaterial(this.scale, this.planes); // of parts that are pale
    seeThrough(this.faint);
    const box = new THREE.Box3();
    const lines = (index, from, count, colour, opacity, position) => {
      const g = new THREE.BufferGeometry();
      g.setAttribute('position', position);
      g.setIndex(new THREE.BufferAttribute(index.subarray(2 * from, 2 * (from + count)), 1));
      const list = new THREE.LineSegments(g, new THREE.LineBasicMaterial({ color: colour, transparent: true, opacity }));
      list.frustumCulled = false;
      return list;
    };
    const unbent = new THREE.BufferAttribute(this.base, 3);
    const corner = new THREE.Vector3();
    for (const info of header.groups) {
      const g = new THREE.BufferGeometry();
      g.setAttribute('position', this.position);
      g.setAttribute('value', this.value);
      g.setIndex(new THREE.BufferAttribute(this.triangles.subarray(3 * info.first, 3 * (info.first + info.count)), 1));
      const mesh = new THREE.Mesh(g, this.material);
      mesh.userData = info;
      mesh.frustumCulled = false;
      const outlines = lines(this.outlineIndex, ...info.outlines, 0x23292d, 0.85, this.position);
      const edges = lines(this.edgeIndex, ...info.edges, 0x23292d, 0.28, this.position);
      const before = lines(this.outlineIndex, ...info.outlines, 0x8a8f86, 0.6, unbent);
      before.visible = false;
      for (let i = 3 * info.first; i < 3 * (info.first + info.count); i++) box.expandByPoint(corner.fromArray(this.base, 3 * this.triangles[i]));
      view.scene.add(mesh, outlines, edges, before);
      this.groups.push({ mesh, outlines, edges, before, info });
    }
    this.box = box;
    this.apply();
    view.setBox(box, box.min.z === box.max.z ? 'top' : 'corner'); // a section is seen from above
  }

  /** Shows and hides groups and lines. Inner facets are seen where a part is hidden. */
  apply() {
    const open = this.seen.size > 0;
    for (const g of this.groups) {
      const how = this.seen.get(g.info.part), on = how !== 'hidden' && (!g.info.inner || (open && how !== 'pale'));
      g.mesh.visible = on;
      g.mesh.material = how === 'pale' ? this.faint : this.material;
      g.outlines.visible = on && this.edges === 'outlines';
      g.edges.visible = on && this.edges === 'mesh';
      g.before.visible = on && this.bending !== 0;
    }
    this.changed?.();
    this.view.draw();
  }

  /** Lets what is inside be seen through the surfaces. */
  pale() { seeThrough(this.material); }

  /** Makes the meshes ready to be asked what a ray meets: a look at each triangle would take longer than a frame. */
  aim() {
    for (const { mesh } of this.groups) {
      const g = mesh.geometry;
      if (!g.boundsTree) {
        g.boundsTree = new MeshBVH(g, { indirect: true });
        mesh.raycast = acceleratedRaycast;
      } else if (this.moved) g.boundsTree.refit();
    }
    this.moved = false;
  }

  /** The meshes that are seen. */
  meshes() { return this.groups.filter((g) => g.mesh.visible).map((g) => g.mesh); }

  /** Shows a moment; of what comes too late nothing is drawn. */
  async show(moment) {
    this.moment = moment;
    const { bends, bendsToo, swings } = this.config, bent = bends && this.factor;
    const [values, way, other, otherWay] = await Promise.all([this.values(moment), bent ? this.values(moment, bends) : null,
      swings ? this.values(moment, null, swings) : null, bent && bendsToo ? this.values(moment, bendsToo) : null]);
    if (this.moment !== moment) return;
    this.value.array.set(values);
    this.value.needsUpdate = true;
    Object.assign(this, { bent: way, parts: swings && [values, other], ways: otherWay && [way, otherWay] });
    this.bend(this.bending);
  }

  /** Whether what is shown swings in more than its size. */
  get swings() { return Boolean(this.parts || this.ways); }

  /** Shows what swings at an angle. */
  turn(angle) {
    const cos = Math.cos(angle), sin = Math.sin(angle), mix = ([real, imaginary], to) => { for (let i = 0; i < to.length; i++) to[i] = real[i] < 0.5 * NOWHERE ? NOWHERE : cos * real[i] - sin * imaginary[i]; };
    if (this.parts) {
      mix(this.parts, this.value.array);
      this.value.needsUpdate = true;
    }
    if (this.ways) {
      this.bent = this.bent === this.ways[0] ? new Float32Array(this.bent.length) : this.bent;
      mix(this.ways, this.bent);
    }
    this.bend(this.bending);
  }

  /** Finds how many times the displacement the drawing is bent when it is so by itself: the greatest way is a part of the device. */
  async prepareBending() {
    const { look, bends } = this.config;
    if (!bends || (!look.automatic && !look.bent)) return;
    this.bent = await this.values(this.moment, bends);
    this.factor = look.bent;
    if (look.automatic) {
      const n = this.header.counts.vertices, parts = this.bent.length / n;
      const other = this.config.bendsToo ? await this.values(this.moment, this.config.bendsToo) : null;
      let most = 0;
      for (let i = 0; i < n; i++) {
        let sum = 0;
        for (let d = 0; d < parts; d++) sum += this.bent[d * n + i] ** 2 + (other ? other[d * n + i] ** 2 : 0);
        most = Math.max(most, sum);
      }
      const exact = most > 0 ? 0.08 * this.box.getSize(new THREE.Vector3()).length() / (Math.sqrt(most) * this.config.scale) : 0;
      this.factor = exact > 1 ? Number(exact.toPrecision(1)) : exact; // a round factor is easier to say
    }
    this.bend(this.factor);
  }

  /** Bends the drawing by some times the displacement. */
  bend(times) {
    this.bending = this.bent ? times : 0;
    if (this.bent) {
      const n = this.header.counts.vertices, parts = this.bent.length / n, to = this.position.array, by = times * this.config.scale;
      to.set(this.base);
      for (let d = 0; d < parts; d++) for (let i = 0; i < n; i++) to[3 * i + d] += by * this.bent[d * n + i];
      this.position.needsUpdate = true;
      this.moved = true;
    }
    this.apply();
  }
}
