import { question } from "../api/asking";
import type { Schemas } from "../api/client";
import { say, tell } from "../bench/notices";
import type { Pick, usePane } from "../bench/store";
import { kindOf } from "../lines/kinds";
import { figure } from "../reading/format";

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
    if (kind.kind === "edge") {
      void alongEdge(pane, pick);
      return true;
    }
    const next = picks.length >= kind.most ? [pick] : [...picks, pick];
    pane.set({ picks: next, draft: { ...draft, values: kind.picked(next, draft.values) } });
    return true;
  }
  // What waits for these takes them: three of a plane, one of a gauge.
  pane.set({ picks: [...picks, pick].slice(-3) });
  return true;
}

/** A click for a line along an edge takes the node of the nearest sharp edge; where there is none the start is given up, and it is said. */
async function alongEdge(pane: ReturnType<typeof usePane>, pick: Pick): Promise<void> {
  const { result, draft } = pane.getState();
  if (result === null || !draft) return;
  try {
    const { more } = await question("near-edge", { result, at: pick.xyz, side: draft.side });
    const { draft: now, picks } = pane.getState();
    if (now?.kind !== "edge") return;
    const kind = kindOf("edge");
    const snapped = { node: more.node, xyz: more.xyz as [number, number, number] };
    const next = picks.length >= kind.most ? [snapped] : [...picks, snapped];
    pane.set({ picks: next, draft: { ...now, values: kind.picked(next, now.values) } });
    if (more.node !== pick.node)
      say(`Node ${more.node} of the nearest edge is taken, ${figure(more.away, 3)} ${more.unit} away.`);
  } catch (error) {
    const { draft: now } = pane.getState();
    if (now?.kind === "edge") pane.set({ picks: [], draft: { ...now, values: [] } });
    tell(error);
  }
}
