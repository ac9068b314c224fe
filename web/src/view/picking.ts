import type { Schemas } from "../api/client";
import type { usePane } from "../bench/store";
import { kindOf } from "../lines/kinds";

/** Takes a click on the model into the line, the plane or the gauge list that is being made; false where it is of none of these. */
export function picked(pane: ReturnType<typeof usePane>, answer: Schemas["ProbeOut"]): boolean {
  const { picking, picks, draft } = pane.getState();
  if (picking === "axes" && pane.getState().making?.by === "nodes") {
    pane.set({ picks: [...picks, { node: answer.node, xyz: answer.xyz as [number, number, number] }].slice(-3) });
    return true;
  }
  if (picking !== "path" && picking !== "plane" && picking !== "gauge") return false;
  const pick = { node: answer.node, xyz: answer.xyz as [number, number, number] };
  if (picking === "path" && draft) {
    const kind = kindOf(draft.kind);
    if (!kind.most) return true;
    const next = picks.length >= kind.most ? [pick] : [...picks, pick];
    pane.set({ picks: next, draft: { ...draft, values: kind.picked(next, draft.values) } });
    return true;
  }
  // What waits for these takes them: three of a plane, one of a gauge.
  pane.set({ picks: [...picks, pick].slice(-3) });
  return true;
}
