// The rest of a device of which only a part was solved: what lies beyond its planes of symmetry, as in
// a mirror, and three quarters of the turn of an axial section, so that it is seen open.

import { THREE } from './scene.js';
import { fieldMaterial } from './scale.js';

const STEPS = 48; // of the turn
const TURN = 1.5 * Math.PI;

export class Rest {
  constructor(pane) {
    Object.assign(this, { pane, on: false, meshes: [] });
    pane.surface.changed = () => this.follow();
  }

  /** Shows the rest, or takes it away. */
  show(on) {
    const { view, config, surface } = this.pane;
    for (const m of this.meshes) {
      view.scene.remove(m);
      if (m.userData.source) m.geometry.dispose();
    }
    this.meshes = [];
    this.on = on;
    const box = surface.box.clone();
    if (on && config.turn) {
      this.turn();
      const far = box.max.x;
      box.set(new THREE.Vector3(-far, box.min.y, -far), new THREE.Vector3(far, box.max.y, far));
    } else if (on) this.mirror(box);
    view.scene.add(...this.meshes);
    this.visible();
    view.framed = false;
    view.setBox(box, on || box.min.z !== box.max.z ? 'corner' : 'top');
    this.pane.sight();
  }

  /** Copies of all that is seen, mirrored at one, two or all planes of symmetry. */
  mirror(box) {
    const { config, surface } = this.pane, planes = config.mirrors;
    for (let set = 1; set < 2 ** planes.length; set++) {
      const matrix = new THREE.Matrix4();
      planes.forEach(({ axis, at }, i) => {
        if (!(set >> i & 1)) return;
        const one = new THREE.Matrix4();
        one.elements[5 * axis] = -1;
        one.elements[12 + axis] = 2 * at * config.scale;
        matrix.premultiply(one);
      });
      box.union(surface.box.clone().applyMatrix4(matrix));
      for (const g of surface.groups) {
        for (const what of ['mesh', 'outlines']) {
          const copy = g[what].clone();
          copy.matrixAutoUpdate = false;
          copy.matrix.copy(matrix);
          copy.frustumCulled = false;
          copy.userData = { of: g[what] };
          this.meshes.push(copy);
        }
      }
    }
  }

  /** The outlines of the section turned about the y axis, and the section itself where the turn ends. */
  turn() {
    const { surface, scale } = this.pane, material = fieldMaterial(scale);
    for (const g of surface.groups) {
      const [from, count] = g.info.outlines, lines = surface.outlineIndex.subarray(2 * from, 2 * (from + count));
      const geometry = new THREE.BufferGeometry(), n = lines.length;
      const source = new Uint32Array(n * (STEPS + 1)), index = [];
      for (let k = 0; k <= STEPS; k++) source.set(lines, n * k);
      for (let k = 0; k < STEPS; k++) {
        for (let i = 0; i < n; i += 2) {
          const a = n * k + i, b = a + n;
          index.push(a, a + 1, b, a + 1, b + 1, b);
        }
      }
      geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array(3 * source.length), 3));
      geometry.setAttribute('value', new THREE.BufferAttribute(new Float32Array(source.length), 1));
      geometry.setIndex(index);
      const skin = new THREE.Mesh(geometry, material);
      skin.userData = { source, ring: n, of: g.mesh };
      skin.frustumCulled = false;
      const end = g.mesh.clone();
      end.rotation.y = TURN;
      end.frustumCulled = false;
      end.userData = { of: g.mesh };
      this.meshes.push(skin, end);
    }
    this.follow();
  }

  /** Takes over the values and the places of what is turned. */
  follow() {
    const { surface } = this.pane, at = surface.position.array, values = surface.value.array;
    for (const { geometry, userData: { source, ring } } of this.meshes) {
      if (!source) continue;
      const { position, value } = geometry.attributes;
      source.forEach((s, i) => {
        const angle = TURN * Math.floor(i / ring) / STEPS;
        position.setXYZ(i, at[3 * s] * Math.cos(angle), at[3 * s + 1], -at[3 * s] * Math.sin(angle));
        value.setX(i, values[s]);
      });
      position.needsUpdate = value.needsUpdate = true;
    }
    this.visible();
  }

  /** What is hidden has no rest either. */
  visible() {
    for (const m of this.meshes) m.visible = m.userData.of.visible;
  }
}
