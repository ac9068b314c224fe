import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, test } from "vitest";
import type { Contents, Pairing, TestRecord } from "../src/api/client";
import { belongs } from "../src/api/records";
import { Heads, scaleOf, small, Vector, Verdict } from "../src/balance/tables";
import { Choices } from "../src/controls/Choices";
import { Leaves } from "../src/controls/Leaves";
import { TextField } from "../src/controls/TextField";
import { memberName } from "../src/plots/MemberPlot";
import { freshPairing, overTime, stressStrain } from "../src/trace/PairingForm";

const cells = (html: string) => [...html.matchAll(/<td>([^<]*)<\/td>/g)].map((m) => m[1]);

describe("forces in a table", () => {
  test("of ten thousand newtons and more are written in thousands, moments too", () => {
    expect(scaleOf("N", [[0, 9_999, 0]])).toMatchObject({ unit: "N", factor: 1 });
    expect(scaleOf("N", [[0, -60_000, 0]])).toMatchObject({ unit: "kN", factor: 1e-3 });
    expect(scaleOf("N·mm", [[2e6, 0, 0]]).unit).toBe("kN·mm");
    expect(scaleOf("kN", [[60_000, 0, 0]])).toMatchObject({ unit: "kN", factor: 1 });
    expect(scaleOf("lbf", [[60_000, 0, 0]]).unit).toBe("lbf");
    expect(scaleOf("", [])).toEqual({ unit: "", factor: 1 });
  });

  test("are told as the service has them, and the whole number stays at hand", () => {
    const scale = scaleOf("N", [[60_000, 0, -12]]);
    const html = renderToStaticMarkup(<Vector word="reaction" v={[60_000, 0, -12]} scale={scale} />);
    expect(cells(html)).toEqual(["reaction", "60.00", "0", "−0.01200", "60.00"]);
    expect(html).toContain("60000, 0, -12 (N)");
  });

  test("have their unit in the head", () => {
    const html = renderToStaticMarkup(<Heads what="force" scale={{ unit: "kN", factor: 1e-3 }} />);
    expect(html).toContain("force, kN");
  });
});

describe("a verdict", () => {
  test("is a word and a colour class, never a colour alone", () => {
    for (const [verdict, name] of [
      ["agrees", "good"],
      ["doubtful", "doubt"],
      ["fails", "bad"],
      ["nothing to balance", "doubt"],
    ]) {
      const html = renderToStaticMarkup(<Verdict verdict={verdict!}>of all forces.</Verdict>);
      expect(html).toContain(`verdict-${name}`);
      expect(html).toContain(`<b>${verdict}</b>`);
    }
  });

  test("tells a share that is rounding as small, not by its digits", () => {
    expect(small(4e-9)).toBe("less than 0.001\u202f%");
    expect(small(0.0123)).toContain("1.2");
    expect(small(null)).not.toContain("less");
  });
});

const tensor = (name: string, kind: string, unit: string) => ({ name, kind, unit, rank: "tensor", measures: [] });
const vector = (name: string, kind: string, unit: string) => ({ name, kind, unit, rank: "vector", measures: [] });
const contents = (more: object = {}) =>
  ({
    id: 7,
    fields: [
      vector("displacement", "displacement", "mm"),
      vector("reaction", "reaction", "N"),
      tensor("stress", "stress", "MPa"),
      tensor("strain", "strain", ""),
    ],
    sets: [
      { name: "end", of: "nodes", held: "free" },
      { name: "root", of: "nodes", held: "held" },
    ],
    rail: { driver: null, supports: [] },
    ...more,
  }) as unknown as Contents;

describe("curves one asks for first", () => {
  test("are the reaction of what is held against the motion of what is driven, in kN", () => {
    const found = freshPairing(contents({ rail: { driver: { set: "end", axis: "z" }, supports: ["root"] } }))!;
    expect(found.x).toMatchObject({ field: "displacement", measure: "z", at: "set:end", reduce: "mean", sign: 1 });
    expect(found.y).toMatchObject({ field: "reaction", measure: "z", at: "set:root", reduce: "sum", sign: -1, unit: "kN" });
  });

  test("take the held set where nothing says what supports", () => {
    expect(freshPairing(contents())!.y.at).toBe("set:root");
    expect(freshPairing(contents({ sets: [] }))).toBeNull();
    expect(freshPairing(contents({ fields: [] }))).toBeNull();
  });

  test("over the steps keep the driver as it was", () => {
    const spec = { field: "displacement", measure: "x", at: "set:end" };
    const curve = { result: 7, name: "Loop", x_spec: spec } as unknown as Pairing;
    const found = overTime(curve);
    expect(found.x.curve).toBe("step");
    expect(found.y).toBe(spec);
    expect(found.name).toBe("Loop, driver over the steps");
  });

  test("of a material are stress against strain in one element, where the file has both", () => {
    const found = stressStrain(contents())!;
    expect([found.x.field, found.y.field, found.y.unit, found.x.at]).toEqual(["strain", "stress", "MPa", "element:1"]);
    expect(stressStrain(contents({ fields: [tensor("stress", "stress", "MPa")] }))).toBeNull();
  });
});

test("a record belongs to the curve it was brought in for, or to any where it was for none", () => {
  const record = (pairing: number | null) => ({ use: { pairing } }) as TestRecord;
  expect(belongs(record(3), 3)).toBe(true);
  expect(belongs(record(3), 4)).toBe(false);
  expect(belongs(record(null), 4)).toBe(true);
});

test("a member is named by its number, its part and the joints between which it runs", () => {
  expect(memberName({ number: 4, part: "posts", joints: [8, 12] })).toBe("4: posts, 8 to 12");
});

describe("controls", () => {
  test("say which choice is in force, and why one cannot be made", () => {
    const html = renderToStaticMarkup(
      <Choices
        name="Made of"
        options={[
          { value: "a", label: "a plane", disabled: true, title: "Of solid elements" },
          { value: "b", label: "members" },
        ]}
        value="b"
        onChoose={() => {}}
      />,
    );
    expect(html).toContain('aria-label="Made of"');
    expect(html).toMatch(/aria-pressed="true"[^>]*>members/);
    expect(html).toMatch(/title="Of solid elements" disabled=""/);
  });

  test("offer a table as CSV and as a workbook, each named for who does not see it", () => {
    const html = renderToStaticMarkup(<Leaves what="Members" address="/api/results/3/members" query="?step=4" />);
    expect(html).toContain('href="/api/results/3/members.csv?step=4"');
    expect(html).toContain('href="/api/results/3/members.xlsx?step=4"');
    expect(html).toContain('aria-label="Members XLSX"');
  });

  test("show what stands in a field", () => {
    const html = renderToStaticMarkup(<TextField label="At" name="Force place" value="set:root" list="x" onSet={() => {}} />);
    expect(html).toContain('value="set:root"');
    expect(html).toContain('aria-label="Force place"');
  });
});
