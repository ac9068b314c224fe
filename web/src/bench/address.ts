import { useEffect, useRef } from "react";
import { useLocation, useNavigationType, useSearchParams } from "react-router";
import type { MapName } from "../theme/colours";
import { arriveWith } from "./arrival";
import { type Bay, isBay, plotOf } from "./bays";
import { reviewHere } from "./here";
import { motionFrom, motionTo, number } from "./motionAddress";
import { type ReadingChoice, readingFrom, readingTo } from "./readingChoice";
import {
  activePane,
  allTied,
  type BenchState,
  type Camera,
  freshKey,
  freshPane,
  panes,
  type Style,
  swingOf,
  type Ties,
} from "./store";
import { sayAddress } from "./underway";

const styles: Style[] = ["shaded", "lines", "inside", "outline"];
const takes = ["all", "band", "mean", "max", "min"] as const;
const planes = ["22-12", "11-22", "11-12"] as const;
const maps: MapName[] = ["auto", "batlow", "vik", "lapaz", "broc"];

const short = (v: number) => Number(v.toPrecision(6)).toString();

/** The address that reopens this bay, reading, step, key and camera. */
export function toAddress(s: BenchState): URLSearchParams {
  const p = new URLSearchParams();
  const review = reviewHere();
  if (review) p.set("review", review);
  p.set("bay", s.bay);
  if (s.result !== null) p.set("result", String(s.result));
  if (s.reading) readingTo(s.reading, p);
  p.set("step", String(s.step));
  if (s.exaggeration !== 1) p.set("shown", short(s.exaggeration));
  const { low, high, fit, bands, map, log } = s.key;
  if (low !== null) p.set("low", short(low));
  if (high !== null) p.set("high", short(high));
  if (fit !== "step") p.set("fit", fit);
  if (bands !== freshKey.bands) p.set("bands", String(bands));
  if (map !== "auto") p.set("map", map);
  if (log) p.set("log", "1");
  if (s.key.iso !== "none") p.set("iso", s.key.iso);
  if (s.key.weigh !== "area") p.set("weigh", s.key.weigh);
  lookTo(s, p);
  if (s.arrows) {
    const { field, length, spacing, full, at, split, by } = s.arrows;
    const more = [...(split ? ["split"] : []), ...(by === "set" ? ["set"] : [])];
    const words = [field, short(length), short(spacing), full ? "full" : "thin", at, ...more];
    p.set("arrows", words.join(","));
  }
  if (!s.labelled) p.set("labelled", "0");
  if (s.paths) p.set("paths", s.paths.join(","));
  if (s.gauges !== null) p.set("gauges", String(s.gauges));
  if (s.along) p.set("along", "1");
  if (s.pairing !== null) p.set("curve", String(s.pairing));
  if (s.cycles.length) p.set("cycles", s.cycles.join(","));
  if (s.also.length) p.set("also", s.also.join(","));
  if (s.test !== null) p.set("record", String(s.test));
  if (s.tab !== plotShown(s.bay, s.drawers[s.bay])) p.set("plot", s.tab);
  if (s.beside) p.set("beside", s.beside);
  if (!s.strata) p.set("strata", "0");
  const drawer = s.drawers[s.bay];
  if (drawer) p.set("drawer", drawer);
  if (s.member !== null) p.set("member", String(s.member));
  if (s.cut !== null) p.set("cut", String(s.cut));
  if (s.second !== null) p.set("second", String(s.second));
  const study = `${(s.study.results ?? []).join(",")}:${s.study.take}:${s.study.size}`;
  if (study !== ":highest:length") p.set("study", study);
  const { value, along, border } = s.front;
  const front = [value === null ? "" : short(value), along, ...(border ? [border] : [])].join(":");
  if (front !== ":") p.set("front", front);
  if (s.between) p.set("between", s.between);
  const swung = swingOf(s);
  if (swung) p.set("swing", String(swung));
  motionTo(s.motion, p);
  if (s.table !== null) p.set("table", String(s.table));
  const governing = `${s.governing.take}:${s.governing.by}`;
  if (governing !== "largest:part") p.set("governing", governing);
  const { only, take } = s.flagSteps;
  if (only !== null || take !== "all") p.set("flags", `${only ?? ""}:${take}`);
  const { distance, shape, linearise, formula, test } = s.profile;
  if (distance !== "true") p.set("distance", distance);
  if (shape !== "undeformed") p.set("along-shape", shape);
  if (linearise) p.set("linear", "1");
  if (formula) p.set("formula", formula);
  if (test !== null) p.set("profile-record", String(test));
  const { plane, held } = s.envelope;
  if (plane !== "22-12" || !held) p.set("envelope", `${plane}${held ? "" : ",free"}`);
  if (s.element !== null) p.set("element", String(s.element));
  if (s.criterion !== "hashin") p.set("by", s.criterion);
  const camera = cameraText(s);
  if (camera) p.set("camera", camera);
  return p;
}

/** What of the address is the look and the camera: what a named view keeps. */
/** Words of the address that are the bench's, whatever its panes show. */
const plotShown = (bay: Bay, drawer: string | undefined) => plotOf(bay, drawer) ?? "loop";

const ofTheBench = ["review", "bay", "plot", "beside", "strata", "drawer", "curve", "cycles", "also", "record"];

/** The address of all that is in view: of the first pane, with the second and the ties that are cut beside it. */
export function benchAddress(): URLSearchParams {
  if (panes.count() < 2) return toAddress(activePane.getState());
  const [first, second] = [toAddress(panes.state(0)), toAddress(panes.state(1))];
  for (const word of ofTheBench) second.delete(word);
  first.set("twin", second.toString());
  if (panes.active() === 1) first.set("active", "2");
  const cut = Object.entries(activePane.getState().ties).flatMap(([tie, on]) => (on ? [] : [tie]));
  if (cut.length) first.set("untied", cut.join(","));
  return first;
}

/** Brings all that an address holds into view. */
export function openAddress(p: URLSearchParams): void {
  const untied = (p.get("untied") ?? "").split(",");
  const ties = Object.fromEntries(Object.keys(allTied).map((tie) => [tie, !untied.includes(tie)])) as unknown as Ties;
  const twin = p.get("twin");
  if (!twin && panes.count() > 1) panes.close(1);
  if (panes.count() > 1) panes.activate(0);
  activePane.setState({ ...fromAddress(p), ties });
  if (!twin) return;
  const own = fromAddress(new URLSearchParams(twin));
  const change = Object.fromEntries(Object.entries(own).filter(([name]) => name in freshPane));
  if (panes.count() < 2) panes.add(change);
  else panes.set(1, change);
  panes.activate(p.get("active") === "2" ? 1 : 0);
}

function lookTo(s: BenchState, p: URLSearchParams): void {
  const { hidden, translucent, detail, style, nodes, apart, solid, turned, perspective, mirrored } = s.look;
  if (hidden.length) p.set("hidden", hidden.join(","));
  if (translucent.length) p.set("translucent", translucent.join(","));
  if (detail) p.set("detail", String(detail));
  if (style !== "shaded") p.set("style", style);
  for (const [name, on] of Object.entries({ nodes, apart, solid, perspective })) if (on) p.set(name, "1");
  if (turned) p.set("turned", turned);
  if (!mirrored) p.set("mirrored", "0");
  if (!s.meshLines) p.set("edges", "0");
  if (!s.undeformed) p.set("undeformed", "0");
}

export function viewAddress(s: BenchState): string {
  const p = new URLSearchParams();
  lookTo(s, p);
  if (s.exaggeration !== 1) p.set("shown", short(s.exaggeration));
  const camera = cameraText(s);
  if (camera) p.set("camera", camera);
  return p.toString();
}

const cameraText = (s: BenchState) =>
  s.camera ? [...s.camera.position, ...s.camera.target, s.camera.zoom].map(short).join(",") : "";

const positions = (text: string | null) =>
  (text ?? "")
    .split(",")
    .filter((t) => /^\d+$/.test(t))
    .map(Number);

/** The look, exaggeration and camera an address holds. */
export function lookFrom(p: URLSearchParams): Partial<BenchState> {
  const found: Partial<BenchState> = {};
  const style = p.get("style") as Style;
  const detail = number(p.get("detail")) ?? 0;
  found.look = {
    hidden: positions(p.get("hidden")),
    translucent: positions(p.get("translucent") ?? p.get("clear")),
    detail: Number.isInteger(detail) && detail > 0 && detail <= 12 ? detail : 0,
    style: styles.includes(style) ? style : "shaded",
    nodes: p.get("nodes") === "1",
    apart: p.get("apart") === "1",
    solid: p.get("solid") === "1",
    turned: p.get("turned") ?? "",
    perspective: p.get("perspective") === "1",
    mirrored: p.get("mirrored") !== "0",
  };
  found.meshLines = p.get("edges") !== "0";
  found.undeformed = p.get("undeformed") !== "0";
  const shown = number(p.get("shown"));
  found.exaggeration = shown !== null && shown >= 0 ? shown : 1;
  const camera = (p.get("camera") ?? "").split(",").map(Number);
  if (camera.length === 7 && camera.every(Number.isFinite)) {
    found.camera = {
      position: camera.slice(0, 3) as Camera["position"],
      target: camera.slice(3, 6) as Camera["target"],
      zoom: camera[6]!,
    };
  }
  return found;
}

export function fromAddress(p: URLSearchParams): Partial<BenchState> {
  const found: Partial<BenchState> = {};
  const bay = p.get("bay");
  if (isBay(bay)) found.bay = bay;
  const result = number(p.get("result"));
  if (result !== null) found.result = result;
  const reading = readingFrom(p);
  if (reading) found.reading = reading;
  const step = number(p.get("step"));
  if (step !== null && step >= 0) found.step = Math.round(step);
  Object.assign(found, lookFrom(p));
  const fit = p.get("fit");
  const map = p.get("map") as MapName;
  found.key = {
    low: number(p.get("low")),
    high: number(p.get("high")),
    fit: fit === "all" || fit === "set" ? fit : "step",
    bands: Math.round(Math.min(64, Math.max(0, number(p.get("bands")) ?? freshKey.bands))),
    map: maps.includes(map) ? map : "auto",
    log: p.get("log") === "1",
    iso: p.get("iso") === "over" ? "over" : p.get("iso") === "alone" ? "alone" : "none",
    weigh: p.get("weigh") === "volume" ? "volume" : "area",
  };
  const arrows = (p.get("arrows") ?? "").split(",");
  const [length, spacing] = [Number(arrows[1]), Number(arrows[2])];
  found.arrows =
    arrows.length >= 5 && arrows.length <= 7 && length > 0 && length <= 2 && spacing >= 0 && spacing <= 1
      ? {
          field: arrows[0]!,
          length,
          spacing,
          full: arrows[3] === "full",
          at: arrows[4] === "tip" || arrows[4] === "outside" ? arrows[4] : "tail",
          split: arrows.slice(5).includes("split"),
          by: arrows.slice(5).includes("set") ? "set" : "node",
        }
      : null;
  found.labelled = p.get("labelled") !== "0";
  const paths = p.get("paths");
  found.paths = paths === null ? null : positions(paths);
  found.gauges = number(p.get("gauges"));
  found.along = p.get("along") === "1";
  found.element = number(p.get("element"));
  found.criterion = p.get("by") || "hashin";
  const curve = number(p.get("curve"));
  if (curve !== null) found.pairing = curve;
  found.cycles = positions(p.get("cycles"));
  const record = number(p.get("record"));
  if (record !== null) found.test = record;
  // Two bays had words of their own for it once.
  const drawer = p.get("drawer") ?? p.get("places") ?? p.get("strength");
  if (found.bay) {
    found.tab = p.get("plot") || plotShown(found.bay!, drawer ?? undefined);
    found.beside = p.get("beside") ?? "";
    found.strata = p.get("strata") !== "0";
  }
  if (found.bay) found.drawers = { ...activePane.getState().drawers, [found.bay]: drawer ?? undefined };
  found.member = number(p.get("member"));
  found.cut = number(p.get("cut"));
  found.second = number(p.get("second"));
  const [of, which, by] = (p.get("study") ?? "").split(":");
  found.study = {
    results: of ? positions(of) : null,
    take: which === "lowest" ? "lowest" : "highest",
    size: by === "unknowns" ? "unknowns" : "length",
  };
  const [at, way, edge] = (p.get("front") ?? "").split(":");
  found.front = {
    value: number(at || null),
    along: way ?? "",
    border: edge === "region" || edge === "edge" ? edge : "",
  };
  found.also = positions(p.get("also"));
  found.between = p.get("between") ?? "";
  const swung = number(p.get("swing"));
  found.swing = swung && result !== null && step !== null ? { result, step: Math.round(step), degrees: swung } : null;
  found.motion = motionFrom(p);
  found.table = number(p.get("table"));
  const [most, per] = (p.get("governing") ?? "").split(":");
  found.governing = {
    take: most === "smallest" || most === "magnitude" ? most : "largest",
    by: per === "set" || per === "element" ? per : "part",
  };
  const [only, take] = (p.get("flags") ?? ":all").split(":");
  found.flagSteps = { only: number(only ?? null), take: takes.find((t) => t === take) ?? "all" };
  found.profile = {
    distance: p.get("distance") || "true",
    shape: p.get("along-shape") === "deformed" ? "deformed" : "undeformed",
    linearise: p.get("linear") === "1",
    formula: p.get("formula") ?? "",
    test: number(p.get("profile-record")),
  };
  const [plane, held] = (p.get("envelope") ?? "22-12").split(",");
  found.envelope = { plane: planes.find((k) => k === plane) ?? "22-12", held: held !== "free" };
  return found;
}

/** The address of what was kept: of this review whatever its file is called by now, and never the list it stands in. */
export const inThisReview = (address: string) =>
  address.replace(/review=[^&]*&/, "").replace(/bay=exhibits/, "bay=field");

/** Whether a change of a pane is one to go back from: to another result, or to another reading of one. */
export function goesOn(now: BenchState, before: BenchState): boolean {
  if (before.result === null || now.result === null) return false;
  if (now.result !== before.result) return true;
  return (
    now.reading !== before.reading && !!now.reading && !!before.reading && told(now.reading) !== told(before.reading)
  );
}

const told = (reading: ReadingChoice) => {
  const p = new URLSearchParams();
  readingTo(reading, p);
  return p.toString();
};

/** Keeps the address bar and the bench in step; another bay, result or reading makes an entry one can go back to. */
export function useAddress(): void {
  const [params, setParams] = useSearchParams();
  const location = useLocation();
  const arrived = useNavigationType();
  // Only an address that came from elsewhere is taken over: the page's first, back and forward, a link to an exhibit.
  // One the bench wrote itself may arrive late, when the bench has already moved on.
  const own = arrived !== "POP" && (location.state as { own?: boolean } | null)?.own === true;
  const first = useRef(true);
  const following = useRef(false);
  const timer = useRef(0);
  const pushes = useRef(false);
  const written = useRef("");
  const follow = useRef((p: URLSearchParams) => {
    arriveWith(p);
    // Going back is no new step forward: what follows from it makes no entry of its own.
    following.current = true;
    openAddress(p);
    following.current = false;
    // The address is there already: to write it again could cross another step back.
    window.clearTimeout(timer.current);
    sayAddress(false);
    pushes.current = false;
    written.current = benchAddress().toString();
  }).current;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each navigation
  useEffect(() => {
    if (own || (arrived === "POP" && !first.current)) return;
    first.current = false;
    follow(params);
  }, [location.key]);
  // Back and forward are taken over at the event itself: a busy page may render an entry and the step back from it
  // at once, and then has seen no change of place.
  useEffect(() => {
    const back = () => follow(new URLSearchParams(window.location.search));
    window.addEventListener("popstate", back);
    return () => window.removeEventListener("popstate", back);
  }, [follow]);
  const write = useRef(setParams);
  write.current = setParams;
  useEffect(() => {
    const stop = activePane.subscribe((state, before, switched) => {
      window.clearTimeout(timer.current);
      pushes.current ||= !following.current && (state.bay !== before.bay || (!switched && goesOn(state, before)));
      const push = pushes.current;
      const send = () => {
        sayAddress(false);
        pushes.current = false;
        const next = benchAddress();
        if (next.toString() === written.current) return;
        written.current = next.toString();
        write.current(next, { replace: !push, state: { own: true } });
      };
      sayAddress(true);
      timer.current = window.setTimeout(send, push ? 0 : 200);
    });
    return () => {
      window.clearTimeout(timer.current);
      stop();
    };
  }, []);
}
