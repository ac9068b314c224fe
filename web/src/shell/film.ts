import type { QueryClient } from "@tanstack/react-query";
import { applyPalette, GIFEncoder, quantize } from "gifenc";
import { type Contents, Problem } from "../api/client";
import { save } from "../bench/clipboard";
import { playedSteps } from "../bench/playing";
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
  const film = kind === "gif" ? new GifFilm(wait) : new VideoFilm(wait);
  try {
    for (const [i, frame] of frames.entries()) {
      if (signal.aborted) throw new Problem("Stopped by you.", "");
      activePane.setState(frame);
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
    save(address, `${name} ${what}.${kind}`);
    window.setTimeout(() => URL.revokeObjectURL(address), 60_000);
  } finally {
    activePane.setState(before);
  }

  /** Waits until the step's values are here and drawn, in every view. */
  async function drawn(abort: AbortSignal): Promise<void> {
    for (let tries = 0; tries < 3000; tries++) {
      await nextFrame();
      if (abort.aborted) throw new Problem("Stopped by you.", "");
      const views = Array.from({ length: panes.count() }, (_, k) => viewOf(k));
      if (views.every((v) => v.root?.dataset.busy === "false" && v.head && v.upToDate())) return;
    }
    throw new Problem("A step of the film was not drawn.", "Look at that step alone, then record again.");
  }
}

class GifFilm {
  private readonly gif = GIFEncoder();

  constructor(private readonly wait: number) {}

  async add(picture: HTMLCanvasElement): Promise<void> {
    const { width, height } = picture;
    const { data } = picture.getContext("2d")!.getImageData(0, 0, width, height);
    const palette = quantize(data, 256);
    this.gif.writeFrame(applyPalette(data, palette), width, height, { palette, delay: this.wait });
  }

  async end(): Promise<Blob> {
    this.gif.finish();
    return new Blob([this.gif.bytes() as Uint8Array<ArrayBuffer>], { type: "image/gif" });
  }
}

/** Frames are shown to the browser's own recorder for as long as each lasts. */
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
  }

  end(): Promise<Blob> {
    return new Promise((done, fail) => {
      if (!this.recorder) return fail(new Problem("There was nothing to record.", ""));
      this.recorder.onstop = () => done(new Blob(this.pieces, { type: "video/webm" }));
      this.recorder.stop();
    });
  }
}
