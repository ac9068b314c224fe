import { beforeEach, expect, it } from "vitest";
import type { Contents } from "../src/api/client";
import { benchAddress, openAddress } from "../src/bench/address";
import { activePane, freshReading, panes } from "../src/bench/store";
import { sameParts } from "../src/lines/turning";

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

it("an address with a second view opens both, and one without closes the second", () => {
  openAddress(
    new URLSearchParams(
      "bay=field&result=2&field=stress&measure=xx&step=3&twin=result%3D1%26field%3Dstress%26measure%3Dxx%26step%3D2&active=2&untied=step",
    ),
  );
  expect([panes.count(), panes.active(), panes.state(0).step, panes.state(1).result, panes.state(1).step]).toEqual([
    2, 1, 3, 1, 2,
  ]);
  expect([panes.state(0).ties.step, panes.state(0).ties.camera]).toEqual([false, true]);
  expect(benchAddress().get("untied")).toBe("step");
  openAddress(new URLSearchParams("bay=field&result=2&step=0"));
  expect([panes.count(), panes.state(0).ties.step]).toEqual([1, true]);
});

it("parts of one result are those of another by their names", () => {
  const of = (...names: string[]) => ({ parts: names.map((name) => ({ name, elements: 1 })) }) as unknown as Contents;
  expect(sameParts([0, 2], of("pin", "lug", "shim"), of("shim", "pin"))).toEqual([1, 0]);
  expect(sameParts([1], of("pin", "lug"), of("pin"))).toEqual([]);
});

it("a change of a pane is told with its number, opening one is not", () => {
  const told: [number, number][] = [];
  const stop = panes.watch((pane, now) => told.push([pane, now.step]));
  panes.add({ step: 4 });
  panes.set(0, { step: 2 });
  panes.set(1, { step: 5 });
  stop();
  expect(told).toEqual([
    [0, 2],
    [1, 5],
  ]);
});
