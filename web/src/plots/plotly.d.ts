declare module "plotly.js-cartesian-dist-min" {
  export interface PlotElement extends HTMLDivElement {
    on(
      event: "plotly_click",
      handler: (e: { points: { pointNumber: number; curveNumber: number; customdata?: number }[] }) => void,
    ): void;
    on(event: "plotly_relayout" | "plotly_unhover", handler: () => void): void;
    on(event: "plotly_hover", handler: (e: { xvals: number[]; points: { x: number }[] }) => void): void;
    _fullLayout: Record<"xaxis" | "yaxis", { autorange: boolean; range: [number, number] }>;
    removeAllListeners(event: string): void;
  }
  export function react(element: HTMLElement, data: object[], layout: object, config?: object): Promise<PlotElement>;
  export function purge(element: HTMLElement): void;
  export function toImage(
    figure: HTMLElement | { data: object[]; layout: object },
    options: { format: "png" | "svg"; width: number; height: number; scale?: number },
  ): Promise<string>;
  export const Plots: { resize(element: HTMLElement): void };
}
