import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { MemberPlot, TakenOver } from "../plots/MemberPlot";
import type { StrataTab } from "../plots/tabs";

function useAnyBar(): boolean {
  const contents = useContents(useBench((s) => s.result));
  return Object.keys(contents.data?.cells ?? {}).some((k) => k.startsWith("line"));
}

export const balancePlots: StrataTab[] = [
  {
    name: "member",
    label: "Members",
    title: "Along a member of bars, and which take over force",
    plot: () => <MemberPlot />,
    table: () => <TakenOver />,
    useThere: useAnyBar,
  },
];
