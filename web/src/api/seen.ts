import type { QueryClient } from "@tanstack/react-query";
import type { Middleware } from "openapi-fetch";
import { pathOf } from "../bench/here";
import { api, type Schemas } from "./client";

/** The states of the review whose changes this page shows: those it was told of, and those it led to itself from one of them. */
export const shownStates = new Set<string>();

/** The page begins with the state it has loaded. */
export function beginWith(client: QueryClient): void {
  const loaded = client.getQueryData<Schemas["ReviewOut"]>(["review"]);
  if (loaded && shownStates.size === 0) shownStates.add(loaded.state);
}

/** Notes what this page changed, as "before>after" for each change; a change from a state it does not show leads to another such. */
export function noteChanges(header: string): void {
  for (const change of header.split(" ")) {
    const [before, after] = change.split(">");
    if (before && after && shownStates.has(before)) shownStates.add(after);
  }
}

interface Known {
  id: number;
  revision?: number;
  stated?: string;
}

/** In which state the page has seen what an address changes; undefined where it does not matter, or it has not. */
export function seenState(client: QueryClient, path: string): string | undefined {
  const [, kind, id] = /^\/api\/(?:kept\/)?([a-z-]+)\/(\d+)/.exec(path) ?? [];
  const review = () => client.getQueryData<Schemas["ReviewOut"]>(["review"]);
  if (path === "/api/undo") return review()?.can_undo?.id.toString();
  if (path === "/api/redo") return review()?.can_redo?.id.toString();
  if (!kind) return undefined;
  if (kind === "results") {
    // The result itself is put away or brought back whatever was stated of it.
    if (/\d+(\/name)?$/.test(path)) return undefined;
    return client.getQueryData<Known>(["contents", Number(id)])?.stated;
  }
  // What is kept stands in the list of its kind, whichever hook of the page has asked for that.
  const lists = [["kept", kind], [kind], [`${kind}s`]].flatMap((queryKey) =>
    client.getQueriesData<Known[]>({ queryKey }),
  );
  const found = lists.flatMap(([, list]) => (Array.isArray(list) ? list : [])).find((i) => i.id === Number(id));
  return found?.revision?.toString();
}

/**
 * Says with every change in which state the page has seen what it changes, so that what somebody else changed meanwhile is not
 * overwritten. A refusal makes the page ask for everything anew.
 */
export function sayWhatWasSeen(client: QueryClient) {
  const middleware: Middleware = {
    onRequest({ request }) {
      if (request.method === "PUT" || request.method === "DELETE" || request.method === "POST") {
        const state = seenState(client, pathOf(request.url));
        if (state !== undefined) request.headers.set("If-Match", `"${state}"`);
      }
      return request;
    },
    onResponse({ response }) {
      beginWith(client);
      noteChanges(response.headers.get("X-Review-State") ?? "");
      if (response.status === 409) void client.invalidateQueries();
      return undefined;
    },
  };
  api.use(middleware);
}
