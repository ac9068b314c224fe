import { onPage, useTheme } from "../theme/theme";

/** A short stroke in the colour a line of a plot has on this page. */
export function Stroke({ colour, dashed = false }: { colour: string; dashed?: boolean }) {
  const dark = useTheme((s) => s.dark);
  return <i className={`stroke ${dashed ? "stroke-dashed" : ""}`} style={{ background: onPage(colour, dark) }} />;
}
