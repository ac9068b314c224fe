import { useFlags } from "../api/marks";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { FlagStepsLegend, FlagStepsPlot } from "../plots/FlagSteps";
import { FlagTable } from "../plots/FlagTable";
import { type StrataTab, some } from "../plots/tabs";

const useAnyFlag = () => some(useFlags(useBench((s) => s.result)));

function useFlagsOverSteps(): boolean {
  const contents = useContents(useBench((s) => s.result));
  return useAnyFlag() && (contents.data?.steps.length ?? 0) > 1;
}

export const fieldPlots: StrataTab[] = [
  {
    name: "flag-steps",
    label: "Over steps",
    title: "The reading at the flags, over the steps",
    plot: () => <FlagStepsPlot />,
    table: () => <FlagStepsLegend />,
    useThere: useFlagsOverSteps,
  },
  {
    name: "flags",
    label: "Flags",
    title: "Every flag of the result",
    table: () => <FlagTable />,
    useThere: useAnyFlag,
  },
];
