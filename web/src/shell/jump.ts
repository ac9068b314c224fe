/** The regions of the bench in the order they are gone through, each with what in it takes the keyboard, the first that is there. */
const REGIONS: [region: string, takes: string[]][] = [
  [".rail", ["[aria-current=page]", "button"]],
  [".top", [".reading-line .word", "button"]],
  [".pane", []],
  [".step-rail", ["[role=slider]", "button", "input"]],
  [".strata", ["[role=tab][aria-selected=true]", "button"]],
  [".drawer", ["[role=tab][aria-selected=true]", "button, input, select"]],
];

/** Takes the keyboard to the next region of the bench, or the one before, past those that are not there or hold nothing. */
export function jump(back: boolean): void {
  const at = REGIONS.findIndex(([region]) => document.activeElement?.closest(region));
  const way = back ? -1 : 1;
  for (let k = 1; k <= REGIONS.length; k++) {
    const [region, takes] = REGIONS[(at + way * k + (at < 0 && back ? 1 : 0) + 2 * REGIONS.length) % REGIONS.length]!;
    const here = document.querySelector(region);
    if (!here || here.closest("[inert]")) continue;
    // The view takes it as a whole: its keys are those of the bench.
    if (here.hasAttribute("tabindex")) {
      (here as HTMLElement).focus();
      return;
    }
    for (const what of takes) {
      const found = [...here.querySelectorAll<HTMLElement>(what)].find(
        (e) => e.offsetParent && !(e as HTMLButtonElement).disabled,
      );
      if (!found) continue;
      found.focus();
      if (document.activeElement === found) return;
    }
  }
}
