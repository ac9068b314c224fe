import { useQueryClient } from "@tanstack/react-query";
import { Film } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Overlay, Popover, ProgressBar } from "react-bootstrap";
import { question } from "../api/asking";
import { useContents, usePrefetch, useValues } from "../api/queries";
import { say, tell } from "../bench/notices";
import { playedSteps } from "../bench/playing";
import { told } from "../bench/readingChoice";
import { type Playing, useBench } from "../bench/store";
import { Choices, named, type Option } from "../controls/Choices";
import { NumberField } from "../controls/NumberField";
import { cycleOf, phases } from "../lines/phases";
import { parse } from "../reading/format";
import type { FilmKind } from "./film";

const ways: Option<Playing["way"]>[] = [
  { value: "on", label: "forwards" },
  { value: "back", label: "backwards" },
  { value: "both", label: "to and fro" },
];

/** How the steps are played, and a film of it. */
export function PlayingMenu({ count }: { count: number }) {
  const { play, speed, set, result } = useBench("play", "speed", "set", "result");
  const contents = useContents(result);
  const [open, setOpen] = useState(false);
  const [done, setDone] = useState<number | null>(null);
  const button = useRef<HTMLButtonElement>(null);
  const stop = useRef<AbortController | null>(null);
  const client = useQueryClient();
  const prefetch = usePrefetch();
  useEffect(() => () => stop.current?.abort(), []);
  const change = (to: Partial<Playing>) => set({ play: { ...play, ...to } });
  const cycle = cycleOf(contents.data, useBench("reading", "step"));
  const frames = cycle && play.through === "phase" ? phases.length : playedSteps(play, count).length;
  const film = async (kind: FilmKind) => {
    stop.current = new AbortController();
    set({ playing: false });
    setDone(0);
    try {
      const { recordFilm } = await import("./film");
      await recordFilm(kind, contents.data?.name ?? "result", client, stop.current.signal, setDone, (step) =>
        prefetch(step, contents.data?.moves ?? false),
      );
      say(`The ${kind === "gif" ? "GIF" : "video"} is saved.`);
    } catch (error) {
      if (stop.current.signal.aborted) say("Stopped: no film is saved.");
      else tell(error);
    } finally {
      setDone(null);
    }
  };
  return (
    <>
      <button
        type="button"
        className="ghost"
        ref={button}
        aria-label={`Film, ${speed}/s: playing, speed and film`}
        title="Speed, range and direction of playing, and a film of the steps"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <Film size={14} aria-hidden="true" /> Film, {speed}/s
      </button>
      <Overlay target={button} show={open} placement="top-end" rootClose={done === null} onHide={() => setOpen(false)}>
        <Popover className="playing-menu">
          <div
            role="dialog"
            aria-label="Playing"
            onKeyDown={(e) => {
              if (e.key !== "Escape") return;
              e.stopPropagation();
              setOpen(false);
              button.current?.focus();
            }}
          >
            {cycle && (
              <Choices
                name="What is played through"
                options={named("steps", "phase")}
                value={play.through}
                onChoose={(through) => change({ through })}
              />
            )}
            <NumberField
              label="From step"
              value={play.from + 1}
              min={1}
              max={count}
              whole
              onSet={(v) => change({ from: v - 1 })}
            />
            <NumberField
              label="To step"
              value={(play.to ?? count - 1) + 1}
              min={1}
              max={count}
              whole
              onSet={(v) => change({ to: v - 1 })}
            />
            <NumberField
              label="Stride"
              value={play.stride}
              min={1}
              max={count}
              whole
              onSet={(stride) => change({ stride })}
            />
            <NumberField label="Pictures a second" value={speed} min={0.1} max={60} onSet={(v) => set({ speed: v })} />
            <Choices name="Direction" options={ways} value={play.way} onChoose={(way) => change({ way })} />
            <OnlyWhere onSteps={(only) => change({ only })} now={play.only} />
            <h3 className="sub">Film</h3>
            <div className="quiet small-line">
              {frames} frames with caption and key, {speed} a second.
            </div>
            {done === null ? (
              <div className="row-line actions">
                <button type="button" className="ghost" onClick={() => void film("gif")}>
                  GIF
                </button>
                <button type="button" className="ghost" onClick={() => void film("webm")}>
                  Video WebM
                </button>
              </div>
            ) : (
              <div role="status">
                <ProgressBar now={100 * done} aria-label="Film" />
                <button type="button" className="link" onClick={() => stop.current?.abort()}>
                  Stop
                </button>
              </div>
            )}
          </div>
        </Popover>
      </Overlay>
    </>
  );
}

/** Plays only the steps at which the reading in view reaches a value: contact that is closed, a stress above a limit. */
function OnlyWhere({ now, onSteps }: { now: Playing["only"]; onSteps: (only: Playing["only"]) => void }) {
  const { result, reading } = useBench("result", "reading");
  const unit = useValues().data?.head.unit ?? "";
  const [least, setLeast] = useState("");
  const [busy, setBusy] = useState(false);
  const value = parse(least);
  const find = async (e: React.FormEvent) => {
    e.preventDefault();
    if (value === null || !reading || result === null) return;
    setBusy(true);
    try {
      const plain = { ...reading, over: "step" as const, span: "all", when: false };
      const found = await question("steps-where", { result, ...told(plain), at_least: value });
      onSteps({ steps: found.more.steps, words: `${found.sentence}. ${found.verdict}` });
      say(found.verdict);
    } catch (error) {
      tell(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <form onSubmit={find} data-testid="only-where">
      <label className="row-line">
        Only where it reaches
        <span className="with-unit">
          <input
            className="form-control form-control-sm fig"
            inputMode="decimal"
            aria-label="Play only steps at which the reading reaches"
            value={least}
            onChange={(e) => setLeast(e.target.value)}
          />
          {unit}
        </span>
      </label>
      <div className="row-line actions">
        <button type="submit" className="ghost" disabled={value === null || busy}>
          {busy ? "The steps are gone through …" : "Only these steps"}
        </button>
        {now && (
          <button type="button" className="link" onClick={() => onSteps(null)} title={now.words}>
            All steps again
          </button>
        )}
      </div>
    </form>
  );
}
