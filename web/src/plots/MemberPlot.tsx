import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { useMembers } from "../api/balance";
import { api, ask } from "../api/client";
import { useContents } from "../api/queries";
import { copyTable } from "../bench/clipboard";
import { readingQuery } from "../bench/readingChoice";
import { useBench } from "../bench/store";
import { Refused } from "../controls/Refused";
import { figure } from "../reading/format";
import { memberPlot } from "./curves";
import { Plot } from "./Plot";

export const memberName = (m: { number: number; part: string; joints: number[] }) =>
  `${m.number}: ${m.part}, ${m.joints.join(" to ")}`;

/** The reading along the member in view, now and at its largest so far. */
export function MemberPlot() {
  const { result, reading, step, member, set } = useBench("result", "reading", "step", "member", "set");
  const members = useMembers();
  const along = useQuery({
    queryKey: ["along", result, member, reading, step],
    enabled: result !== null && reading !== null && member !== null,
    retry: false,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/members/{member}/along", {
          params: { path: { result: result!, member: member! }, query: readingQuery(reading!, step) as never },
          signal,
        }),
      ),
  });
  return (
    <div className="plot-column" data-testid="member-plot">
      <Form.Select
        size="sm"
        aria-label="Member"
        value={member ?? ""}
        onChange={(e) => set({ member: Number(e.target.value) || null })}
      >
        <option value="">Choose a member</option>
        {members.data?.members.map((m) => (
          <option key={m.number} value={m.number}>
            {memberName(m)}
          </option>
        ))}
      </Form.Select>
      <Refused error={along.error ?? members.error} />
      {member === null && <div className="strata-empty quiet">The reading in view along a member, joint to joint.</div>}
      {member !== null && along.data && !along.error && (
        <Plot {...memberPlot(along.data, along.data.sentence.split(", ")[0]!)} label={along.data.sentence} />
      )}
    </div>
  );
}

/** Which members have taken over force since an earlier step, and which have handed it on. */
export function TakenOver() {
  const { result, step, member, set } = useBench("result", "step", "member", "set");
  const contents = useContents(result);
  const [first, setFirst] = useState<number | null>(null);
  const answer = useQuery({
    queryKey: ["taken", result, first, step],
    enabled: result !== null,
    retry: false,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/members/taken-over", {
          params: { path: { result: result! }, query: { last: step, first: first ?? undefined } },
          signal,
        }),
      ),
  });
  const t = answer.error ? undefined : answer.data;
  const most = Math.max(...(t?.shifts.map((s) => Math.abs(s.after ?? 0)) ?? [0]));
  const factor = t?.force_unit === "N" && most >= 1e4 ? 1e-3 : 1;
  const unit = t ? (factor === 1 ? t.force_unit : `k${t.force_unit}`) : "";
  const value = (v: number | null) => (v === null ? "" : figure(v * factor, 3));
  return (
    <div className="cycle-table" data-testid="taken-over">
      <div className="row-line">
        <span>Taken over since</span>
        <Form.Select
          size="sm"
          aria-label="Since step"
          value={first ?? t?.first ?? ""}
          onChange={(e) => setFirst(Number(e.target.value))}
        >
          {contents.data?.steps.slice(0, Math.max(1, step)).map((s) => (
            <option key={s.index} value={s.index}>
              {s.label}
            </option>
          ))}
        </Form.Select>
      </div>
      <Refused error={answer.error} />
      {t && (
        <>
          <table className="figures">
            <thead>
              <tr>
                <th>member</th>
                <th>then {unit}</th>
                <th>now</th>
                <th title={`Had all forces grown with the ${t.by}, ${figure(t.growth, 4)} times`}>expected</th>
                <th>gained</th>
              </tr>
            </thead>
            <tbody>
              {t.shifts.map((s) => (
                <tr
                  key={s.number}
                  className={`picked-row ${s.number === member ? "chosen" : ""}`}
                  onClick={() => set({ member: s.number })}
                >
                  <td title={memberName(s)}>
                    <button type="button" className="link" onClick={() => set({ member: s.number })}>
                      {s.number}
                    </button>{" "}
                    {s.part}
                  </td>
                  <td>{value(s.before)}</td>
                  <td>{value(s.after)}</td>
                  <td>{value(s.expected)}</td>
                  <td>{value(s.gained)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <div className="quiet small-line">
            Expected: had all forces grown with the {t.by}, {figure(t.growth, 4)} times.{" "}
            <button
              type="button"
              className="link"
              onClick={() =>
                void copyTable(
                  ["member", "part", "then", "now", "expected", "gained"],
                  ["", "", ...Array(4).fill(t.force_unit)],
                  t.shifts.map((s) => [s.number, s.part, s.before, s.after, s.expected, s.gained]),
                )
              }
            >
              Copy table
            </button>
          </div>
        </>
      )}
    </div>
  );
}
