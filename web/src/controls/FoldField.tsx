import { useBench } from "../bench/store";
import { NumberField } from "./NumberField";

/** Up to which fold the faces that join a picked one come with it. */
export function FoldField() {
  const { measuring, set } = useBench("measuring", "set");
  return (
    <NumberField
      label="Feature angle up to"
      unit="°"
      value={measuring.fold}
      min={0}
      max={180}
      onSet={(fold) => set({ measuring: { ...measuring, fold } })}
    />
  );
}
