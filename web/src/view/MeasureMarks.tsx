import { useCallback, useRef } from "react";
import { useMembers } from "../api/balance";
import { useNodePosition } from "../api/queries";
import { useBench } from "../bench/store";
import { usePinned } from "./pinned";

/** The nodes picked to be measured and the lines between them; else the member of bars in view, from joint to joint. */
export function MeasureMarks({ moves }: { moves: boolean }) {
  const { picking, measuring, member, tab, strata } = useBench("picking", "measuring", "member", "tab", "strata");
  const picked = picking === "length" || picking === "angle";
  const shown = !picked && member !== null && tab === "member" && strata;
  const members = useMembers(shown);
  const joints = shown ? (members.data?.members.find((m) => m.number === member)?.joints ?? []) : [];
  const nodes = picked ? measuring.nodes : joints;
  const line = useRef<SVGPolylineElement>(null);
  const places = useRef(new Map<number, string>());
  const answer = useCallback((index: number, x: number, y: number, count: number) => {
    places.current.set(index, `${x.toFixed(1)},${y.toFixed(1)}`);
    const points = Array.from({ length: count }, (_, i) => places.current.get(i)).filter(Boolean);
    line.current?.setAttribute("points", points.join(" "));
  }, []);
  if (!nodes.length) return null;
  return (
    <svg className="measure-layer" aria-hidden="true">
      <polyline ref={line} />
      {nodes.map((node, i) => (
        <Mark key={`${node}-${i}`} node={node} index={i} count={nodes.length} moves={moves} answer={answer} />
      ))}
    </svg>
  );
}

interface MarkProps {
  node: number;
  index: number;
  count: number;
  moves: boolean;
  answer: (index: number, x: number, y: number, count: number) => void;
}

function Mark({ node, index, count, moves, answer }: MarkProps) {
  const { result, step } = useBench("result", "step");
  const place = useNodePosition(result, node, step);
  const dot = useRef<SVGCircleElement>(null);
  const pinned = place.data && { xyz: place.data.xyz!, moved: place.data.displacement! };
  const call = useCallback(
    (x: number, y: number) => {
      dot.current?.setAttribute("cx", String(x));
      dot.current?.setAttribute("cy", String(y));
      answer(index, x, y, count);
    },
    [answer, index, count],
  );
  usePinned(pinned, moves, call);
  return <circle ref={dot} r="4.5" />;
}
