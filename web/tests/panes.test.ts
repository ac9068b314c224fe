import { beforeEach, expect, it } from "vitest";
import { activePane, freshReading, panes } from "../src/bench/store";

beforeEach(() => panes.reset({ result: 2, reading: freshReading("stress", "von-mises") }));

it("has one pane to begin with", () => {
  expect(panes.count()).toBe(1);
});

it("a second pane begins as the first and then has its own reading, limits, camera and parts", () => {
  activePane.getState().setKey({ low: 1 });
  panes.add();
  expect(activePane.getState().key.low).toBe(1);
  activePane.getState().setReading({ averaging: "part" });
  activePane.getState().setKey({ low: 7, high: 9 });
  activePane.getState().setLook({ hidden: [0] });
  activePane.setState({ camera: { position: [1, 2, 3], target: [0, 0, 0], zoom: 2 } });
  const second = activePane.getState();
  panes.activate(0);
  const first = activePane.getState();
  expect([first.reading!.averaging, first.key.low, first.look.hidden, first.camera]).toEqual(["off", 1, [], null]);
  expect([second.reading!.averaging, second.key.low, second.look.hidden]).toEqual(["part", 7, [0]]);
});

it("what is the bench's own is the same from every pane", () => {
  panes.add();
  activePane.setState({ bay: "trace", pairing: 4 });
  panes.activate(0);
  expect([activePane.getState().bay, activePane.getState().pairing]).toEqual(["trace", 4]);
});

it("a pane that closes leaves the others as they are, and the last one stays", () => {
  panes.add();
  activePane.getState().setReading({ averaging: "all" });
  panes.close(0);
  expect([panes.count(), panes.active(), activePane.getState().reading!.averaging]).toEqual([1, 0, "all"]);
  panes.close(0);
  expect(panes.count()).toBe(1);
});

it("a listener hears of a change to the active pane, before and after", () => {
  const heard: [number, number][] = [];
  const stop = activePane.subscribe((now, before) => heard.push([before.step, now.step]));
  activePane.setState({ step: 3 });
  stop();
  expect(heard).toEqual([[0, 3]]);
});
