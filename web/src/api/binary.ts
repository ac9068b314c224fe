import { Problem, toProblem } from "./client";

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

export async function fetchPacked<Head>(address: string, signal?: AbortSignal): Promise<Packed<Head>> {
  let answer: Response;
  try {
    answer = await fetch(address, { signal });
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Problem("The service does not answer.", "See whether it is still running, then try again.");
  }
  if (!answer.ok) throw toProblem(await answer.json().catch(() => undefined));
  return unpack<Head>(await answer.arrayBuffer());
}

/** Query text of the values that are set. */
export function query(values: Record<string, string | number | null | undefined>): string {
  const set = Object.entries(values).filter(([, v]) => v !== null && v !== undefined && v !== "");
  return new URLSearchParams(set.map(([k, v]) => [k, String(v)])).toString();
}
