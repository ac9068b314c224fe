import { api, ask, type Schemas } from "../api/client";
import type { BenchState } from "../bench/store";

/** What a picture or a curve is of beside its reading. drawn: it is a picture of the model. */
export const shownOf = (bench: BenchState, drawn: boolean, pairing: number | null = null, test: number | null = null) =>
  ({
    result: bench.result,
    hidden: bench.look.hidden,
    exaggeration: bench.exaggeration,
    mirrored: bench.look.mirrored,
    drawn,
    pairing,
    test,
  }) satisfies Schemas["ShownIn"];

/** The same in the service's words, for the caption. */
export const shownWords = async (shown: Schemas["ShownIn"]): Promise<string> =>
  (await ask(api.POST("/api/exhibits/shown", { body: shown }))).words;
