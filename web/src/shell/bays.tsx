import { Activity, AudioWaveform, Columns2, Download, FileText, Layers, Scale, Spline, Waves } from "lucide-react";
import type { ComponentType, ReactNode } from "react";
import { BalanceDrawer } from "../balance/BalanceDrawer";
import { balancePlots } from "../balance/plots";
import type { Bay } from "../bench/bays";
import { CompareDrawer } from "../compare/CompareDrawer";
import { useCompareOffers } from "../compare/keeps";
import { comparePlots } from "../compare/plots";
import { ExhibitsDrawer } from "../exhibits/ExhibitsDrawer";
import { Leaves } from "../exhibits/Leaves";
import type { Offer } from "../exhibits/offers";
import { FieldDrawer } from "../field/FieldDrawer";
import { fieldPlots } from "../field/plots";
import { IntakeDrawer } from "../intake/IntakeDrawer";
import { useMotionOffers } from "../motion/keeps";
import { MotionDrawer } from "../motion/MotionDrawer";
import { motionPlots } from "../motion/plots";
import { usePathOffers } from "../path/keeps";
import { PathDrawer } from "../path/PathDrawer";
import { pathPlots } from "../path/plots";
import type { StrataTab } from "../plots/tabs";
import { useStrengthOffers } from "../strength/keeps";
import { strengthPlots } from "../strength/plots";
import { StrengthDrawer } from "../strength/StrengthDrawer";
import { useCurveOffers } from "../trace/keeps";
import { tracePlots } from "../trace/plots";
import { TraceDrawer } from "../trace/TraceDrawer";

/** What the shell knows of a bay: its name and mark, its drawer, and what it would do where no result is there yet. */
interface Shown {
  label: string;
  icon: ReactNode;
  drawer: ComponentType;
  /** What lies over the view while one is there. */
  table?: ComponentType;
  /** Empty of a bay that needs no result. */
  does: string;
  /** What can be kept of it beside the view, and which of it is usually meant. */
  useOffers: () => Offer[];
  keeps: string;
}

export const shown: Record<Bay, Shown> = {
  intake: {
    label: "Intake",
    icon: <Download size={20} />,
    drawer: IntakeDrawer,
    does: "",
    useOffers: useCurveOffers,
    keeps: "view",
  },
  balance: {
    label: "Balance",
    icon: <Scale size={20} />,
    drawer: BalanceDrawer,
    does: "adds up loads and reactions, and asks whether the model makes sense",
    useOffers: useCurveOffers,
    keeps: "view",
  },
  field: {
    label: "Field",
    icon: <Waves size={20} />,
    drawer: FieldDrawer,
    does: "shows a reading on the model: averaging, key, parts, cuts, marks",
    useOffers: useCurveOffers,
    keeps: "view",
  },
  path: {
    label: "Path",
    icon: <Spline size={20} />,
    drawer: PathDrawer,
    does: "reads values along lines and at gauge points",
    useOffers: usePathOffers,
    keeps: "view",
  },
  trace: {
    label: "Trace",
    icon: <Activity size={20} />,
    drawer: TraceDrawer,
    does: "makes curves over the steps and holds them against test records",
    useOffers: useCurveOffers,
    keeps: "curve",
  },
  strength: {
    label: "Strength",
    icon: <Layers size={20} />,
    drawer: StrengthDrawer,
    does: "works out failure indices of plies, stacks, and utilisation of metals",
    useOffers: useStrengthOffers,
    keeps: "view",
  },
  compare: {
    label: "Compare",
    icon: <Columns2 size={20} />,
    drawer: CompareDrawer,
    does: "holds a result against another, and a value against finer meshes",
    useOffers: useCompareOffers,
    keeps: "view",
  },
  motion: {
    label: "Motion",
    icon: <AudioWaveform size={20} />,
    drawer: MotionDrawer,
    does: "reads modes, responses to harmonic loads, and motions over time",
    useOffers: useMotionOffers,
    keeps: "view",
  },
  exhibits: {
    label: "Exhibits",
    icon: <FileText size={20} />,
    drawer: ExhibitsDrawer,
    table: Leaves,
    does: "",
    useOffers: useCurveOffers,
    keeps: "view",
  },
};

/** The plots and tables under the view, of every bay. */
export const plots: StrataTab[] = [
  ...tracePlots,
  ...balancePlots,
  ...pathPlots,
  ...strengthPlots,
  ...comparePlots,
  ...motionPlots,
  ...fieldPlots,
];
