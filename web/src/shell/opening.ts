import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import type { Contents, FieldInfo } from "../api/client";
import { listen, reopen } from "../api/events";
import { useContents, usePairings, useReview, useTests } from "../api/queries";
import { belongs } from "../api/records";
import { fromAddress } from "../bench/address";
import { reviewHere } from "../bench/here";
import { Problem } from "../bench/problem";
import { activePane, carriedOver, freshReading, useBench } from "../bench/store";

/** Whether the bench has once opened where there is something to do. */
let welcomed = false;

/** What the address held as the page opened: it may name a step and leave the reading to the bench. */
let linked = fromAddress(new URLSearchParams(globalThis.location?.search ?? ""));

/** Opens at the picture that matters: the newest result, its stress, at the step of largest reaction. */
export function useOpening(): void {
  const client = useQueryClient();
  const review = useReview();
  const { result, reading, pairing, test } = useBench("result", "reading", "pairing", "test");
  const results = review.data?.results;
  const address = review.data?.address;
  useEffect(() => {
    // From now on this page is of this review, whichever is opened in other windows.
    if (!address) return;
    reviewHere(address);
    listen(client);
  }, [address, client]);
  const lost = review.error instanceof Problem && review.error.status === 404 && reviewHere();
  useEffect(() => {
    if (lost) reopen(`The review ${lost} of this link is not in the folders of this bench. Another one is shown.`);
  }, [lost]);
  useEffect(() => {
    if (!results) return;
    if (results.length && !results.some((r) => r.id === result)) {
      activePane.setState({ result: results[results.length - 1]!.id, reading: result === null ? reading : null });
    } else if (!results.length && (result !== null || !welcomed)) {
      // An empty review begins where it is filled; from there one may look into the other bays.
      activePane.setState({ result: null, bay: "intake" });
    }
    welcomed = true;
  }, [results, result, reading]);
  const contents = useContents(result);
  const before = useRef<Contents | null>(null);
  useEffect(() => {
    const c = contents.data;
    if (!c || c.id !== result) return;
    const read = (of: Contents | null) => of?.fields.find((f) => f.name === reading?.field);
    const there = read(c) !== undefined;
    // A field that was stated to be of another kind is read by the usual measure of that.
    const has = (f: FieldInfo | undefined) => f?.measures.some((m) => m.name === reading?.measure) ?? false;
    if (has(read(before.current?.id === c.id ? before.current : null)) && there && !has(read(c)))
      activePane.getState().setReading({ measure: read(c)!.measures[0]!.name, unit: null, of: "value" });
    before.current = c;
    if (!there) {
      const field = c.fields.find((f) => f.name === c.opens);
      if (!field) return;
      const { step, result: of, reading: asked } = linked;
      const named = step !== undefined && asked === undefined && (of ?? c.id) === c.id;
      linked = {};
      const { carried } = activePane.getState();
      const same = carried && c.fields.find((f) => f.name === carried.field);
      const goesOn = same?.measures.some((m) => m.name === carried!.measure) && !same.layers;
      activePane.setState({
        reading: goesOn ? carriedOver(carried!) : freshReading(field.name, field.measures[0]?.name ?? ""),
        carried: null,
        step: named ? Math.min(step, c.steps.length - 1) : c.rail.opening_step,
      });
    } else if (activePane.getState().step >= c.steps.length) activePane.setState({ step: c.steps.length - 1 });
  }, [contents.data, result, reading]);
  const pairings = usePairings(result);
  const tests = useTests();
  useEffect(() => {
    const known = pairings.data;
    if (!known) return;
    if (!known.some((p) => p.id === pairing)) activePane.setState({ pairing: known[0]?.id ?? null });
  }, [pairings.data, pairing]);
  useEffect(() => {
    const known = tests.data;
    // A record belongs to the curve it was brought in for.
    const fitting = known?.filter((t) => belongs(t, pairing));
    if (!fitting) return;
    if (!fitting.some((t) => t.id === test)) activePane.setState({ test: fitting[fitting.length - 1]?.id ?? null });
  }, [tests.data, test, pairing]);
}
