/** Colours of lines beside each other in a plot, one after the other. */
export const strokes = ["#23282D", "#2F7486", "#9E3B23", "#B9791F", "#4F7343", "#5C5470"];

/** The colour of a body or line that stands along with the one in view: none is the ink of mesh lines. */
export const toneOf = (tone: number): string => strokes[1 + (tone % (strokes.length - 1))]!;
