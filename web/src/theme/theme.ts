import { create } from "zustand";

export type Theme = "system" | "light" | "dark";

const KEPT = "ironstone theme";
// Where there is no window (the rules' own tests) it is light.
const here = typeof window === "undefined" ? null : window;
const system = here?.matchMedia("(prefers-color-scheme: dark)");
const kept = here?.localStorage.getItem(KEPT);

/** Which theme was chosen, and whether the bench is dark now. */
export const useTheme = create<{ theme: Theme; dark: boolean }>(() => ({
  theme: kept === "light" || kept === "dark" ? kept : "system",
  dark: false,
}));

function apply(): void {
  const { theme } = useTheme.getState();
  const dark = theme === "dark" || (theme === "system" && system?.matches === true);
  document.documentElement.dataset.bsTheme = dark ? "dark" : "light";
  useTheme.setState({ dark });
}

export function chooseTheme(theme: Theme): void {
  localStorage.setItem(KEPT, theme);
  useTheme.setState({ theme });
  apply();
}

if (here) {
  system?.addEventListener("change", apply);
  apply();
}

/** Strokes that are too dark for a dark page, and what they are there. */
const lighter: Record<string, string> = {
  "#23282D": "#ECE7DC",
  "#2F7486": "#7CBCCC",
  "#9E3B23": "#E58A70",
  "#4F7343": "#93B985",
  "#B9791F": "#D9A24A",
  "#5C5470": "#B7AECB",
  "#6B4E71": "#C9A7CF",
  "#595C58": "#B0ADA4",
  "#E3DCCD": "#3A4147",
  "#BDB4A2": "#6B6F70",
  "#FBF9F4": "#23282D",
  "#E2D3B4": "#6A5A37",
  "#C9D0D1": "#49565A",
  "#DDBFA9": "#6B4C39",
  "#C5D1BC": "#475642",
  "#D9CBE0": "#584A60",
};

/** A colour of a plot as it is on the page; pictures for reports stay light and do not ask. */
export const onPage = (colour: string, dark: boolean): string => (dark ? (lighter[colour] ?? colour) : colour);
