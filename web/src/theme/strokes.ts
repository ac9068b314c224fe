/** Colours of lines beside each other in a plot, one after the other. */
export const strokes = ["#23282D", "#2F7486", "#9E3B23", "#B9791F", "#4F7343", "#5C5470"];
