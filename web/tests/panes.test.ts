import { beforeEach, expect, it } from "vitest";
import { freshReading, panes, useBench } from "../src/bench/store";

beforeEach(() => panes.reset({ result: 2, reading: freshReading("stress", "von-mises") }));

it("has one pane to begin with", () => {
  expect(panes.count()).toBe(1);
});

it("a second pane begins as the first and then has its own reading, limits, camera and parts", () => {
  useBench.getState().setKey({ low: 1 });
  panes.add();
  expect(useBench.getState().key.low).toBe(1);
  useBench.getState().setReading({ averaging: "part" });
  useBench.getState().setKey({ low: 7, high: 9 });
  useBench.getState().setLook({ hidden: [0] });
  useBench.setState({ camera: { position: [1, 2, 3], target: [0, 0, 0], zoom: 2 } });
  const second = useBench.getState();
  panes.activate(0);
  const first = useBench.getState();
  expect([first.reading!.averaging, first.key.low, first.look.hidden, first.camera]).toEqual(["off", 1, [], null]);
  expect([second.reading!.averaging, second.key.low, second.look.hidden]).toEqual(["part", 7, [0]]);
});

it("what is the bench's own is the same from every pane", () => {
  panes.add();
  useBench.setState({ bay: "trace", pairing: 4 });
  panes.activate(0);
  expect([useBench.getState().bay, useBench.getState().pairing]).toEqual(["trace", 4]);
});

it("a pane that closes leaves the others as they are, and the last one stays", () => {
  panes.add();
  useBench.getState().setReading({ averaging: "all" });
  panes.close(0);
  expect([panes.count(), panes.active(), useBench.getState().reading!.averaging]).toEqual([1, 0, "all"]);
  panes.close(0);
  expect(panes.count()).toBe(1);
});

it("a listener hears of a change to the active pane, before and after", () => {
  const heard: [number, number][] = [];
  const stop = useBench.subscribe((now, before) => heard.push([before.step, now.step]));
  useBench.setState({ step: 3 });
  stop();
  expect(heard).toEqual([[0, 3]]);
});
