import { Canvas } from "@react-three/fiber";
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { api, ask, Problem, type Schemas } from "../api/client";
import { useArrows } from "../api/marks";
import { probe, useChange, useContents, useDeformation, useInView, useSurface, useValues } from "../api/queries";
import { say, tell } from "../bench/notices";
import { swingOf, useBench, usePane } from "../bench/store";
import { figure } from "../reading/format";
import { AxesLayer } from "./AxesLayer";
import { alongsideWords, useDrawnAlongside } from "./alongside";
import { CoreKey } from "./CoreKey";
import { CutHandle } from "./CutHandle";
import { canDraw } from "./canDraw";
import { cutWords, useDrawnCuts } from "./cutDrawing";
import { ExtremeLabels } from "./ExtremeLabels";
import { FlagLayer } from "./FlagLayer";
import { FlagsBeside } from "./FlagsBeside";
import { FrontLayer } from "./FrontLayer";
import { GaugeLayer } from "./GaugeLayer";
import { useView } from "./handle";
import { useLimits } from "./limits";
import { MeasureMarks } from "./MeasureMarks";
import { Model } from "./Model";
import { useMakingAxes } from "./makeAxes";
import { modeWords } from "./modes";
import { PathLayer } from "./PathLayer";
import { picked } from "./picking";
import { StackCore } from "./StackCore";
import { ModelGeometry } from "./scene";
import { Tripod } from "./Tripod";
import { Coming, InTurn, LongWork } from "./Waiting";

interface Hover {
  x: number;
  y: number;
  answer: Schemas["ProbeOut"];
}

/** The model with the reading on it, its key, its flags, and what the pointer finds. */
export function ModelView() {
  const { result, reading, exaggeration, set, setLook, undeformed, look, boxing, arrows, picking, making, picks } =
    useBench(
      "result",
      "reading",
      "exaggeration",
      "set",
      "setLook",
      "undeformed",
      "look",
      "boxing",
      "arrows",
      "picking",
      "making",
      "picks",
    );
  const swung = useBench(swingOf);
  const view = useView();
  const { index: pane } = usePane();
  const contents = useContents(result);
  const inView = useInView();
  const surface = useSurface(inView);
  const values = useValues();
  const moves = contents.data?.moves ?? false;
  const deformation = useDeformation(inView, moves);
  const drawnArrows = useArrows();
  const cuts = useDrawnCuts();
  const alongside = useDrawnAlongside();
  const { limits, shared } = useLimits(values.data?.head);
  const [hover, setHover] = useState<Hover | null>(null);
  const [box, setBox] = useState<{ x0: number; y0: number; x1: number; y1: number } | null>(null);
  const geometry = useMemo(() => (surface.data ? new ModelGeometry(surface.data) : null), [surface.data]);
  useEffect(() => () => geometry?.dispose(), [geometry]);
  const onClick = useClick();
  // The first frame of a large model takes a while after everything has come.
  const [framed, setFramed] = useState(false);
  const [lost, setLost] = useState(false);
  const place = useCallback(
    (element: HTMLDivElement | null) => {
      view.root = element;
    },
    [view],
  );
  useEffect(
    () =>
      view.onFrame(() => {
        setFramed(true);
        // What is in the picture by now, for whoever drives the page from outside.
        if (view.root) view.root.dataset.drawn = view.upToDate() ? view.caption : "";
      }),
    [view],
  );
  const probing = useRef<AbortController | null>(null);
  // Values of another look, result or mesh must not be drawn on this surface.
  const drawn = values.data && values.data.of === surface.data?.of ? values.data : undefined;
  const moved = deformation.data && deformation.data.of === surface.data?.of ? deformation.data : undefined;
  const displacement = moved?.floats.displacement ?? null;
  useLayoutEffect(() => {
    view.asked = [drawn, displacement];
    view.caption = drawn?.head.sentence ?? "";
    view.head = drawn?.head ?? null;
    view.title = contents.data?.name ?? "";
  }, [drawn, displacement, view, contents.data]);
  const own = values.data !== undefined && !values.isPlaceholderData;
  useEffect(() => {
    if (own && inView.result !== null && inView.reading)
      view.shown = { result: inView.result, reading: inView.reading, step: inView.step, weigh: inView.weigh };
  }, [own, inView, view]);
  useEffect(() => {
    view.notes = [
      ...(swung ? [`The mode is drawn at phase ${swung}°.`] : []),
      ...cuts.map((c) => `Cut: ${cutWords(c)}.`),
      ...alongside.map((a) => `Along with it: ${alongsideWords(a)}.`),
    ];
  }, [cuts, alongside, swung, view]);
  const half = contents.data?.mirror ?? null;
  const mirror = useMemo(() => (half && look.mirrored ? mirrorAt(half.axis, half.at) : null), [half, look.mirrored]);

  const onPoint = useCallback(
    (at: { face: number; s: number; t: number } | null, x: number, y: number, click: boolean) => {
      probing.current?.abort();
      if (!at || inView.result === null || !inView.reading) {
        setHover(null);
        return;
      }
      const control = new AbortController();
      // What the pointer asks on its way is dropped when it moves on; a click is answered.
      if (!click) probing.current = control;
      probe(inView, at.face, at.s, at.t, control.signal)
        .then((answer) => {
          if (click) onClick(answer, at.face);
          else setHover({ x, y, answer });
        })
        .catch((error: unknown) => {
          if (error instanceof Problem) tell(error);
        });
    },
    [inView, onClick],
  );

  if (result === null) return <div className="view view-empty">Take a result in to look at it.</div>;
  const mode = modeWords(picking, making, picks.length);
  const problem = surface.error ?? values.error ?? (arrows ? drawnArrows.error : null);
  return (
    <div
      className="view"
      ref={place}
      data-testid="view"
      data-busy={
        !surface.fits ||
        values.isFetching ||
        values.isPlaceholderData ||
        deformation.isPlaceholderData ||
        deformation.isFetching ||
        drawnArrows.isFetching ||
        cuts.some((c) => c.fetching) ||
        alongside.some((a) => a.fetching)
      }
    >
      <div className={`view-canvas ${boxing || mode ? "boxing" : ""} ${values.isPlaceholderData ? "former" : ""}`}>
        {!canDraw && (
          <div className="view-problem" role="status">
            This browser cannot draw the model: it has no WebGL 2, or it is switched off. Everything else works:
            readings, tables, curves and exhibits.
          </div>
        )}
        {lost && (
          <div className="view-problem" role="alert">
            The graphics of this machine have let the picture go. It comes back by itself when they are there again.
          </div>
        )}
        {canDraw && geometry && reading && contents.data && (
          <Canvas
            orthographic
            frameloop="demand"
            dpr={[1, 2]}
            gl={{ antialias: true, preserveDrawingBuffer: true }}
            aria-label={values.data?.head.sentence ?? "model"}
            role="img"
          >
            <Model
              geometry={geometry}
              values={drawn}
              displacement={displacement}
              limits={limits}
              ready={
                surface.fits &&
                drawn !== undefined &&
                (!moves || (moved !== undefined && !deformation.isPlaceholderData))
              }
              mirror={mirror}
              arrows={arrows ? drawnArrows.data : undefined}
              cuts={cuts}
              alongside={alongside}
              size={contents.data.size}
              onPoint={onPoint}
              onBox={setBox}
              onLost={setLost}
            />
          </Canvas>
        )}
        {box && (
          <div
            className="zoom-box"
            style={{
              left: Math.min(box.x0, box.x1),
              top: Math.min(box.y0, box.y1),
              width: Math.abs(box.x1 - box.x0),
              height: Math.abs(box.y1 - box.y0),
            }}
          />
        )}
        {problem && (
          <div className="view-problem" role="alert">
            {String((problem as Error).message)}
          </div>
        )}
        {canDraw && !problem && (surface.isPending || values.isPending || !framed) && (
          <div className="view-wait" role="status">
            {surface.isPending || values.isPending ? "Reading the model …" : "Drawing the model …"}
            <Coming />
          </div>
        )}
        {canDraw && (
          <>
            {/* What stands at places of the body cannot stand on a part that is turned over. */}
            {!look.turned && (
              <>
                {values.data && <ExtremeLabels head={values.data.head} moves={moves} />}
                <MeasureMarks moves={moves} />
                <PathLayer moves={moves} />
                <FrontLayer />
                <GaugeLayer moves={moves} />
                <CutHandle />
                <AxesLayer />
                <FlagLayer moves={moves} />
                <FlagsBeside moves={moves} />
              </>
            )}
            <Tripod />
          </>
        )}
        {hover && (
          <div className="hover-tip" style={{ left: hover.x + 14, top: hover.y + 14 }} data-testid="hover">
            <b className="fig">{hover.answer.name ?? `${figure(hover.answer.value)} ${hover.answer.unit}`}</b>
            <span>
              element {hover.answer.element}, node {hover.answer.node}, {hover.answer.part}
            </span>
            {mode && <span className="asks">{mode}</span>}
          </div>
        )}
        <div className="view-notes">
          {values.isPlaceholderData && values.data && (
            <div className="caveat view-former" role="status" data-testid="former">
              The new reading is being worked out. Shown until then: {values.data.head.sentence}.
            </div>
          )}
          {contents.data?.arriving && (
            <div className="caveat" role="status" data-testid="arriving">
              Being stored in the review: nothing can be kept with it yet.
            </div>
          )}
          {exaggeration !== 1 && moves && (
            <div className="caveat" role="status" data-testid="exaggeration-warning">
              {exaggeration === 0 ? (
                <>
                  Shown <b>undeformed</b>.
                </>
              ) : (
                <>
                  Deformation shown <b className="fig">{figure(exaggeration, 3)} ×</b>{" "}
                  {exaggeration > 1 ? "too large" : "its size"}.{undeformed && " Grey outline: undeformed."}
                </>
              )}{" "}
              <button type="button" className="link" onClick={() => set({ exaggeration: 1 })}>
                True scale
              </button>
            </div>
          )}
          {half && (
            <div className="caveat" role="status">
              {mirror ? "Completed by its mirror image" : "One half"} about {"xyz"[half.axis]} = {figure(half.at)}; sums
              over sets are those of the whole.
            </div>
          )}
          {look.hidden.length > 0 && contents.data && (
            <div className="caveat" role="status">
              Hidden: {look.hidden.map((i) => contents.data!.parts[i]?.name).join(", ")}.{" "}
              <button type="button" className="link" onClick={() => setLook({ hidden: [] })}>
                Show all
              </button>
            </div>
          )}
          {cuts.map((c) => (
            <div className="caveat" key={c.id} role="status">
              Cut: {cutWords(c)}.
            </div>
          ))}
          {alongside.map((a) => (
            <div className="caveat" key={a.id} role="status" data-testid="alongside-note">
              Along with it: {alongsideWords(a)}.
            </div>
          ))}
          {look.turned && contents.data && (
            <div className="caveat" role="status" data-testid="book">
              {contents.data.parts[Number.parseInt(look.turned, 10)]?.name} is turned over, as one opens a book; what
              stands at places of the body is not drawn.{" "}
              <button type="button" className="link" onClick={() => setLook({ turned: "" })}>
                Close it
              </button>
            </div>
          )}
          {look.apart && <div className="caveat">Elements drawn apart: gaps are not there.</div>}
          {mode && (
            <div className="caveat asks" role="status" data-testid="mode">
              {mode} Escape ends it.
            </div>
          )}
          {boxing && <div className="caveat">Drag a box to zoom to. Escape leaves it.</div>}
          {(values.data?.head.caveats ?? []).map((c) => (
            <div className="caveat" key={c}>
              {c}
            </div>
          ))}
        </div>
        {values.isFetching && values.data && <div className="view-busy" role="status" aria-label="fetching" />}
        <LongWork />
        <InTurn />
      </div>
      <StackCore />
      {/* One key for two panes stands at the end of the second. */}
      {values.data && !(shared && pane === 0) && (
        <CoreKey head={values.data.head} limits={limits} arrows={arrows ? drawnArrows.data?.head : undefined} />
      )}
    </div>
  );
}

/** Mirror image about the plane where a coordinate has a value. */
function mirrorAt(axis: number, at: number): THREE.Matrix4 {
  const matrix = new THREE.Matrix4();
  matrix.elements[5 * axis] = -1;
  matrix.elements[12 + axis] = 2 * at;
  return matrix;
}

/** What a click does to what lies under it: plant a flag, hide its part, or measure. */
function useClick(): (answer: Schemas["ProbeOut"], face: number) => void {
  const pane = usePane();
  const plant = useChange((flag: Partial<Schemas["FlagIn"]>) =>
    ask(api.POST("/api/flags", { body: { result: pane.getState().result!, name: "", ...flag } })),
  );
  const contents = useContents(useBench((s) => s.result));
  const axes = useMakingAxes();
  return useCallback(
    (answer, face) => {
      const { picking, measuring, look, setLook, set } = pane.getState();
      if (picking === "stack") set({ element: answer.element });
      else if (picking === "flag") plant.mutate({ node: answer.node });
      else if (picking === "point")
        plant.mutate({ element: answer.element, xi: answer.xi as [number, number, number] });
      else if (picking === "hide") {
        const part = contents.data?.parts.findIndex((p) => p.name === answer.part) ?? -1;
        if (part >= 0 && look.hidden.length + 1 < (contents.data?.parts.length ?? 0))
          setLook({ hidden: [...look.hidden, part].sort((a, b) => a - b) });
        else say("The last part stays.");
      } else if (picking === "axes" && pane.getState().making?.by !== "nodes") axes(face);
      else if (picked(pane, answer)) return;
      else if (picking === "area") set({ measuring: { ...measuring, face } });
      else if (picking === "volume") set({ measuring: { ...measuring, element: answer.element } });
      else {
        const most = picking === "angle" ? 3 : 50;
        const nodes = measuring.nodes.length >= most ? [] : measuring.nodes;
        set({ measuring: { ...measuring, nodes: [...nodes, answer.node] } });
      }
    },
    [plant, contents.data, pane, axes],
  );
}
