import { afterEach, describe, expect, test, vi } from "vitest";
import { fetchPacked, query, unpack, useLoading } from "../src/api/binary";
import { Problem } from "../src/api/client";

/** Bytes as the service packs them: length of the head, the head, the arrays. */
function packed(head: object, arrays: [string, "f4" | "u4", number[], number[]][]): ArrayBuffer {
  let offset = 0;
  const described = arrays.map(([name, type, shape, values]) => {
    const reply = { name, type, shape, offset };
    offset += 4 * values.length;
    return reply;
  });
  let text = JSON.stringify({ ...head, arrays: described });
  text += " ".repeat((4 - (text.length % 4)) % 4);
  const bytes = new Uint8Array(4 + text.length + offset);
  new DataView(bytes.buffer).setUint32(0, text.length, true);
  bytes.set(new TextEncoder().encode(text), 4);
  arrays.forEach(([, type, , values], i) => {
    const data = type === "f4" ? new Float32Array(values) : new Uint32Array(values);
    bytes.set(new Uint8Array(data.buffer), 4 + text.length + described[i]!.offset);
  });
  return bytes.buffer;
}

afterEach(() => vi.unstubAllGlobals());

test("arrays come out as they went in", () => {
  const buffer = packed({ unit: "MPa" }, [
    ["values", "f4", [3], [1.5, Number.NaN, -2]],
    ["triangles", "u4", [2, 3], [0, 1, 2, 2, 1, 3]],
  ]);
  const found = unpack<{ unit: string }>(buffer);
  expect(found.head.unit).toBe("MPa");
  expect([...found.floats.values!]).toEqual([1.5, Number.NaN, -2]);
  expect([...found.whole.triangles!]).toEqual([0, 1, 2, 2, 1, 3]);
});

describe("what is fetched", () => {
  test("tells how much of a large answer has come, and forgets it at the end", async () => {
    const buffer = packed({}, [["values", "f4", [400_000], new Array(400_000).fill(3)]]);
    const seen: number[] = [];
    const stop = useLoading.subscribe(({ coming }) => seen.push(coming["/a"]?.got ?? -1));
    const whole = new Uint8Array(buffer);
    const body = new ReadableStream({
      start(control) {
        for (let i = 0; i < whole.length; i += 600_000) control.enqueue(whole.subarray(i, i + 600_000));
        control.close();
      },
    });
    const headers = { "content-length": String(whole.length) };
    vi.stubGlobal("fetch", async () => new Response(body, { headers }));
    const found = await fetchPacked("/a");
    stop();
    expect(found.floats.values).toHaveLength(400_000);
    expect(seen.slice(0, -1)).toEqual([600_000, 1_200_000, whole.length]);
    expect(seen.at(-1)).toBe(-1);
  });

  test("fails in words: the service's own, or that it does not answer", async () => {
    const reply = { title: "There is no step 9.", hint: "Steps run from 0 to 3." };
    vi.stubGlobal("fetch", async () => new Response(JSON.stringify(reply), { status: 422 }));
    await expect(fetchPacked("/a")).rejects.toEqual(new Problem(reply.title, reply.hint));
    vi.stubGlobal("fetch", async () => new Response("<html>", { status: 500 }));
    await expect(fetchPacked("/a")).rejects.toThrow("The service failed.");
    vi.stubGlobal("fetch", async () => Promise.reject(new TypeError("network")));
    await expect(fetchPacked("/a")).rejects.toThrow("does not answer");
  });

  test("that was called back is no failure to be reply", async () => {
    vi.stubGlobal("fetch", async () => Promise.reject(new DOMException("", "AbortError")));
    await expect(fetchPacked("/a")).rejects.toHaveProperty("name", "AbortError");
  });
});

test("only what is set is asked", () => {
  expect(query({ field: "stress", step: 0, unit: null, plane: undefined, hidden: "", when: false })).toBe(
    "field=stress&step=0&when=false",
  );
});
