import { api, ask, type Schemas } from "../api/client";

/** What a picture is of beside its reading, in the service's words: for its caption. */
export const shownWords = async (shown: Schemas["ShownIn"]): Promise<string> =>
  (await ask(api.POST("/api/exhibits/shown", { body: shown }))).words;
