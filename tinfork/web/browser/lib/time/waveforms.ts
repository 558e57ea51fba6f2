// Small still waveforms, each drawn as it comes into view.
import type { Clip } from "../types.ts";
import { colour, fit } from "./canvas.ts";
import { drawWave, type Levels, peaksOf } from "./peaks.ts";

export type DrawnClip = Pick<Clip, "peaks" | "start" | "frames" | "offset">;

// What a canvas shows: clips, frames a second, and how many frames there are.
interface Wave {
  clips: readonly DrawnClip[];
  fps: number;
  frames: number;
}

const waves = new WeakMap<HTMLCanvasElement, Wave>();

async function draw(canvas: HTMLCanvasElement): Promise<void> {
  const wave = waves.get(canvas);
  if (!wave) return;
  canvas.dataset.height ??= canvas.getAttribute("height") ?? "";
  const height = Number(canvas.dataset.height);
  const known = new Map<string, Levels>();
  await peaksOf(wave.clips.map((clip) => clip.peaks), known);
  const { context, width } = fit(canvas, height);
  const scale = width / wave.frames;
  for (const { peaks, start, frames, offset } of wave.clips) {
    const levels = known.get(peaks);
    const box = { x: Math.round(start * scale), y: 0, width: Math.round(frames * scale), height };
    if (levels) drawWave(context, levels, box, [offset / wave.fps, (offset + frames) / wave.fps], colour("verdigris"));
  }
}

const drawn = (canvas: HTMLCanvasElement) => draw(canvas).catch((failed) => console.debug(failed));

// Those that come into view are drawn; a production may have a thousand.
const seen = new Set<HTMLCanvasElement>();
const watch = new IntersectionObserver((entries) => {
  for (const { target, isIntersecting } of entries) {
    const canvas = target as HTMLCanvasElement;
    if (!isIntersecting || seen.has(canvas)) continue;
    seen.add(canvas);
    drawn(canvas);
  }
});
document.addEventListener("theme-switched", () => {
  for (const canvas of seen) drawn(canvas);
});

// Draw a waveform on a canvas once it is in view.
export function showWave(canvas: HTMLCanvasElement, wave: Wave): void {
  waves.set(canvas, wave);
  watch.observe(canvas);
}

// Forget canvases that have left the page.
export function forgetGone(): void {
  for (const canvas of seen) if (!canvas.isConnected) seen.delete(canvas);
}

// Draw those that are seen anew, as they have another size.
export function drawAgain(): void {
  for (const canvas of seen) drawn(canvas);
}
