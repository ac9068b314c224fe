/** Puts a GIF together beside the page, which goes on drawing: a picture comes in as its pixels, the last message asks for the file. */
import { applyPalette, GIFEncoder, quantize } from "gifenc";

interface Picture {
  pixels: Uint8ClampedArray;
  width: number;
  height: number;
  delay: number;
}

const gif = GIFEncoder();

self.onmessage = ({ data }: MessageEvent<Picture | "end">) => {
  if (data === "end") {
    gif.finish();
    self.postMessage(gif.bytes());
    return;
  }
  const { pixels, width, height, delay } = data;
  const palette = quantize(pixels, 256);
  gif.writeFrame(applyPalette(pixels, palette), width, height, { palette, delay });
  self.postMessage("taken");
};
