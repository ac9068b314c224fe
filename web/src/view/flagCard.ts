import { useCallback, useEffect, useRef } from "react";
import { useView } from "./handle";
import { aroundMark, overlap, placeLabels } from "./labels";

/** Where the card of a flag stands beside its place, and the line between them. id: what the view knows it by; above: it is looked at,
 * and lies over the others for that long, which stay where they are. */
export function useFlagCard(id: number, number: number, above = false) {
  const view = useView();
  const card = useRef<HTMLDivElement>(null);
  const line = useRef<SVGLineElement>(null);
  const dot = useRef<SVGCircleElement>(null);
  const place = useCallback(
    (px: number, py: number, width: number, height: number) => {
      const before = view.flags.get(id)?.[1];
      view.flags.set(id, [aroundMark({ x: px, y: py })]);
      if (!card.current) return;
      const w0 = card.current.offsetWidth;
      const h0 = card.current.offsetHeight;
      // The card stands on the side with more room, a little away from the place.
      const right = px > width / 2;
      const top = Math.min(Math.max(py - h0 - 34 - 20 * ((number - 1) % 3), 8), height - h0 - 8);
      const beside = right ? Math.min(px + 46, width - w0 - 8) : Math.max(px - 46 - w0, 8);
      // Where there is no room above, nor enough on that side, it would stand on its own place: the other side is taken.
      const covers = beside < px + 20 && beside + w0 > px - 20 && top + h0 > py - 10;
      const usual = {
        x: covers ? Math.min(Math.max(right ? px - 46 - w0 : px + 46, 8), width - w0 - 8) : beside,
        y: top,
      };
      // On no card or mark that has its place: of two flags the one that was planted first keeps it.
      const taken = [...view.flags].flatMap(([other, boxes]) =>
        other < id ? boxes : other > id ? boxes.slice(0, 1) : [],
      );
      const free = above || !taken.some((box) => overlap(box, { ...usual, width: w0, height: h0 }));
      const { x: left, y } = free
        ? usual
        : placeLabels([{ x: px, y: py }], [{ width: w0, height: h0 }], width, height, taken)[0]!;
      card.current.style.transform = `translate(${left}px, ${y}px)`;
      card.current.style.visibility = "visible";
      if (above && before) {
        view.flags.get(id)!.push(before);
        return;
      }
      view.flags.get(id)!.push({ x: left, y, width: w0, height: h0 });
      // Labels that were placed in this frame already find their place with the next.
      if (before?.x !== left || before.y !== y || before.width !== w0 || before.height !== h0) view.redraw?.();
      const ex = Math.min(Math.max(px, left), left + w0);
      const ey = Math.min(Math.max(py, y), y + h0);
      line.current?.setAttribute("x1", String(ex));
      line.current?.setAttribute("y1", String(ey));
      line.current?.setAttribute("x2", String(px));
      line.current?.setAttribute("y2", String(py));
      dot.current?.setAttribute("cx", String(px));
      dot.current?.setAttribute("cy", String(py));
    },
    [id, number, view, above],
  );
  useEffect(
    () => () => {
      view.flags.delete(id);
      view.redraw?.();
    },
    [id, view],
  );
  return { card, line, dot, place };
}

/** The parts that meet at a flag, by name. */
export const partsOf = (entries: { part: string | null }[]) =>
  [...new Set(entries.map((e) => e.part).filter(Boolean))].join(" | ");
