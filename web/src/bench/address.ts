import { useEffect, useRef } from "react";
import { useLocation, useNavigationType, useSearchParams } from "react-router";
import { type Averaging, type Bay, type BenchState, type Camera, freshKey, type MapName, useBench } from "./store";

const bays: Bay[] = ["intake", "field", "trace", "exhibits"];
const averagings: Averaging[] = ["off", "element", "part", "material", "all"];
const maps: MapName[] = ["auto", "batlow", "vik", "lapaz", "broc"];

const short = (v: number) => Number(v.toPrecision(6)).toString();

/** The address that reopens this bay, reading, step, key and camera. */
export function toAddress(s: BenchState): URLSearchParams {
  const p = new URLSearchParams();
  p.set("bay", s.bay);
  if (s.result !== null) p.set("result", String(s.result));
  if (s.reading) {
    p.set("field", s.reading.field);
    p.set("measure", s.reading.measure);
    p.set("averaging", s.reading.averaging);
    if (s.reading.order !== "components") p.set("order", s.reading.order);
    if (s.reading.region !== "all") p.set("region", s.reading.region);
    if (s.reading.of !== "value") p.set("of", s.reading.of);
    if (s.reading.unit !== null) p.set("unit", s.reading.unit);
  }
  p.set("step", String(s.step));
  if (s.exaggeration !== 1) p.set("shown", short(s.exaggeration));
  const { low, high, fit, bands, map, log } = s.key;
  if (low !== null) p.set("low", short(low));
  if (high !== null) p.set("high", short(high));
  if (fit !== "step") p.set("fit", fit);
  if (bands !== freshKey.bands) p.set("bands", String(bands));
  if (map !== "auto") p.set("map", map);
  if (log) p.set("log", "1");
  if (s.camera) p.set("camera", [...s.camera.position, ...s.camera.target, s.camera.zoom].map(short).join(","));
  return p;
}

const number = (text: string | null) =>
  text !== null && text !== "" && Number.isFinite(Number(text)) ? Number(text) : null;

export function fromAddress(p: URLSearchParams): Partial<BenchState> {
  const found: Partial<BenchState> = {};
  const bay = p.get("bay") as Bay;
  if (bays.includes(bay)) found.bay = bay;
  const result = number(p.get("result"));
  if (result !== null) found.result = result;
  const field = p.get("field");
  if (field) {
    const averaging = p.get("averaging") as Averaging;
    const of = p.get("of");
    found.reading = {
      field,
      measure: p.get("measure") ?? "",
      averaging: averagings.includes(averaging) ? averaging : "off",
      order: p.get("order") === "measure" ? "measure" : "components",
      region: p.get("region") ?? "all",
      unit: p.get("unit"),
      of: of === "jump" || of === "jump-within-material" ? of : "value",
    };
  }
  const step = number(p.get("step"));
  if (step !== null && step >= 0) found.step = Math.round(step);
  const shown = number(p.get("shown"));
  if (shown !== null && shown >= 0) found.exaggeration = shown;
  const fit = p.get("fit");
  const map = p.get("map") as MapName;
  found.key = {
    low: number(p.get("low")),
    high: number(p.get("high")),
    fit: fit === "all" || fit === "set" ? fit : "step",
    bands: number(p.get("bands")) ?? freshKey.bands,
    map: maps.includes(map) ? map : "auto",
    log: p.get("log") === "1",
  };
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

/** Keeps the address bar and the bench in step; a bay change makes an entry one can go back to. */
export function useAddress(): void {
  const [params, setParams] = useSearchParams();
  const location = useLocation();
  const arrived = useNavigationType();
  // Only an address that came from elsewhere is taken over: the page's first, back and forward, a link to an exhibit.
  // One the bench wrote itself may arrive late, when the bench has already moved on.
  const own = arrived !== "POP" && (location.state as { own?: boolean } | null)?.own === true;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each navigation
  useEffect(() => {
    if (!own) useBench.setState(fromAddress(params));
  }, [location.key]);
  const write = useRef(setParams);
  write.current = setParams;
  useEffect(() => {
    let timer = 0;
    let written = "";
    const stop = useBench.subscribe((state, before) => {
      window.clearTimeout(timer);
      const push = state.bay !== before.bay;
      const send = () => {
        const next = toAddress(useBench.getState());
        if (next.toString() === written) return;
        written = next.toString();
        write.current(next, { replace: !push, state: { own: true } });
      };
      timer = window.setTimeout(send, push ? 0 : 200);
    });
    return () => {
      window.clearTimeout(timer);
      stop();
    };
  }, []);
}
