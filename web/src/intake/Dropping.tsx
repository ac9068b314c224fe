import { useEffect, useRef, useState } from "react";
import { Modal } from "react-bootstrap";
import { useFormats } from "../api/formats";
import { type Formats, hand, type Kind, kindOfFiles, taken, useDropped } from "../bench/dropped";
import { tell } from "../bench/notices";
import { Problem } from "../bench/problem";
import { type Bay, drawerTab, type PaneHold, usePane } from "../bench/store";

const places: Record<Kind, { bay: Bay; tab?: string }> = {
  result: { bay: "intake" },
  record: { bay: "trace" },
  gauges: { bay: "path", tab: "gauges" },
  laminates: { bay: "strength", tab: "stack" },
};

/** A file dropped anywhere goes where it belongs; of a table one is asked what it is. */
export function Dropping() {
  const [over, setOver] = useState(false);
  const { files, as } = useDropped();
  const formats = useFormats();
  const pane = usePane();
  const known = useRef(formats);
  known.current = formats;
  useEffect(() => {
    const files = (e: DragEvent) => e.dataTransfer?.types.includes("Files") ?? false;
    const onOver = (e: DragEvent) => {
      if (!files(e)) return;
      e.preventDefault();
      setOver(true);
    };
    const onLeave = (e: DragEvent) => {
      if (!e.relatedTarget) setOver(false);
    };
    const onDrop = (e: DragEvent) => {
      setOver(false);
      // What was dropped on a place that takes it is taken there.
      if (!files(e) || e.defaultPrevented) return;
      e.preventDefault();
      receive([...(e.dataTransfer?.files ?? [])], known.current, pane);
    };
    window.addEventListener("dragover", onOver);
    window.addEventListener("dragleave", onLeave);
    window.addEventListener("drop", onDrop);
    return () => {
      window.removeEventListener("dragover", onOver);
      window.removeEventListener("dragleave", onLeave);
      window.removeEventListener("drop", onDrop);
    };
  }, [pane]);
  return (
    <>
      {over && <div className="dropping">Drop it: results are taken in, of a table you are asked what it is.</div>}
      <Modal show={as === "ask"} onHide={taken} centered size="sm" aria-labelledby="dropped-title">
        <Modal.Body>
          <h3 id="dropped-title">What is {files[0]?.name}?</h3>
          <div className="drop-choices">
            <button type="button" className="btn btn-primary" onClick={() => send(files, "record", pane)}>
              A test record, for a curve
            </button>
            <button type="button" className="ghost" onClick={() => send(files, "gauges", pane)}>
              A gauge list: measuring points
            </button>
            <button type="button" className="ghost" onClick={() => send(files, "laminates", pane)}>
              Laminates: zones, plies, materials
            </button>
            <button type="button" className="ghost" onClick={taken}>
              Nothing: leave it
            </button>
          </div>
        </Modal.Body>
      </Modal>
    </>
  );
}

function send(files: File[], as: Kind, pane: PaneHold): void {
  const { bay, tab } = places[as];
  hand(files, as);
  pane.set({ bay, drawers: drawerTab(pane.getState().drawers, bay, tab) });
}

/** Files that were dropped or chosen: what they are goes by their names, and by the bay for a table. */
export function receive(files: File[], formats: Formats, pane: PaneHold): void {
  const kind = kindOfFiles(
    files.map((f) => f.name),
    formats,
  );
  const { bay, drawers, result } = pane.getState();
  if (kind === "result") send(files, "result", pane);
  else if (kind === "laminates" && result !== null) send(files, "laminates", pane);
  else if (kind !== null && result === null)
    tell(new Problem("A table or laminates belong to a result, and none is here yet.", "Take a result in first."));
  else if (kind === "table" && bay === "trace") send(files, "record", pane);
  else if (kind === "table" && bay === "path" && drawers.path === "gauges") send(files, "gauges", pane);
  else if (kind === "table") hand(files, "ask");
  else
    tell(
      new Problem(
        `${files.map((f) => f.name).join(", ")}: nothing here takes a file of this kind.`,
        `Results: ${formats.titles.join(", ")}. Tables: CSV, XLSX, one at a time. Laminates: JSON, or a table.`,
      ),
    );
}
