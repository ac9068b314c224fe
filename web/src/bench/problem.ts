/** What went wrong, in words for the analyst, and what to do. */
export class Problem extends Error {
  constructor(
    readonly title: string,
    readonly hint: string,
  ) {
    super(hint ? `${title} ${hint}` : title);
  }
}
