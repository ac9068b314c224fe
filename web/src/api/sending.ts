import { create } from "zustand";
import { Stopped } from "../bench/problem";

/** A file that is being sent and read as a table, and the way to stop it. */
export const useSending = create<{ sending: { name: string; stop: () => void } | null }>(() => ({ sending: null }));

/** Send a file by ``send``, which takes its body and what stops it; the bench says that it is being read, and can stop it. */
export async function sent<T>(file: File, send: (how: ReturnType<typeof body>) => Promise<T>): Promise<T> {
  const stopping = new AbortController();
  useSending.setState({ sending: { name: file.name, stop: () => stopping.abort() } });
  try {
    return await send(body(file, stopping.signal));
  } catch (error) {
    if (stopping.signal.aborted) throw new Stopped("Nothing was taken in.");
    throw error;
  } finally {
    useSending.setState({ sending: null });
  }
}

const body = (file: File, signal: AbortSignal) => ({
  body: file as never,
  bodySerializer: (b: unknown) => b as BodyInit,
  signal,
});
