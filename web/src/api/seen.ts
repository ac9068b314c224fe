import type { QueryClient } from "@tanstack/react-query";
import type { Middleware } from "openapi-fetch";
import { api, type Schemas } from "./client";

/** The states the review was brought to by this page itself. */
export const ownStates = new Set<string>();

interface Known {
  id: number;
  revision?: number;
  stated?: string;
}

/**
 * Says with every change in which state the page has seen what it changes, so that what somebody else changed meanwhile is not
 * overwritten. A refusal makes the page ask for everything anew.
 */
export function sayWhatWasSeen(client: QueryClient) {
  const seen = (path: string): string | undefined => {
    const [, kind, id] =
      /^\/api\/(?:kept\/)?(results|flags|pairings|tests|exhibits|path|cut|gauges)\/(\d+)/.exec(path) ?? [];
    const review = () => client.getQueryData<Schemas["ReviewOut"]>(["review"]);
    if (path === "/api/undo") return review()?.can_undo?.id.toString();
    if (path === "/api/redo") return review()?.can_redo?.id.toString();
    if (!kind) return undefined;
    if (kind === "results") {
      // The result itself is put away or brought back whatever was stated of it.
      if (/\d+(\/name)?$/.test(path)) return undefined;
      return client.getQueryData<Known>(["contents", Number(id)])?.stated;
    }
    const kept = path.startsWith("/api/kept/");
    const lists = client.getQueriesData<Known[]>({ queryKey: kept ? ["kept", kind] : [kind] });
    const found = lists.flatMap(([, list]) => (Array.isArray(list) ? list : [])).find((i) => i.id === Number(id));
    return found?.revision?.toString();
  };
  const middleware: Middleware = {
    onRequest({ request }) {
      if (request.method === "PUT" || request.method === "DELETE" || request.method === "POST") {
        const state = seen(new URL(request.url).pathname);
        if (state !== undefined) request.headers.set("If-Match", `"${state}"`);
      }
      return request;
    },
    onResponse({ response }) {
      const state = response.headers.get("X-Review-State");
      if (state) ownStates.add(state);
      if (response.status === 409) void client.invalidateQueries();
      return undefined;
    },
  };
  api.use(middleware);
}
