import { useHasPlies } from "../lines/strength";
import { EnvelopeLegend, EnvelopePlot, StackPlot, StackTable, TestedPlot, TestedTable } from "../plots/StrengthPlots";
import type { StrataTab } from "../plots/tabs";

export const strengthPlots: StrataTab[] = [
  {
    name: "stack",
    label: "Stack",
    title: "The plies of an element through the thickness",
    plot: () => <StackPlot />,
    table: () => <StackTable />,
    useThere: useHasPlies,
  },
  {
    name: "envelope",
    label: "Envelope",
    title: "Where a criterion is met, with the coupons and the way of the place that fails",
    plot: () => <EnvelopePlot />,
    table: () => <EnvelopeLegend />,
    useThere: useHasPlies,
  },
  {
    name: "tested",
    label: "Tested",
    title: "What each criterion predicts against the tested parts",
    plot: () => <TestedPlot />,
    table: () => <TestedTable />,
    useThere: useHasPlies,
  },
];
