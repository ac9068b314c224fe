import { create } from "zustand";
import { here } from "../bench/here";
import { Unreachable } from "../bench/problem";
import { setGone } from "../bench/reach";
import { type Job, ofThisPage, toProblem } from "./client";

interface Described {
  name: string;
  type: "f4" | "u4";
  shape: number[];
  offset: number;
}

/** Raw arrays behind a JSON head, as ironstone.service.binary packs them. */
export interface Packed<Head> {
  head: Head;
  floats: Record<string, Float32Array>;
  whole: Record<string, Uint32Array>;
}

export function unpack<Head>(buffer: ArrayBuffer): Packed<Head> {
  const length = new DataView(buffer).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length))) as Head & {
    arrays: Described[];
  };
  const floats: Record<string, Float32Array> = {};
  const whole: Record<string, Uint32Array> = {};
  for (const array of head.arrays) {
    const count = array.shape.reduce((a, b) => a * b, 1);
    const start = 4 + length + array.offset;
    if (array.type === "f4") floats[array.name] = new Float32Array(buffer, start, count);
    else whole[array.name] = new Uint32Array(buffer, start, count);
  }
  return { head, floats, whole };
}

/** How much of what is on its way has come, in bytes, by address; told of large answers alone. */
export const useLoading = create<{ coming: Record<string, { got: number; all: number }> }>(() => ({ coming: {} }));

async function received(answer: Response, address: string): Promise<ArrayBuffer> {
  const all = Number(answer.headers.get("content-length") ?? 0);
  // Of a packed answer the length is that of the packing.
  if (all < 1_000_000 || !answer.body || answer.headers.has("content-encoding")) return answer.arrayBuffer();
  const buffer = new Uint8Array(all);
  const reader = answer.body.getReader();
  const tell = (got: number | null) =>
    useLoading.setState(({ coming: { [address]: _, ...others } }) => ({
      coming: got === null ? others : { ...others, [address]: { got, all } },
    }));
  try {
    for (let got = 0; ; ) {
      const { done, value } = await reader.read();
      if (done) break;
      buffer.set(value, got);
      got += value.length;
      tell(got);
    }
  } finally {
    tell(null);
  }
  return buffer.buffer;
}

/** work: follows the job the service answers with where something has to be worked out first. */
export async function fetchPacked<Head>(
  address: string,
  signal?: AbortSignal,
  work?: (job: Job) => Promise<void>,
): Promise<Packed<Head>> {
  let answer: Response;
  try {
    answer = await fetch(here(address), {
      signal,
      headers: work ? { ...ofThisPage, Prefer: "respond-async" } : ofThisPage,
    });
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    setGone(true);
    throw new Unreachable();
  }
  setGone(false);
  if (!answer.ok) throw toProblem(await answer.json().catch(() => undefined));
  if (work && answer.status === 202) {
    await work((await answer.json()) as Job);
    return fetchPacked<Head>(address, signal, work);
  }
  return unpack<Head>(await received(answer, address));
}

/** Query text of the values that are set. */
export function query(values: Record<string, string | number | boolean | null | undefined>): string {
  const set = Object.entries(values).filter(([, v]) => v !== null && v !== undefined && v !== "");
  return new URLSearchParams(set.map(([k, v]) => [k, String(v)])).toString();
}
