import { QueryClient } from "@tanstack/react-query";
import { beforeEach, expect, test } from "vitest";
import { beginWith, noteChanges, seenState, shownStates } from "../src/api/seen";

beforeEach(() => {
  shownStates.clear();
  const client = new QueryClient();
  client.setQueryData(["review"], { state: "4.9" });
  beginWith(client);
});

test("what a page changed itself, it shows", () => {
  noteChanges("4.9>5.10 5.10>6.11");
  expect([...shownStates]).toEqual(["4.9", "5.10", "6.11"]);
});

test("what somebody else changed just before, it does not show, though its own change came after it", () => {
  noteChanges("5.10>6.11");
  expect(shownStates.has("6.11")).toBe(false);
});

test("a page begins with what it has loaded, once", () => {
  const later = new QueryClient();
  later.setQueryData(["review"], { state: "8.1" });
  beginWith(later);
  noteChanges("");
  expect([...shownStates]).toEqual(["4.9"]);
});

test("a change says in which state the page has seen what it changes, whatever kind that is", () => {
  const client = new QueryClient();
  client.setQueryData(["kept", "part-tests", 1], [{ id: 4, revision: 7 }]);
  client.setQueryData(["flags", 1], [{ id: 5, revision: 2 }]);
  client.setQueryData(["contents", 1], { id: 1, stated: "abc" });
  client.setQueryData(["review"], { state: "4.9", can_undo: { id: 31 } });
  expect(seenState(client, "/api/kept/part-tests/4")).toBe("7");
  expect(seenState(client, "/api/kept/flag/5")).toBe("2");
  expect(seenState(client, "/api/results/1/units")).toBe("abc");
  expect(seenState(client, "/api/undo")).toBe("31");
  expect(seenState(client, "/api/kept/part-tests/6")).toBeUndefined();
  expect(seenState(client, "/api/results/1")).toBeUndefined();
});
