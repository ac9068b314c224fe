import type { ValuesHead } from "../api/client";
import { Problem } from "../api/client";
import { type BenchState, type KeyChoice, panes } from "../bench/store";
import { figure } from "../reading/format";
import { breakOf, chooseMap, keyPieces, nameColour, shareOf } from "../theme/colours";
import { overKey } from "../view/CoreKey";
import { type ViewHandle, viewOf } from "../view/handle";

const words = "Instrument Sans Variable, sans-serif";
const figures = "Spline Sans Mono, monospace";

/** What a picture is taken of: the view of a pane, what that pane shows, and the reading on it. */
export interface Sitter {
  view: ViewHandle;
  bench: BenchState;
  head: ValuesHead;
}

/** All views that are open, as they are drawn. */
export function sitting(): Sitter[] {
  return Array.from({ length: panes.count() }, (_, i) => {
    const view = viewOf(i);
    if (!view.head) throw new Problem("The view is not drawn yet.", "Wait for the model, then keep it again.");
    return { view, bench: panes.state(i), head: view.head };
  });
}

/** The views as a PNG with their key and their captions drawn into it. */
export const pictureOfViews = (shown: string): string => drawPictures(undefined, shown).toDataURL("image/png");

/** The views on a canvas, two of them side by side; see ``drawPicture``. */
export function drawPictures(caption?: number, shown = ""): HTMLCanvasElement {
  const [first, ...more] = sitting().map((s, i) => drawPicture(s, caption, i ? "" : shown));
  const second = more[0];
  if (!second) return first!;
  const both = document.createElement("canvas");
  const seam = 4;
  both.width = first!.width + seam + second.width;
  both.height = Math.max(first!.height, second.height);
  const g = both.getContext("2d")!;
  g.fillStyle = "#FBF9F4";
  g.fillRect(0, 0, both.width, both.height);
  g.drawImage(first!, 0, 0);
  g.drawImage(second, first!.width + seam, 0);
  return both;
}

/**
 * The view with its key and its caption on a canvas. ``caption`` keeps room for so many lines in every frame of a film; ``shown``:
 * what it is of beside its reading.
 */
export function drawPicture({ view, bench: state, head }: Sitter, caption?: number, shown = ""): HTMLCanvasElement {
  const source = view.capture?.();
  const place = view.root;
  // One key of two views stands beside the second.
  const key = place?.querySelector<HTMLElement>('[data-testid="core-key"]');
  if (!source || !place || (!key && panes.count() < 2))
    throw new Problem("The view is not drawn yet.", "Wait for the model, then keep it again.");
  const scale = source.width / source.clientWidth;
  const keyWidth = key ? 150 : 0;
  const width = source.clientWidth + keyWidth;
  const caveats = [...view.notes, ...head.caveats];
  if (shown) caveats.unshift(`${shown}.`);
  else if (state.exaggeration !== 1)
    caveats.unshift(
      state.exaggeration === 0
        ? "Shown undeformed."
        : `Deformation shown ${figure(state.exaggeration, 3)} times its size.`,
    );
  const picture = document.createElement("canvas");
  const g = picture.getContext("2d")!;
  g.font = `600 14px ${words}`;
  const of = panes.count() > 1 ? `${view.title}: ` : "";
  const lines = wrap(g, `${of}${head.sentence}`, width - 32);
  g.font = `12px ${words}`;
  const notes = caveats.flatMap((c) => wrap(g, c, width - 32));
  const foot = caption ?? 26 + 19 * lines.length + 17 * notes.length;
  picture.width = width * scale;
  picture.height = (source.clientHeight + foot) * scale;
  g.scale(scale, scale);
  g.fillStyle = "#F1ECE2";
  g.fillRect(0, 0, width, source.clientHeight);
  g.drawImage(source, 0, 0, source.clientWidth, source.clientHeight);
  drawLabels(g, place);
  drawFlags(g, place, source.clientWidth, source.clientHeight);
  drawLines(g, place);
  const height = Math.min(source.clientHeight - 110, 300);
  if (key) drawKey(g, place, source.clientWidth + 12, 22, height, head, state.key);
  g.fillStyle = "#FBF9F4";
  g.fillRect(0, source.clientHeight, width, foot);
  g.textAlign = "left";
  let y = source.clientHeight + 24;
  g.fillStyle = "#23282D";
  g.font = `600 14px ${words}`;
  for (const line of lines) {
    g.fillText(line, 16, y);
    y += 19;
  }
  g.font = `12px ${words}`;
  g.fillStyle = "#7A4F10";
  for (const note of notes) {
    g.fillText(note, 16, y);
    y += 17;
  }
  return picture;
}

function wrap(g: CanvasRenderingContext2D, text: string, width: number): string[] {
  const lines: string[] = [];
  let line = "";
  for (const word of text.split(" ")) {
    const longer = line ? `${line} ${word}` : word;
    if (g.measureText(longer).width > width && line) {
      lines.push(line);
      line = word;
    } else line = longer;
  }
  if (line) lines.push(line);
  return lines;
}

function drawKey(
  g: CanvasRenderingContext2D,
  place: HTMLElement,
  x: number,
  y: number,
  height: number,
  head: ValuesHead,
  key: KeyChoice,
): void {
  const drawn = place.querySelector<HTMLElement>('[data-testid="core-key"]');
  const [low, high] = [Number(drawn?.dataset.low), Number(drawn?.dataset.high)];
  if (head.categories) {
    drawNames(g, place, x, y, head);
    return;
  }
  const map = chooseMap(key.map, head.signed);
  const limit = breakOf(key.map, head.limit);
  g.fillStyle = "#23282D";
  g.font = `600 12px ${words}`;
  g.textAlign = "left";
  g.fillText(overKey(head), x, y - 6);
  for (const piece of keyPieces(map, [low, high], key.bands, limit, key.log)) {
    g.fillStyle = piece.colour;
    g.fillRect(x, y + height * (1 - piece.to), 20, height * (piece.to - piece.from) + 0.5);
  }
  g.strokeStyle = "#23282D";
  g.strokeRect(x, y, 20, height);
  g.fillStyle = "#23282D";
  g.font = `11px ${figures}`;
  const ticks = key.bands > 0 && key.bands <= 12 ? key.bands : 8;
  for (let i = 0; i <= ticks; i++) {
    const share = i / ticks;
    const value = key.log && low > 0 ? low * (high / low) ** share : low + share * (high - low);
    g.fillText(figure(value, 4), x + 27, y + height * (1 - share) + 4);
  }
  if (limit !== null && limit > low && limit < high) {
    const at = y + height * (1 - shareOf(limit, [low, high], key.log));
    g.fillRect(x - 4, at - 1, 28, 2);
    g.fillText(`${limit} fails`, x - 60, at + 4);
  }
  g.font = `11px ${words}`;
  let below = y + height + 22;
  const outside = (head.max?.value ?? high) > high || (head.min?.value ?? low) < low;
  for (const note of [outside && "hatched: outside the limits", head.missing > 0 && "dotted: no value"]) {
    if (!note) continue;
    g.fillText(note, x - 8, below);
    below += 18;
  }
  below = drawArrowKey(g, place, x, below);
  for (const [word, at] of [
    ["highest", head.max],
    ["lowest", head.min],
  ] as const) {
    if (!at) continue;
    g.fillText(`${word} ${figure(at.value)} ${head.unit}`, x, below);
    g.fillText(
      [at.element === null ? "" : `el. ${at.element}`, at.node === null ? "" : `node ${at.node}`]
        .filter(Boolean)
        .join(", "),
      x,
      below + 14,
    );
    below += 34;
  }
}

function drawNames(g: CanvasRenderingContext2D, place: HTMLElement, x: number, y: number, head: ValuesHead): void {
  g.textAlign = "left";
  g.fillStyle = "#23282D";
  g.font = `600 12px ${words}`;
  g.fillText(head.words.field ?? "", x, y - 6);
  g.font = `12px ${words}`;
  (head.categories ?? []).slice(0, 20).forEach((c, i) => {
    g.fillStyle = `rgb(${nameColour(c.colour).join(",")})`;
    g.fillRect(x, y + 6 + 19 * i, 14, 12);
    g.fillStyle = "#23282D";
    g.fillText(c.name, x + 20, y + 16 + 19 * i, 118);
  });
  drawArrowKey(g, place, x, y + 30 + 19 * Math.min(20, head.categories?.length ?? 0));
}

/** What arrows or crosses are in the view, and how long the longest is. */
function drawArrowKey(g: CanvasRenderingContext2D, place: HTMLElement, x: number, y: number): number {
  const key = place.querySelector<HTMLElement>('[data-testid="arrow-key"]');
  if (!key) return y;
  const lines = [...key.children].filter((c) => c.tagName === "DIV" && !c.classList.contains("arrow-words"));
  g.font = `11px ${words}`;
  for (const [i, line] of lines.entries()) g.fillText(line.textContent ?? "", x, y + 14 * i, 138);
  return y + 14 * lines.length + 10;
}

/** Highest and lowest as they are labelled in the view. */
function drawLabels(g: CanvasRenderingContext2D, place: HTMLElement): void {
  const layer = place.querySelector<HTMLElement>(".extreme-layer");
  if (!layer) return;
  const box = layer.getBoundingClientRect();
  for (const label of layer.querySelectorAll<HTMLElement>(".extreme")) {
    const up = label.classList.contains("extreme-highest") ? 1 : -1;
    const mark = label.querySelector("svg")!.getBoundingClientRect();
    const x = mark.left - box.left + mark.width / 2;
    const y = mark.top - box.top + mark.height / 2;
    g.fillStyle = "#23282D";
    g.strokeStyle = "#FBF9F4";
    g.beginPath();
    g.moveTo(x, y - 5 * up);
    g.lineTo(x + 5, y + 4 * up);
    g.lineTo(x - 5, y + 4 * up);
    g.closePath();
    g.fill();
    g.stroke();
    const text = label.querySelector<HTMLElement>("span")!;
    const r = text.getBoundingClientRect();
    g.fillStyle = "rgba(251, 249, 244, 0.9)";
    g.fillRect(r.left - box.left, r.top - box.top, r.width, r.height);
    g.fillStyle = "#23282D";
    g.font = `12px ${words}`;
    g.textAlign = "left";
    g.fillText(text.textContent ?? "", r.left - box.left + 4, r.top - box.top + 13, r.width - 6);
  }
}

/** Flags as they stand over the view: place, line, card. */
/** The lines and gauges that stand over the view. */
function drawLines(g: CanvasRenderingContext2D, place: HTMLElement): void {
  for (const path of place.querySelectorAll<SVGPathElement>(".path-layer path, .gauge-layer path")) {
    const style = getComputedStyle(path);
    const drawn = new Path2D(path.getAttribute("d") ?? "");
    if (style.fill !== "none") {
      g.fillStyle = style.fill;
      g.fill(drawn);
    }
    g.strokeStyle = style.stroke;
    g.lineWidth = Number.parseFloat(style.strokeWidth);
    g.setLineDash(style.strokeDasharray === "none" ? [] : style.strokeDasharray.split(",").map(Number.parseFloat));
    g.stroke(drawn);
  }
  g.setLineDash([]);
  g.textAlign = "left";
  for (const label of place.querySelectorAll<SVGTextElement>(".path-layer text")) {
    g.font = `600 12px ${words}`;
    g.fillStyle = "#23282D";
    g.fillText(label.textContent ?? "", Number(label.getAttribute("x")), Number(label.getAttribute("y")));
  }
  const box = place.querySelector<HTMLElement>(".gauge-layer")?.getBoundingClientRect();
  if (!box) return;
  for (const mark of place.querySelectorAll<HTMLElement>(".gauge-mark, .gauge-label")) {
    const r = mark.getBoundingClientRect();
    const out = mark.classList.contains("gauge-out");
    if (mark.classList.contains("gauge-mark")) {
      g.fillStyle = out ? "#9E3B23" : "#2F7486";
      g.fillRect(r.left - box.left + 1, r.top - box.top + 1, 8, 8);
      continue;
    }
    g.fillStyle = "#FBF9F4E6";
    g.fillRect(r.left - box.left, r.top - box.top, r.width, r.height);
    g.fillStyle = out ? "#9E3B23" : "#23282D";
    g.font = `11px ${figures}`;
    g.fillText(mark.textContent ?? "", r.left - box.left + 4, r.top - box.top + 12);
  }
}

function drawFlags(g: CanvasRenderingContext2D, place: HTMLElement, width: number, height: number): void {
  const layer = place.querySelector<HTMLElement>(".flag-layer");
  if (!layer) return;
  const box = layer.getBoundingClientRect();
  for (const line of layer.querySelectorAll("line")) {
    const at = (name: string) => Number(line.getAttribute(name));
    g.strokeStyle = "#2F7486";
    g.lineWidth = 1.5;
    g.beginPath();
    g.moveTo(at("x1"), at("y1"));
    g.lineTo(at("x2"), at("y2"));
    g.stroke();
    g.fillStyle = "#2F7486";
    g.beginPath();
    g.arc(at("x2"), at("y2"), 4, 0, 2 * Math.PI);
    g.fill();
  }
  for (const card of layer.querySelectorAll<HTMLElement>(".flag-card")) {
    const r = card.getBoundingClientRect();
    const x = r.left - box.left;
    const y = r.top - box.top;
    if (x > width || y > height) continue;
    g.fillStyle = "#FBF9F4";
    g.fillRect(x, y, r.width, r.height);
    g.fillStyle = "#2F7486";
    g.fillRect(x, y, 4, r.height);
    g.fillStyle = "#23282D";
    g.textAlign = "left";
    const rows = [...card.children].filter((c) => c.tagName === "DIV") as HTMLElement[];
    for (const row of rows) {
      const rr = row.getBoundingClientRect();
      g.font = row.classList.contains("fig") ? `11px ${figures}` : `12px ${words}`;
      const text = row.classList.contains("flag-values")
        ? [...row.children]
            .map((c) => c.textContent)
            .join(" · ")
            .replace(/ · ([^·]*)$/, " $1")
        : (row.textContent ?? "");
      g.fillText(text, x + 11, rr.top - box.top + 12, r.width - 14);
    }
  }
}
