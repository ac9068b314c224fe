import createClient from "openapi-fetch";
import { here } from "../bench/here";
import { Problem, Unreachable } from "../bench/problem";
import { setGone } from "../bench/reach";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Contents = Schemas["ContentsOut"];
export type FieldInfo = Schemas["FieldOut"];
export type ValuesHead = Schemas["ValuesHead"];
export type Pairing = Schemas["PairingOut"];
export type PairingSpec = Omit<Schemas["PairingIn"], "first"> & { first?: number };
export type TraceSpec = Schemas["TraceSpec"];
export type TestRecord = Schemas["TestOut"];
export type TestUse = Schemas["TestUse"];
export type Match = Schemas["MatchOut"];
export type FlagAnswer = Schemas["FlagAnswer"];
export type Exhibit = Schemas["ExhibitOut"];
export type Job = Schemas["JobOut"];

export { Problem };

/** By which the service knows what this page waits for. */
const PAGE = Math.random().toString(36).slice(2);
export const ofThisPage = { "X-Page": PAGE };

class OfThisReview extends Request {
  constructor(address: RequestInfo | URL, given?: RequestInit) {
    super(typeof address === "string" ? here(address) : address, given);
  }
}

export const api = createClient<paths>({ baseUrl: "", headers: ofThisPage, Request: OfThisReview });

/** Unwrap an answer, or throw the service's problem. */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer: { data?: T; error?: unknown; response: Response };
  try {
    answer = await call;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    setGone(true);
    throw new Unreachable();
  }
  setGone(false);
  if (!answer.response.ok) throw toProblem(answer.error);
  return answer.data as T;
}

export function toProblem(error: unknown): Problem {
  const found = error as { title?: string; hint?: string; status?: number } | undefined;
  return new Problem(found?.title ?? "The service failed.", found?.hint ?? "", found?.status);
}

/** The measure of a field by name; the field's usual one when the name says nothing. */
export const measureOf = (field: FieldInfo | undefined, name: string) =>
  field?.measures.find((m) => m.name === name) ?? field?.measures[0];
