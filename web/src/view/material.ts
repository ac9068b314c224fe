import * as THREE from "three";

/**
 * The colour is looked up after the value is interpolated, so band edges are sharp and moving a limit uploads nothing.
 * Values are taken at the centroid of the covered part of a pixel: its middle may lie outside the triangle, where the
 * interpolation would run past the nodes' values and mark a place as outside the limits that is not.
 * Where a value is missing the surface is stone grey with a fine dot screen; outside the limits the end colour is hatched.
 */
const moved = /* glsl */ `
  attribute vec3 displacement;
  uniform float exaggeration;
  vec3 place() { return position + exaggeration * displacement; }
`;

export function fieldMaterial(table: THREE.DataTexture): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    side: THREE.DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 2,
    uniforms: {
      exaggeration: { value: 1 },
      low: { value: 0 },
      high: { value: 1 },
      bands: { value: 9 },
      logarithm: { value: 0 },
      table: { value: table },
      pixel: { value: 1 },
    },
    vertexShader: /* glsl */ `
      ${moved}
      attribute float value;
      attribute float valid;
      centroid varying float vValue;
      centroid varying float vValid;
      varying vec3 vView;
      void main() {
        vValue = value;
        vValid = valid;
        vec4 view = modelViewMatrix * vec4(place(), 1.0);
        vView = view.xyz;
        gl_Position = projectionMatrix * view;
      }
    `,
    fragmentShader: /* glsl */ `
      uniform float low, high, bands, logarithm, pixel;
      uniform sampler2D table;
      centroid varying float vValue;
      centroid varying float vValid;
      varying vec3 vView;
      void main() {
        vec3 normal = normalize(cross(dFdx(vView), dFdy(vView)));
        float facing = abs(dot(normal, normalize(vec3(0.35, 0.5, 1.0))));
        float light = 0.80 + 0.20 * facing;
        vec2 screen = gl_FragCoord.xy / pixel;
        vec3 colour;
        if (vValid < 0.999) {
          vec2 cell = mod(screen, 5.0) - 2.5;
          colour = mix(vec3(0.706, 0.678, 0.627), vec3(0.50, 0.48, 0.44), 1.0 - smoothstep(0.7, 1.3, length(cell)));
        } else {
          float span = logarithm > 0.5 ? log(high / low) : high - low;
          float t = logarithm > 0.5 ? (vValue > 0.0 ? log(vValue / low) / span : -1.0) : (vValue - low) / span;
          float outside = max(-t, t - 1.0);
          t = clamp(t, 0.0, 1.0);
          if (bands > 1.5) t = min(floor(t * bands), bands - 1.0) / (bands - 1.0);
          else if (bands > 0.5) t = 0.5;
          colour = texture2D(table, vec2((t * 255.0 + 0.5) / 256.0, 0.5)).rgb;
          if (outside > 1e-4) {
            float stripe = step(0.5, fract((screen.x + screen.y) / 7.0));
            float bright = dot(colour, vec3(0.299, 0.587, 0.114));
            colour = mix(colour, bright > 0.5 ? vec3(0.137, 0.157, 0.176) : vec3(0.984, 0.976, 0.957), 0.55 * stripe);
          }
        }
        gl_FragColor = vec4(colour * light, 1.0);
      }
    `,
  });
}

export function lineMaterial(colour: string, opacity: number): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    transparent: true,
    depthWrite: false,
    uniforms: {
      exaggeration: { value: 1 },
      colour: { value: new THREE.Color().setStyle(colour, THREE.LinearSRGBColorSpace) },
      opacity: { value: opacity },
    },
    vertexShader: `${moved} void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(place(), 1.0); }`,
    fragmentShader: "uniform vec3 colour; uniform float opacity; void main() { gl_FragColor = vec4(colour, opacity); }",
  });
}

/** Identity pass: ``what`` 0 writes the face number and a mark, 1 the face coordinates s and t, 16 bits each. */
export function identityMaterial(): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    side: THREE.DoubleSide,
    uniforms: { exaggeration: { value: 1 }, what: { value: 0 } },
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
      uniform float what;
      flat varying float vFace;
      varying vec2 vSt;
      vec2 two(float x) { float n = floor(clamp(x, 0.0, 1.0) * 65535.0 + 0.5); return vec2(floor(n / 256.0), mod(n, 256.0)) / 255.0; }
      void main() {
        if (what < 0.5) {
          float n = floor(vFace + 0.5) + 1.0;
          gl_FragColor = vec4(floor(n / 65536.0), mod(floor(n / 256.0), 256.0), mod(n, 256.0), 255.0) / 255.0;
        } else gl_FragColor = vec4(two(vSt.x), two(vSt.y));
      }
    `,
  });
}
