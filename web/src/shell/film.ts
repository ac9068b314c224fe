import type { QueryClient } from "@tanstack/react-query";
import { type Contents, Problem } from "../api/client";
import { save } from "../bench/clipboard";
import { useFilming } from "../bench/filming";
import { playedSteps } from "../bench/playing";
import { Stopped } from "../bench/problem";
import { activePane, type Pane, panes } from "../bench/store";
import { drawPictures } from "../exhibits/picture";
import { atPhase, cycleOf, phases } from "../lines/phases";
import { viewOf } from "../view/handle";

export type FilmKind = "gif" | "webm";

/** Room for caption and caveats, the same in every frame. */
const foot = 120;

/** A GIF is put together in the page's memory: about a byte a pixel, of all its pictures. */
const mostPixels = 1.5e9;

const nextFrame = () => new Promise<void>((r) => requestAnimationFrame(() => r()));

/**
 * Steps through what is played and takes a picture of each, with caption and key; saves them as one file. The step one was at
 * comes back afterwards, whatever happens. A video is as long as the playing is.
 */
export async function recordFilm(
  kind: FilmKind,
  name: string,
  client: QueryClient,
  signal: AbortSignal,
  tellShare: (share: number) => void,
  ahead: (step: number) => Promise<unknown>,
): Promise<void> {
  const state = activePane.getState();
  const before = { step: state.step, swing: state.swing, reading: state.reading };
  const contents = client.getQueryData<Contents>(["contents", state.result]);
  const cycle = state.play.through === "phase" ? cycleOf(contents, state) : null;
  const steps = playedSteps(state.play, contents?.steps.filter((s) => !s.made_of).length ?? 1);
  const frames: Partial<Pane>[] = cycle
    ? phases.map((degrees) => atPhase(state, cycle, degrees))
    : steps.map((step) => ({ step }));
  const wait = 1000 / state.speed;
  useFilming.setState({ on: true });
  const film = kind === "gif" ? new GifFilm(wait) : new VideoFilm(wait);
  try {
    for (const [i, frame] of frames.entries()) {
      if (signal.aborted) throw new Stopped();
      activePane.setState(frame);
      // The next step is fetched while this one is drawn and taken.
      const next = frames[i + 1]?.step;
      if (next !== undefined) ahead(next).catch(() => undefined);
      await drawn(signal);
      const picture = drawPictures(foot);
      if (kind === "gif" && frames.length * picture.width * picture.height > mostPixels)
        throw new Problem(
          `A GIF of ${frames.length} pictures of ${picture.width} by ${picture.height} is more than this page can hold.`,
          "Play fewer steps (first, last, every), make the window smaller, or record a video.",
        );
      await film.add(picture);
      tellShare((i + 1) / frames.length);
    }
    const address = URL.createObjectURL(await film.end());
    const what = cycle ? "cycle" : `steps ${steps[0]! + 1} to ${steps[steps.length - 1]! + 1}`;
    save(address, `${name} ${what}`, kind);
    window.setTimeout(() => URL.revokeObjectURL(address), 60_000);
  } finally {
    useFilming.setState({ on: false });
    film.close();
    activePane.setState(before);
  }

  /** Waits until the step's values are here and drawn, in every view. */
  async function drawn(abort: AbortSignal): Promise<void> {
    for (let tries = 0; tries < 3000; tries++) {
      await nextFrame();
      if (abort.aborted) throw new Stopped();
      const views = Array.from({ length: panes.count() }, (_, k) => viewOf(k));
      if (views.every((v) => v.root?.dataset.busy === "false" && v.head && v.upToDate() && v.rested?.())) return;
    }
    throw new Problem("A step of the film was not drawn.", "Look at that step alone, then record again.");
  }
}

/** So many pictures may wait for the worker: each is held whole. */
const MOST_WAITING = 3;

/** A GIF is put together by a worker, while the next picture is drawn. */
class GifFilm {
  private readonly worker = new Worker(new URL("./gifWorker.ts", import.meta.url), { type: "module" });
  private waiting = 0;
  private heard: ((said: unknown) => void) | null = null;
  private failed: Error | null = null;

  constructor(private readonly wait: number) {
    this.worker.onmessage = ({ data }) => {
      this.waiting--;
      this.heard?.(data);
    };
    this.worker.onerror = () => {
      this.failed = new Problem("The GIF could not be put together.", "Take fewer steps, or record a video.");
      this.heard?.(null);
    };
  }

  async add(picture: HTMLCanvasElement): Promise<void> {
    while (this.waiting >= MOST_WAITING) await this.next();
    const { width, height } = picture;
    const { data } = picture.getContext("2d")!.getImageData(0, 0, width, height);
    this.waiting++;
    this.worker.postMessage({ pixels: data, width, height, delay: this.wait }, [data.buffer]);
  }

  async end(): Promise<Blob> {
    while (this.waiting > 0) await this.next();
    this.waiting++;
    this.worker.postMessage("end");
    const bytes = (await this.next()) as Uint8Array<ArrayBuffer>;
    return new Blob([bytes], { type: "image/gif" });
  }

  close(): void {
    this.worker.terminate();
  }

  private async next(): Promise<unknown> {
    const said = await new Promise((heard) => {
      this.heard = heard;
      if (this.failed) heard(null);
    });
    if (this.failed) throw this.failed;
    return said;
  }
}

/** Frames are shown to the browser's own recorder for as long as each lasts; while the next one is drawn it rests. */
class VideoFilm {
  private readonly canvas = document.createElement("canvas");
  private recorder: MediaRecorder | null = null;
  private readonly pieces: Blob[] = [];

  constructor(private readonly wait: number) {
    if (typeof MediaRecorder === "undefined" || !MediaRecorder.isTypeSupported("video/webm"))
      throw new Problem("This browser records no WebM.", "Save a GIF.");
  }

  async add(picture: HTMLCanvasElement): Promise<void> {
    const first = this.recorder === null;
    if (first) {
      this.canvas.width = picture.width;
      this.canvas.height = picture.height;
    }
    if (!first) this.recorder!.resume();
    this.canvas.getContext("2d")!.drawImage(picture, 0, 0);
    if (first) {
      this.recorder = new MediaRecorder(this.canvas.captureStream(30), {
        mimeType: "video/webm",
        videoBitsPerSecond: 6_000_000,
      });
      this.recorder.ondataavailable = (e) => this.pieces.push(e.data);
      this.recorder.start();
    }
    await new Promise((r) => window.setTimeout(r, this.wait));
    this.recorder!.pause();
  }

  close(): void {
    if (this.recorder && this.recorder.state !== "inactive") this.recorder.stop();
  }

  end(): Promise<Blob> {
    return new Promise((done, fail) => {
      if (!this.recorder) return fail(new Problem("There was nothing to record.", ""));
      this.recorder.onstop = () => done(new Blob(this.pieces, { type: "video/webm" }));
      this.recorder.stop();
    });
  }
}
