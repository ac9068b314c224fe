import { QueryClient } from "@tanstack/react-query";
import { beforeEach, expect, test } from "vitest";
import { beginWith, noteChanges, shownStates } from "../src/api/seen";

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
