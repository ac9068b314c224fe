/** Which review this page is of: its addresses at the service name it, so that a window keeps its own whatever others open. */

let named = new URLSearchParams(globalThis.location?.search ?? "").get("review") ?? "";

/** How addresses name the review of this page, from now on another; '' the one the service opened last. */
export const reviewHere = (now?: string): string => {
  named = now ?? named;
  return named;
};

/** An address of the service for the review of this page. */
export const here = (address: string): string => (named ? `/r/${encodeURIComponent(named)}${address}` : address);

/** The path of an address of the service, whatever review it is of. */
export const pathOf = (url: string): string => new URL(url, "http://localhost").pathname.replace(/^\/r\/[^/]+/, "");
