import { useKept } from "../api/kept";
import { useBench } from "../bench/store";
import { GaugePlot, GaugeTable } from "../plots/GaugePlot";
import { ProfileLegend, ProfilePlot } from "../plots/ProfilePlot";
import { type StrataTab, some } from "../plots/tabs";

function useAny(kind: "path" | "gauges"): boolean {
  const { result, bay } = useBench("result", "bay");
  return some(useKept(kind, result)) || bay === "path";
}

export const pathPlots: StrataTab[] = [
  {
    name: "profile",
    label: "Profile",
    title: "The reading along lines",
    plot: () => <ProfilePlot />,
    table: () => <ProfileLegend />,
    useThere: () => useAny("path"),
  },
  {
    name: "gauges",
    label: "Gauges",
    title: "Gauge points, against what was measured",
    plot: () => <GaugePlot />,
    table: () => <GaugeTable />,
    useThere: () => useAny("gauges"),
  },
];
