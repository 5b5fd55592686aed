// How the values of a field become colours: the ends of the scale, its map, even or logarithmic, in
// bands or not, and what lies outside. All that is drawn of a field asks one scale.

import { THREE } from './scene.js';
import { MAPS, bandAt, colourAt, ramp } from './colours.js';
import { figures } from './figures.js';
import { escaped } from './page.js';

/** In place of a value where the field is not. */
export const NOWHERE = -1e30;

/** Says that a value, or one between some of which one is nowhere, is none. */
export const nowhere = (v) => v < -1e20;

const DECADES = 6; // of a logarithmic scale whose lower end is nothing

export class Scale {
  /** @param {object} config - of a plate  @param {number[][]} extents - ends of the values of all runs that share the scale, SI */
  constructor(config, extents = [config.extent]) {
    Object.assign(this, { config, map: MAPS[config.look.map] ?? MAPS[''], bands: config.look.bands, logarithmic: config.look.logarithmic });
    const lo = Math.min(...extents.map((e) => e[0])), hi = Math.max(...extents.map((e) => e[1]));
    this.range = [config.low ?? lo, config.high ?? hi];
    this.fixed = config.low !== null || config.high !== null;
    if (config.look.map === 'about zero') {
      const zero = config.offset, most = Math.max(Math.abs(this.range[0] - zero), Math.abs(this.range[1] - zero)) || 1;
      if (config.low === null) this.range[0] = zero - most;
      if (config.high === null) this.range[1] = zero + most;
    }
    if (this.logarithmic) {
      if (this.range[1] <= 0) this.logarithmic = false; // nothing has a logarithm
      else if (this.range[0] <= 0) this.range[0] = this.range[1] / 10 ** DECADES;
      this.fixed ||= lo <= 0;
    }
    if (!(this.range[0] < this.range[1])) this.range[1] = this.range[0] + (Math.abs(this.range[0]) * 1e-6 || 1);
    const texture = new THREE.DataTexture(ramp(256, this.map, this.bands), 256, 1);
    texture.minFilter = texture.magFilter = this.bands ? THREE.NearestFilter : THREE.LinearFilter;
    texture.needsUpdate = true;
    const [a, b] = this.range.map((v) => (this.logarithmic ? Math.log(v) : v));
    // What is outside is hatched where the ends are not those of the field; beyond round-off.
    const slack = this.fixed ? 1e-4 : 1e9;
    this.uniforms = { scale: { value: texture }, range: { value: new THREE.Vector2(a, b) }, logarithmic: { value: this.logarithmic }, slack: { value: slack } };
  }

  /** A value with the unit of the plate, from SI. */
  shown(si) { return (si - this.config.offset) / this.config.factor; }

  /** A value in words. */
  words(si) { return nowhere(si) ? 'not here' : `${figures(this.shown(si))} ${this.config.unit}`; }

  /** The value at a part of the scale, SI. */
  at(part) {
    const [lo, hi] = this.range;
    return this.logarithmic ? lo * (hi / lo) ** part : lo + part * (hi - lo);
  }

  /** The value at a part of the scale as it is typed, with the unit of the plate. */
  typed(part) { return `${figures(this.shown(this.at(part))).replace('−', '-')} ${this.config.unit}`; }

  /** The power of ten by which the numbers of the colour bar are divided, so that they are short, and its head. */
  head() {
    const most = Math.max(...this.range.map((v) => Math.abs(this.shown(v)))), power = Math.floor(Math.log10(most) / 3) * 3;
    const by = !this.logarithmic && Number.isFinite(power) && (most < 1e-2 || most >= 1e6) ? power : 0;
    return { by: 10 ** by, text: `${this.config.symbol}, ${by ? `${figures(10 ** by, 1).replace('1·', '')} ` : ''}${this.config.unit || '1'}` };
  }

  /** The colour bar as SVG: low at its foot, with the ends and four values between. */
  bar() {
    const { by, text: head } = this.head();
    const h = 320, steps = this.bands || 64, ticks = this.bands && this.bands <= 10 ? this.bands : this.config.look.map === 'about zero' ? 4 : 5; // zero is one of them
    let rects = '', text = '';
    for (let i = 0; i < steps; i++) {
      const t = this.bands ? bandAt((i + 0.5) / steps, steps) : (i + 0.5) / steps;
      rects += `<rect x="70" y="${h - (i + 1) * h / steps}" width="15" height="${h / steps + 0.6}" fill="${colourAt(t, this.map)}"/>`;
    }
    for (let i = 0; i <= ticks; i++) {
      const y = h - i * h / ticks;
      text += `<text x="62" y="${y + 4}" text-anchor="end">${figures(this.shown(this.at(i / ticks)) / by)}</text><line x1="66" x2="70" y1="${y}" y2="${y}"/>`;
    }
    return `<svg overflow="visible" viewBox="0 -26 92 ${h + 36}"><text x="85" y="-12" text-anchor="end">${escaped(head)}</text>${rects}<rect x="70" y="0" width="15" height="${h}" fill="none" stroke="#23292d" stroke-width="0.6"/>${text}</svg>`;
  }

  /** Paints the colour bar beside a picture of a width and height, in pixels, of which some make a CSS pixel. */
  paint(g, width, height, ratio) {
    const tall = height * 0.5, x = width - 40 * ratio, y = height * 0.12;
    for (let i = 0; i < 256; i++) {
      const t = (i + 0.5) / 256;
      g.fillStyle = colourAt(this.bands ? bandAt(t, this.bands) : t, this.map);
      g.fillRect(x, y + tall * (1 - (i + 1) / 256), 15 * ratio, tall / 256 + 1);
    }
    g.fillStyle = '#23292d';
    g.font = `${12 * ratio}px "IBM Plex Mono", monospace`;
    g.textAlign = 'right';
    const { by, text } = this.head();
    for (let i = 0; i <= 5; i++) g.fillText(figures(this.shown(this.at(i / 5)) / by), x - 6 * ratio, y + tall * (1 - i / 5) + 4 * ratio);
    g.fillText(text, x + 15 * ratio, y - 12 * ratio);
  }
}

// The colour is looked up for each pixel, so that bands follow the field and not the corners of the
// triangles; a face turned aside is a little darker.
const vertexShader = `
  attribute float value;
  varying float v;
  varying vec3 p;
  void main() {
    vec4 q = vec4(position, 1.0);
    #ifdef USE_INSTANCING
      q = instanceMatrix * q;
    #endif
    v = value;
    p = q.xyz;
    gl_Position = projectionMatrix * modelViewMatrix * q;
    #ifdef USE_INSTANCING
      gl_Position.z -= 0.006 * gl_Position.w; // arrows lie above what they stand on
    #endif
  }`;
const fragmentShader = `
  uniform sampler2D scale;
  uniform vec2 range;
  uniform float slack;
  uniform bool logarithmic;
  uniform vec4 planes[6];
  uniform float opacity;
  varying float v;
  varying vec3 p;
  void main() {
    for (int i = 0; i < 6; i++) if (dot(planes[i].xyz, p) > planes[i].w) discard;
    vec3 n = normalize(cross(dFdx(p), dFdy(p)));
    float shade = 0.88 + 0.12 * abs(n.z) - 0.05 * abs(n.x);
    if (v < -1e20) { // also beside a corner that has a value
      gl_FragColor = vec4(vec3(0.85, 0.83, 0.78) * shade, opacity);
      return;
    }
    float x = v;
    if (logarithmic) x = v > 0.0 ? log(v) : -1e9;
    float t = (x - range.x) / (range.y - range.x);
    vec3 colour = texture2D(scale, vec2(clamp(t, 0.0, 1.0) * 0.998 + 0.001, 0.5)).rgb;
    if ((t < -slack || t > 1.0 + slack) && mod(gl_FragCoord.x + gl_FragCoord.y, 8.0) < 3.0) colour = mix(colour, vec3(0.99, 0.98, 0.95), 0.75);
    gl_FragColor = vec4(colour * shade, opacity);
  }`;

export const MOST_PLANES = 6; // that the drawing is cut by, as many as a plate can have slices

/** Planes that cut nothing away. */
export const noPlanes = () => Array.from({ length: MOST_PLANES }, () => new THREE.Vector4(0, 0, 0, 1));

/** The material of what shows a scale, with planes of its own. */
export function fieldMaterial(scale, planes = { value: noPlanes() }) {
  return new THREE.ShaderMaterial({
    vertexShader, fragmentShader, side: THREE.DoubleSide,
    uniforms: { ...scale.uniforms, planes, opacity: { value: 1 } },
    polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1,
  });
}
