import { useMutation, useQueryClient } from "@tanstack/react-query";
import { BookmarkPlus, Columns2, Link2, Moon, Redo2, Sun, Undo2 } from "lucide-react";
import { useCallback, useEffect, useState } from "react";
import { Modal } from "react-bootstrap";
import { api, ask } from "../api/client";
import { whyReopened } from "../api/events";
import { useContents, useLine, useReview } from "../api/queries";
import { useAddress } from "../bench/address";
import { BAYS, type Bay, keyOf } from "../bench/bays";
import { useCovered } from "../bench/covered";
import { dismissNewest, Notices, say, tell } from "../bench/notices";
import { Unreachable } from "../bench/problem";
import { useReach } from "../bench/reach";
import { activePane, panes as allPanes, nothingPicked, PaneScope, useBench, usePanes } from "../bench/store";
import { Standing } from "../controls/Standing";
import { KeepDialog } from "../exhibits/KeepDialog";
import { Dropping } from "../intake/Dropping";
import { Strata } from "../plots/Strata";
import { ReadingLine } from "../reading/ReadingLine";
import { chooseTheme, type Theme, useTheme } from "../theme/theme";
import { activeView } from "../view/handle";
import { ModelView } from "../view/ModelView";
import { plots, shown } from "./bays";
import { EmptyBay } from "./EmptyBay";
import { Heard } from "./Heard";
import { jump } from "./jump";
import { useMissing } from "./missing";
import { useOpening } from "./opening";
import { ReviewMenu } from "./ReviewMenu";
import { StepRail } from "./StepRail";
import { PaneHead, Seam } from "./Twin";
import { openTwin, useTies } from "./twin";

/** To another bay. What a click on the model was to do there before lives in the bay it was asked for in, and ends with it. */
function go(bay: Bay): void {
  const { bay: before, picking } = activePane.getState();
  // Axes are made for the reading, whatever bay one looks from.
  const ends = bay !== before && !["flag", "point", "axes"].includes(picking);
  activePane.setState({ bay, ...(ends ? { picking: "flag", picks: [], making: null, measuring: nothingPicked } : {}) });
}

/** The pane that is pointed at or has the keyboard is the one that is worked in. */
function activate(pane: number): void {
  if (allPanes.active() !== pane) allPanes.activate(pane);
}

/** What stands in the place of a result's name: there is none, it is being read, or it could not be. */
function nameless(review: ReturnType<typeof useReview>, contents: ReturnType<typeof useContents>): string {
  if (review.error && !review.data) return "No answer";
  if (contents.error) return "Not read";
  return review.data && !review.data.results.length ? "No result yet" : "Reading …";
}

/** Light, dark, or as the system is set. */
function ThemeButton() {
  const { theme, dark } = useTheme();
  const next: Theme = theme === "system" ? (dark ? "light" : "dark") : theme === "light" ? "dark" : "system";
  const words = { system: "as the system", light: "light", dark: "dark" };
  return (
    <button
      type="button"
      className="station station-theme"
      title={`Theme: ${words[theme]}. A click makes it ${words[next]}.`}
      onClick={() => {
        chooseTheme(next);
        say(`Theme: ${words[next]}.`);
      }}
    >
      {dark ? <Moon size={18} /> : <Sun size={18} />}
      <span>{theme === "system" ? "Theme" : dark ? "Dark" : "Light"}</span>
    </button>
  );
}

const keyHelp: [string, string][] = [
  [BAYS.map(keyOf).join(" "), BAYS.map((bay) => shown[bay].label).join(", ")],
  ["← →", "one step back, one step on"],
  ["Home End", "first step, last step"],
  ["Space", "play, pause"],
  ["R", "another result, another review, and their names"],
  ["F", "fit the model into the view"],
  ["M", "element edges on, off"],
  ["J", "the jump between elements, and back to the value"],
  ["E", "the error estimate, and back to the value"],
  ["Z", "zoom to a box that is dragged"],
  ["T", "two views side by side, and one again"],
  ["S", "strata: plots and tables open, closed"],
  ["K", "keep as exhibit"],
  ["F6", "from the bays to the reading line, the view, the rail, the strata, the drawer; with Shift back"],
  ["Ctrl Z, Ctrl Y", "undo, redo a change of the review"],
  ["Esc", "back out one level"],
  ["?", "these keys"],
];

export function Bench() {
  useAddress();
  useOpening();
  useMissing();
  useTies();
  const { bay, tab, set } = useBench("bay", "tab", "set");
  const panes = usePanes();
  const review = useReview();
  const gone = useReach((s) => s.gone);
  const covered = useCovered((s) => s.covered);
  const result = useBench((s) => s.result);
  const contents = useContents(result);
  const line = useLine();
  const [help, setHelp] = useState(false);
  const [keep, setKeep] = useState(false);
  const [menu, setMenu] = useState(false);
  useEffect(() => {
    const words = whyReopened();
    if (words) say(words);
  }, []);
  const client = useQueryClient();

  // One change after the other: what a quick hand takes back is what it did last, once that is done and known here.
  const { mutate: travelBy } = useMutation({
    scope: { id: "changes" },
    mutationFn: async ({ path, word }: { path: "/api/undo" | "/api/redo"; word: string }) => {
      const done = await ask(api.POST(path));
      say(done.label ? `${word}: ${done.label}` : "There is nothing of that kind left.");
      await client.invalidateQueries();
    },
  });
  const travel = useCallback((path: "/api/undo" | "/api/redo", word: string) => travelBy({ path, word }), [travelBy]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement;
      const switched = target.matches("input[type=radio], input[type=checkbox]");
      const typing = !switched && target.closest("input, textarea, select, .modal, .chooser");
      if (e.key === "F6" && !target.closest(".modal")) {
        e.preventDefault();
        jump(e.shiftKey);
        return;
      }
      if ((e.ctrlKey || e.metaKey) && !typing) {
        if (e.key.toLowerCase() === "z") travel("/api/undo", "Undone");
        else if (e.key.toLowerCase() === "y") travel("/api/redo", "Done again");
        else return;
        e.preventDefault();
        return;
      }
      // Out of a field first, then out of what it belongs to.
      if (typing && e.key === "Escape" && target.closest(".drawer, .strata")) target.blur();
      if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
      // Of a switch or a choice the arrows and the space bar are its own.
      if (switched && (e.key.startsWith("Arrow") || e.key === " ")) return;
      const state = activePane.getState();
      const last = (contents.data?.steps.length ?? 1) - 1;
      const found = BAYS.find((b) => keyOf(b) === e.key);
      if (found) go(found);
      else if (e.key === "ArrowRight") set({ step: Math.min(last, state.step + 1), playing: false });
      else if (e.key === "ArrowLeft") set({ step: Math.max(0, state.step - 1), playing: false });
      else if (e.key === "Home") set({ step: 0, playing: false });
      else if (e.key === "End") set({ step: last, playing: false });
      else if (e.key === " " && !(e.target as HTMLElement).closest("button")) set({ playing: !state.playing });
      else if (e.key === "f") activeView().fit?.();
      else if (e.key === "m") set({ meshLines: !state.meshLines });
      else if ((e.key === "j" || e.key === "e") && state.reading) {
        const wanted = e.key === "j" ? "jump" : "error";
        const choice = line.data?.of.find((c) => c.value === wanted);
        const on = e.key === "j" ? state.reading.of !== "value" : state.reading.of === "error";
        if (choice?.impossible) say(choice.impossible);
        else state.setReading({ of: on ? "value" : wanted, averaging: "off" });
      } else if (e.key === "z") set({ boxing: !state.boxing });
      else if (e.key === "s") set({ strata: !state.strata });
      else if (e.key === "k" && !contents.data?.arriving) setKeep(true);
      else if (e.key === "r") setMenu(true);
      else if (e.key === "t") twin();
      else if (e.key === "?") setHelp(true);
      else if (e.key === "Escape") {
        if (state.boxing) set({ boxing: false });
        else if (state.picking !== "flag") set({ picking: "flag", picks: [], making: null });
        else if (state.draft) set({ draft: null });
        else if (!dismissNewest() && state.playing) set({ playing: false });
        return;
      } else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });

  const twin = () => {
    if (panes.length > 1) allPanes.close(1);
    else openTwin(client, review.data?.results ?? []).catch(tell);
  };
  const { label, drawer: Drawer, table: Table, does } = shown[bay];
  const empty = review.data?.results.length === 0;
  const copyLink = async () => {
    try {
      await navigator.clipboard.writeText(window.location.href);
      say("The link is on the clipboard.");
    } catch {
      say("The link is in the address bar.");
    }
  };

  return (
    <div className="bench">
      <nav className="rail" aria-label="Bays">
        <div className="rail-mark">
          <img src="/mark.svg" width="34" height="34" alt="Ironstone Ridge" />
        </div>
        {BAYS.map((b) => (
          <button
            type="button"
            key={b}
            className={`station ${bay === b ? "on" : ""}`}
            aria-current={bay === b ? "page" : undefined}
            aria-keyshortcuts={keyOf(b)}
            title={`${shown[b].label} (key ${keyOf(b)})`}
            onClick={() => go(b)}
          >
            {shown[b].icon}
            <span>{shown[b].label}</span>
          </button>
        ))}
        <ThemeButton />
        <button type="button" className="station station-help" title="Keys (?)" onClick={() => setHelp(true)}>
          <b>?</b>
          <span>Keys</span>
        </button>
      </nav>
      <header className="top">
        <h1 className="visually-hidden">
          Ironstone Ridge: {contents.data?.name ?? nameless(review, contents)}, {label}
        </h1>
        <ReviewMenu nameless={nameless(review, contents)} open={menu} onOpen={setMenu} />
        <ReadingLine />
        <div className="top-actions">
          <button
            type="button"
            className="ghost icon"
            title={review.data?.can_undo ? `Undo: ${review.data.can_undo.label} (Ctrl Z)` : "Nothing to undo"}
            aria-label={review.data?.can_undo ? `Undo: ${review.data.can_undo.label}` : "Undo: nothing"}
            disabled={!review.data?.can_undo}
            onClick={() => travel("/api/undo", "Undone")}
          >
            <Undo2 size={15} />
          </button>
          <button
            type="button"
            className="ghost icon"
            title={review.data?.can_redo ? `Redo: ${review.data.can_redo.label} (Ctrl Y)` : "Nothing to redo"}
            aria-label={review.data?.can_redo ? `Redo: ${review.data.can_redo.label}` : "Redo: nothing"}
            disabled={!review.data?.can_redo}
            onClick={() => travel("/api/redo", "Done again")}
          >
            <Redo2 size={15} />
          </button>
          <button
            type="button"
            className={panes.length > 1 ? "ghost icon on" : "ghost icon"}
            title={panes.length > 1 ? "One view again (T)" : "Two views side by side (T)"}
            aria-label="Twin view"
            aria-pressed={panes.length > 1}
            aria-keyshortcuts="t"
            disabled={result === null}
            onClick={twin}
          >
            <Columns2 size={15} />
          </button>
          <button
            type="button"
            className="ghost icon"
            title="Copy a link to this very view"
            aria-label="Copy link"
            onClick={() => void copyLink()}
          >
            <Link2 size={15} />
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={result === null || contents.data?.arriving}
            onClick={() => setKeep(true)}
          >
            <BookmarkPlus size={15} /> Keep as exhibit
          </button>
        </div>
      </header>
      <main className="stage">
        {gone && (
          <div className="unreachable" role="alert" data-testid="unreachable">
            {new Unreachable().message}
          </div>
        )}
        <div className={panes.length > 1 ? "twin" : "alone"}>
          {panes.map((pane) => (
            <PaneScope.Provider key={pane} value={pane}>
              {pane === 1 && <Seam />}
              <section
                className="pane"
                tabIndex={-1}
                inert={covered}
                aria-label={panes.length > 1 ? `View ${pane + 1} of 2` : "View"}
                onPointerDownCapture={() => activate(pane)}
                onFocusCapture={() => activate(pane)}
              >
                {panes.length > 1 && <PaneHead />}
                <Standing what="The view">
                  <ModelView />
                </Standing>
              </section>
            </PaneScope.Provider>
          ))}
          {Table && (
            <Standing what="The exhibits" of={bay}>
              <Table />
            </Standing>
          )}
          <Notices />
        </div>
        <Standing what="The step rail">
          <StepRail />
        </Standing>
        <Standing what="Plots and tables" of={tab}>
          <Strata tabs={plots} />
        </Standing>
      </main>
      <aside className="drawer" aria-label={label}>
        <Standing what="This bay" of={bay}>
          <h2 className="visually-hidden">{label}</h2>
          {empty && does ? <EmptyBay label={label} does={does} /> : <Drawer />}
        </Standing>
      </aside>
      <Heard />
      <Dropping />
      {keep && <Keeping key={bay} bay={bay} onClose={() => setKeep(false)} />}
      <Modal show={help} onHide={() => setHelp(false)} centered scrollable aria-labelledby="keys-title">
        <Modal.Body tabIndex={0}>
          <h3 id="keys-title">Keys</h3>
          <table className="keys">
            <tbody>
              {keyHelp.map(([k, v]) => (
                <tr key={k}>
                  <td>
                    {k.split(" ").map((part) => (
                      <kbd key={part}>{part}</kbd>
                    ))}
                  </td>
                  <td>{v}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Modal.Body>
      </Modal>
    </div>
  );
}

/** The dialog that keeps the view or what the bay offers. */
function Keeping({ bay, onClose }: { bay: Bay; onClose: () => void }) {
  const { useOffers, keeps } = shown[bay];
  return <KeepDialog offers={useOffers()} first={keeps} onClose={onClose} />;
}
