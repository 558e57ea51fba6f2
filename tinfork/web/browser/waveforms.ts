// Small still waveforms: a track's clips, given as JSON before each canvas with data-clips.
import { colour, fit } from "./lib/time/canvas.ts";
import { drawWave, type Levels, peaksOf } from "./lib/time/peaks.ts";
import type { Clip } from "./lib/types.ts";

type Placed = Pick<Clip, "peaks" | "start" | "frames" | "offset">;

async function draw(canvas: HTMLCanvasElement): Promise<void> {
  canvas.dataset.height ??= canvas.getAttribute("height") ?? "";
  const height = Number(canvas.dataset.height);
  const clips = JSON.parse(canvas.previousElementSibling?.textContent ?? "[]") as Placed[];
  const fps = Number(canvas.dataset.fps);
  const known = new Map<string, Levels>();
  await peaksOf(clips.map((clip) => clip.peaks), known);
  const { context, width } = fit(canvas, height);
  const scale = width / Number(canvas.dataset.frames);
  for (const { peaks, start, frames, offset } of clips) {
    const levels = known.get(peaks);
    const box = { x: Math.round(start * scale), y: 0, width: Math.round(frames * scale), height };
    if (levels) drawWave(context, levels, box, [offset / fps, (offset + frames) / fps], colour("verdigris"));
  }
}

const drawn = (canvas: HTMLCanvasElement) => draw(canvas).catch((failed) => console.debug(failed));

// Those that come into view are drawn; a production may have hundreds.
const seen = new Set<HTMLCanvasElement>();
const watch = new IntersectionObserver((entries) => {
  for (const { target, isIntersecting } of entries) {
    const canvas = target as HTMLCanvasElement;
    if (!isIntersecting || seen.has(canvas)) continue;
    seen.add(canvas);
    drawn(canvas);
  }
});
for (const canvas of document.querySelectorAll("canvas[data-clips]")) watch.observe(canvas);
document.addEventListener("theme-switched", () => {
  for (const canvas of seen) drawn(canvas);
});
