/** What went wrong, in words for the analyst, and what to do. */
export class Problem extends Error {
  constructor(
    readonly title: string,
    readonly hint: string,
    readonly status?: number,
  ) {
    super(hint ? `${title} ${hint}` : title);
  }
}

/** The service does not answer: what was asked is asked again until it does. */
export class Unreachable extends Problem {
  constructor() {
    super(
      "The service does not answer.",
      "See whether it is still running. What is missing comes by itself when it is back.",
    );
  }
}

/** What the analyst stopped themselves: it is told in a word, not as something that went wrong. */
export class Stopped extends Problem {
  constructor(now = "The view shows what it showed before.") {
    super(`Stopped. ${now}`.trim(), "");
  }
}
