import * as THREE from "three";

/**
 * The colour is looked up after the value is interpolated, so band edges are sharp and moving a limit uploads nothing.
 * Values are taken at the centroid of the covered part of a pixel: its middle may lie outside the triangle, where the
 * interpolation would run past the nodes' values and mark a place as outside the limits that is not.
 * A name (a part, a state) is never interpolated: each triangle has that of its last corner.
 * Where a value is missing the surface is stone grey with a fine dot screen; outside the limits the end colour is hatched.
 */
const moved = /* glsl */ `
  attribute vec3 displacement;
  uniform float exaggeration;
  varying vec3 vOwn;
  vec3 place() { vOwn = position; return position + exaggeration * displacement; }
`;

/** Planes that take away what lies in front of them, on the shape as it is undeformed: normal and distance. */
export const mostPlanes = 6;
const clipped = /* glsl */ `
  uniform vec4 planes[${mostPlanes}];
  uniform int planeCount;
  varying vec3 vOwn;
  void cutAway() {
    for (int i = 0; i < ${mostPlanes}; i++) {
      if (i >= planeCount) break;
      if (dot(planes[i].xyz, vOwn) > planes[i].w) discard;
    }
  }
`;

const noPlanes = () => ({
  planes: { value: Array.from({ length: mostPlanes }, () => new THREE.Vector4()) },
  planeCount: { value: 0 },
});

export type Plane = [x: number, y: number, z: number, distance: number];

/** Gives a material the planes that cut it away; what it draws counts from the origin. */
export function cutBy(material: THREE.ShaderMaterial, planes: Plane[], origin: [number, number, number]): void {
  const { planes: held, planeCount } = material.uniforms;
  const [ox, oy, oz] = origin;
  for (const [i, [x, y, z, away]] of planes.slice(0, mostPlanes).entries())
    (held!.value as THREE.Vector4[])[i]!.set(x, y, z, away - (x * ox + y * oy + z * oz));
  planeCount!.value = Math.min(planes.length, mostPlanes);
}

export function fieldMaterial(table: THREE.DataTexture, opacity = 1): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    side: THREE.DoubleSide,
    transparent: opacity < 1,
    depthWrite: opacity === 1,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 2,
    uniforms: {
      ...noPlanes(),
      exaggeration: { value: 1 },
      base: { value: 0 },
      low: { value: 0 },
      high: { value: 1 },
      bands: { value: 9 },
      logarithm: { value: 0 },
      table: { value: table },
      pixel: { value: 1 },
      names: { value: 0 },
      broken: { value: 0 },
      limit: { value: 1 },
      iso: { value: 0 },
      plain: { value: 0 },
      tone: { value: new THREE.Vector3(0.945, 0.925, 0.886) },
      shaded: { value: 0 },
      rim: { value: 0 },
      opacity: { value: opacity },
    },
    vertexShader: /* glsl */ `
      ${moved}
      attribute float value;
      attribute float valid;
      flat varying float vName;
      varying float vEven;
      centroid varying float vValue;
      centroid varying float vValid;
      varying vec3 vView;
      void main() {
        vValue = value;
        vName = value;
        vEven = value;
        vValid = valid;
        vec4 view = modelViewMatrix * vec4(place(), 1.0);
        vView = view.xyz;
        gl_Position = projectionMatrix * view;
      }
    `,
    fragmentShader: /* glsl */ `
      ${clipped}
      uniform float base, low, high, bands, logarithm, pixel, names, broken, limit, iso, plain, rim, shaded, opacity;
      uniform vec3 tone;
      uniform sampler2D table;
      flat varying float vName;
      varying float vEven;
      centroid varying float vValue;
      centroid varying float vValid;
      varying vec3 vView;
      void main() {
        cutAway();
        vec3 normal = normalize(cross(dFdx(vView), dFdy(vView)));
        float facing = abs(dot(normal, normalize(vec3(0.35, 0.5, 1.0))));
        float light = 0.80 + 0.20 * facing;
        vec2 screen = gl_FragCoord.xy / pixel;
        vec3 colour;
        float value = (names > 0.5 ? vName : vValue) + base;
        if (plain > 0.5) {
          colour = tone;
          if (shaded < 0.5) light = 1.0;
          if (rim > 0.5 && abs(normal.z) < 0.22) colour = vec3(0.137, 0.157, 0.176);
        } else if (vValid < 0.999) {
          vec2 cell = mod(screen, 5.0) - 2.5;
          colour = mix(vec3(0.706, 0.678, 0.627), vec3(0.50, 0.48, 0.44), 1.0 - smoothstep(0.7, 1.3, length(cell)));
        } else {
          float span = logarithm > 0.5 ? log(high / low) : high - low;
          float t = logarithm > 0.5 ? (value > 0.0 ? log(value / low) / span : -1.0) : (value - low) / span;
          float count = bands > 1.5 ? bands : 10.0;
          float even = logarithm > 0.5 ? (vEven + base > 0.0 ? log((vEven + base) / low) / span : -1.0) : (vEven - low) / span;
          float place = even * count;
          float near = abs(fract(place - 0.5) - 0.5) / max(length(vec2(dFdx(place), dFdy(place))), 1e-6);
          float outside = max(-t, t - 1.0);
          t = clamp(t, 0.0, 1.0);
          if (broken > 0.5) {
            // Two parts that meet at the limit: bands are counted in each, so that none lies across it.
            float at = clamp(logarithm > 0.5 ? log(max(limit, 1e-30) / low) / span : (limit - low) / span, 0.0, 1.0);
            bool over = value >= limit;
            float room = over ? 1.0 - at : at;
            float inner = clamp(over ? (t - at) / max(room, 1e-6) : t / max(room, 1e-6), 0.0, 1.0);
            float count = bands > 0.5 ? max(1.0, floor(bands * room + 0.5)) : 0.0;
            if (count > 0.5) inner = (min(floor(inner * count), count - 1.0) + 0.5) / count;
            t = ((over ? 128.0 : 0.0) + 127.0 * inner) / 255.0;
          } else if (bands > 1.5) t = min(floor(t * bands), bands - 1.0) / (bands - 1.0);
          else if (bands > 0.5) t = 0.5;
          colour = texture2D(table, vec2((t * 255.0 + 0.5) / 256.0, 0.5)).rgb;
          if (iso > 1.5) {
            vec3 edge = texture2D(table, vec2((clamp(floor(place + 0.5) / count, 0.0, 1.0) * 255.0 + 0.5) / 256.0, 0.5)).rgb;
            colour = mix(vec3(0.93, 0.91, 0.87), edge, 1.0 - smoothstep(0.9 * pixel, 1.6 * pixel, near));
          } else if (iso > 0.5) {
            colour = mix(colour, vec3(0.137, 0.157, 0.176), 0.75 * (1.0 - smoothstep(0.4 * pixel, 1.1 * pixel, near)));
          }
          if (outside > 1e-4) {
            float stripe = step(0.5, fract((screen.x + screen.y) / 7.0));
            float bright = dot(colour, vec3(0.299, 0.587, 0.114));
            colour = mix(colour, bright > 0.5 ? vec3(0.137, 0.157, 0.176) : vec3(0.984, 0.976, 0.957), 0.55 * stripe);
          }
        }
        gl_FragColor = vec4(colour * light, opacity);
      }
    `,
  });
}

export function lineMaterial(colour: string, opacity: number): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    transparent: true,
    depthWrite: false,
    uniforms: {
      ...noPlanes(),
      exaggeration: { value: 1 },
      colour: { value: new THREE.Color().setStyle(colour, THREE.LinearSRGBColorSpace) },
      opacity: { value: opacity },
    },
    vertexShader: `${moved} void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(place(), 1.0); }`,
    fragmentShader: `${clipped} uniform vec3 colour; uniform float opacity;
      void main() { cutAway(); gl_FragColor = vec4(colour, opacity); }`,
  });
}

/** Small round dots at nodes, a little in front of the faces they lie on. */
export function nodeMaterial(): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: { ...noPlanes(), exaggeration: { value: 1 }, size: { value: 5 } },
    vertexShader: `${moved} uniform float size; void main() {
      gl_Position = projectionMatrix * modelViewMatrix * vec4(place(), 1.0);
      gl_Position.z -= 0.0004 * gl_Position.w;
      gl_PointSize = size;
    }`,
    fragmentShader: `${clipped} void main() {
      cutAway();
      if (length(gl_PointCoord - 0.5) > 0.5) discard;
      gl_FragColor = vec4(0.137, 0.157, 0.176, 1.0);
    }`,
  });
}

/** Identity pass: ``what`` 0 writes the face number and a mark, 1 the face coordinates s and t, 16 bits each. */
export function identityMaterial(): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    side: THREE.DoubleSide,
    uniforms: { ...noPlanes(), exaggeration: { value: 1 }, what: { value: 0 } },
    vertexShader: /* glsl */ `
      ${moved}
      attribute float face;
      attribute vec2 st;
      flat varying float vFace;
      varying vec2 vSt;
      void main() {
        vFace = face;
        vSt = st;
        gl_Position = projectionMatrix * modelViewMatrix * vec4(place(), 1.0);
      }
    `,
    fragmentShader: /* glsl */ `
      ${clipped}
      uniform float what;
      flat varying float vFace;
      varying vec2 vSt;
      vec2 two(float x) { float n = floor(clamp(x, 0.0, 1.0) * 65535.0 + 0.5); return vec2(floor(n / 256.0), mod(n, 256.0)) / 255.0; }
      void main() {
        cutAway();
        if (what < 0.5) {
          float n = floor(vFace + 0.5) + 1.0;
          gl_FragColor = vec4(floor(n / 65536.0), mod(floor(n / 256.0), 256.0), mod(n, 256.0), 255.0) / 255.0;
        } else gl_FragColor = vec4(two(vSt.x), two(vSt.y));
      }
    `,
  });
}
