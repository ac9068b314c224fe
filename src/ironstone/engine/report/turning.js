// What makes the views of a report turn and its plots zoom; in the report only where that was asked for. It loads nothing.
"use strict";

const bytes = (text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
const floats = (text) => new Float32Array(bytes(text).buffer);
const whole = (text) => new Uint32Array(bytes(text).buffer);

const minus = (a, b) => a.map((v, i) => v - b[i]);
const cross = (a, b) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const dot = (a, b) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const unit = (a) => { const n = Math.hypot(...a) || 1; return a.map((v) => v / n); };

const vertex = `#version 300 es
in vec3 place; in float share;
uniform mat4 view; uniform float lift;
out float at; out vec3 seen;
void main() { at = share; vec4 p = view * vec4(place, 1.0); seen = p.xyz; gl_Position = p; gl_Position.z -= lift; }`;
// The colour is looked up after the value is interpolated, so that bands keep their edges; below zero there is no value.
const fragment = `#version 300 es
precision highp float;
in float at; in vec3 seen;
uniform sampler2D key; uniform float count; uniform float line; uniform vec2 window;
out vec4 colour;
void main() {
  if (line > 0.5) { colour = vec4(0.137, 0.157, 0.176, 1.0) * 0.34; return; }
  vec3 s = vec3(seen.xy * window, seen.z * 0.5 * (window.x + window.y));
  vec3 n = normalize(cross(dFdx(s), dFdy(s)));
  float light = 0.80 + 0.20 * abs(dot(n, normalize(vec3(0.35, 0.5, -1.0))));
  vec3 c = at < -0.5 ? vec3(0.706, 0.678, 0.627) : texture(key, vec2(clamp(at, 0.0, 0.99999), 0.5)).rgb;
  colour = vec4(c * light, 1.0);
}`;

function turn(figure) {
  const model = JSON.parse(document.getElementById(figure.dataset.model).textContent);
  const picture = figure.querySelector("img");
  const canvas = document.createElement("canvas");
  const gl = canvas.getContext("webgl2", { antialias: true, alpha: false });
  const said = figure.querySelector(".turn-said");
  if (!gl) { said.textContent = "This browser draws no 3D: the picture stays."; return; }
  canvas.tabIndex = 0;
  canvas.setAttribute("role", "img");
  canvas.setAttribute("aria-label", `${picture.alt} Drag or press the arrows to turn, + and - to zoom, Home to begin again.`);
  canvas.style.aspectRatio = "16 / 10";
  const pane = document.createElement("div");
  pane.className = "turning";
  const scale = document.createElement("div");
  scale.className = "turning-key";
  scale.setAttribute("aria-hidden", "true");
  const colours = bytes(model.key);
  for (let i = colours.length / 3 - 1; i >= 0; i--) {
    const band = scale.appendChild(document.createElement("i"));
    band.style.background = `rgb(${colours[3 * i]}, ${colours[3 * i + 1]}, ${colours[3 * i + 2]})`;
  }
  for (const [share, words] of model.ticks) {
    const tick = scale.appendChild(document.createElement("span"));
    tick.style.bottom = `${100 * share}%`;
    tick.textContent = words;
  }
  picture.replaceWith(pane);
  pane.append(canvas, scale);

  const program = gl.createProgram();
  for (const [kind, text] of [[gl.VERTEX_SHADER, vertex], [gl.FRAGMENT_SHADER, fragment]]) {
    const shader = gl.createShader(kind);
    gl.shaderSource(shader, text); gl.compileShader(shader); gl.attachShader(program, shader);
  }
  gl.linkProgram(program); gl.useProgram(program);
  const at = (name) => gl.getUniformLocation(program, name);
  const fill = (target, data) => { const b = gl.createBuffer(); gl.bindBuffer(target, b); gl.bufferData(target, data, gl.STATIC_DRAW); return b; };
  const feed = (name, data, size) => {
    fill(gl.ARRAY_BUFFER, data);
    const where = gl.getAttribLocation(program, name);
    gl.enableVertexAttribArray(where); gl.vertexAttribPointer(where, size, gl.FLOAT, false, 0, 0);
  };
  feed("place", floats(model.points), 3);
  feed("share", floats(model.share), 1);
  const [faces, lines] = [whole(model.triangles), whole(model.lines)];
  const [faceBuffer, lineBuffer] = [fill(gl.ELEMENT_ARRAY_BUFFER, faces), fill(gl.ELEMENT_ARRAY_BUFFER, lines)];
  const key = bytes(model.key);
  gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
  gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
  gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGB, key.length / 3, 1, 0, gl.RGB, gl.UNSIGNED_BYTE, key);
  for (const [name, value] of [["MIN_FILTER", gl.NEAREST], ["MAG_FILTER", gl.NEAREST], ["WRAP_S", gl.CLAMP_TO_EDGE], ["WRAP_T", gl.CLAMP_TO_EDGE]])
    gl.texParameteri(gl.TEXTURE_2D, gl[`TEXTURE_${name}`], value);
  gl.enable(gl.DEPTH_TEST);

  let now;
  const begin = () => { now = { back: unit(minus(model.eye, model.target)), up: model.up, zoom: model.zoom, shift: [0, 0] }; };
  const draw = () => {
    const [w, h] = [canvas.clientWidth, canvas.clientHeight];
    const finer = window.devicePixelRatio || 1;
    if (canvas.width !== Math.round(w * finer)) { canvas.width = Math.round(w * finer); canvas.height = Math.round(h * finer); }
    gl.viewport(0, 0, canvas.width, canvas.height);
    const right = unit(cross(now.up, now.back));
    const up = cross(now.back, right);
    // Pixels a unit in a window of 400, as the bench keeps it.
    const z = (now.zoom * Math.min(w, h)) / 400;
    const [sx, sy, sz] = [(2 * z) / w, (2 * z) / h, 1 / (8 * model.radius)];
    const t = model.target;
    gl.uniformMatrix4fv(at("view"), false, [
      sx * right[0], sy * up[0], -sz * now.back[0], 0, sx * right[1], sy * up[1], -sz * now.back[1], 0,
      sx * right[2], sy * up[2], -sz * now.back[2], 0,
      -sx * dot(right, t) + (2 * now.shift[0]) / w, -sy * dot(up, t) - (2 * now.shift[1]) / h, sz * dot(now.back, t), 1,
    ]);
    gl.uniform2f(at("window"), canvas.width / 2, canvas.height / 2);
    gl.clearColor(0.945, 0.925, 0.886, 1);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    for (const [line, buffer, count, kind] of [[0, faceBuffer, faces.length, gl.TRIANGLES], [1, lineBuffer, lines.length, gl.LINES]]) {
      gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, buffer);
      gl.uniform1f(at("line"), line);
      gl.uniform1f(at("lift"), line * 4e-4);
      if (line) { gl.enable(gl.BLEND); gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA); } else gl.disable(gl.BLEND);
      gl.drawElements(kind, count, gl.UNSIGNED_INT, 0);
    }
    canvas.dataset.drawn = String(Number(canvas.dataset.drawn || 0) + 1);
  };
  // Turned about the upright axis and over the horizontal one, never beyond the poles.
  const turned = (dx, dy) => {
    const [u, right] = [unit(now.up), unit(cross(now.up, now.back))];
    const about = (v, axis, angle) => {
      const [c, s, d] = [Math.cos(angle), Math.sin(angle), dot(axis, v)];
      const x = cross(axis, v);
      return v.map((n, i) => n * c + x[i] * s + axis[i] * d * (1 - c));
    };
    const tipped = about(now.back, right, -dy * 0.008);
    const back = Math.abs(dot(tipped, u)) < 0.998 ? tipped : now.back;
    now.back = unit(about(back, u, -dx * 0.008));
    draw();
  };
  const zoomed = (by) => { now.zoom *= by; draw(); };
  canvas.addEventListener("pointerdown", (e) => canvas.setPointerCapture(e.pointerId));
  canvas.addEventListener("pointermove", (e) => {
    if (!e.buttons) return;
    if (e.buttons === 1 && !e.shiftKey) turned(e.movementX, e.movementY);
    else { now.shift = [now.shift[0] + e.movementX, now.shift[1] + e.movementY]; draw(); }
  });
  canvas.addEventListener("wheel", (e) => { e.preventDefault(); zoomed(Math.exp(-e.deltaY * 0.001)); }, { passive: false });
  canvas.addEventListener("keydown", (e) => {
    const step = { ArrowLeft: [-12, 0], ArrowRight: [12, 0], ArrowUp: [0, -12], ArrowDown: [0, 12] }[e.key];
    if (step) turned(...step);
    else if (e.key === "+" || e.key === "-") zoomed(e.key === "+" ? 1.15 : 1 / 1.15);
    else if (e.key === "Home") { begin(); draw(); } else return;
    e.preventDefault();
  });
  new ResizeObserver(draw).observe(canvas);
  begin();
  draw();
  canvas.focus();
  said.textContent = "Drag to turn, with Shift to move, wheel to zoom; or the arrows, + and −, Home.";
}

function zooms(svg) {
  const box = () => svg.viewBox.baseVal;
  const first = [box().x, box().y, box().width, box().height];
  const set = (x, y, w, h) => svg.setAttribute("viewBox", `${x} ${y} ${w} ${h}`);
  const about = (by, px, py) => {
    const b = box();
    const r = svg.getBoundingClientRect();
    const [x, y] = [b.x + (b.width * (px - r.left)) / r.width, b.y + (b.height * (py - r.top)) / r.height];
    const w = Math.min(first[2], b.width * by);
    const h = (w / first[2]) * first[3];
    const inside = (v, low, high) => Math.min(Math.max(v, low), high);
    set(
      inside(x - ((x - b.x) * w) / b.width, first[0], first[0] + first[2] - w),
      inside(y - ((y - b.y) * h) / b.height, first[1], first[1] + first[3] - h), w, h,
    );
  };
  svg.tabIndex = 0;
  svg.addEventListener("wheel", (e) => { e.preventDefault(); about(Math.exp(e.deltaY * 0.0012), e.clientX, e.clientY); }, { passive: false });
  svg.addEventListener("dblclick", () => set(...first));
  svg.addEventListener("pointermove", (e) => {
    if (!e.buttons) return;
    const [b, r] = [box(), svg.getBoundingClientRect()];
    const inside = (v, low, high) => Math.min(Math.max(v, low), high);
    set(
      inside(b.x - (e.movementX * b.width) / r.width, first[0], first[0] + first[2] - b.width),
      inside(b.y - (e.movementY * b.height) / r.height, first[1], first[1] + first[3] - b.height), b.width, b.height,
    );
  });
  svg.addEventListener("keydown", (e) => {
    const r = svg.getBoundingClientRect();
    if (e.key === "+" || e.key === "-") about(e.key === "+" ? 0.8 : 1.25, r.left + r.width / 2, r.top + r.height / 2);
    else if (e.key === "Home") set(...first);
    else return;
    e.preventDefault();
  });
}

for (const figure of document.querySelectorAll("figure[data-model]")) {
  const button = figure.querySelector("button");
  button.hidden = false;
  button.addEventListener("click", () => { button.remove(); turn(figure); });
}
for (const svg of document.querySelectorAll("figure.plot svg")) zooms(svg);
