// Small still waveforms: a track's clips, given as JSON before each canvas with data-clips.
import { colour, drawWave, fit, loadPeaks } from "./peaks.js";

async function draw(canvas) {
  const height = Number(canvas.dataset.height ??= canvas.getAttribute("height"));
  const clips = JSON.parse(canvas.previousElementSibling.textContent);
  const fps = Number(canvas.dataset.fps);
  const all = await Promise.all(clips.map((clip) => loadPeaks(clip.peaks)));
  const { context, width } = fit(canvas, height);
  const scale = width / Number(canvas.dataset.frames);
  clips.forEach((clip, i) => {
    const box = { x: Math.round(clip.start * scale), y: 0, width: Math.round(clip.frames * scale), height };
    drawWave(context, all[i], box, clip.offset / fps, (clip.offset + clip.frames) / fps, colour("verdigris"));
  });
}

export function drawAll(root = document) {
  for (const canvas of root.querySelectorAll("canvas[data-clips]")) draw(canvas).catch(() => {});
}

drawAll();
document.addEventListener("theme-switched", () => drawAll());
// A choice that is kept as soon as it is made.
for (const form of document.querySelectorAll("form[data-submit]")) form.addEventListener("change", () => form.submit());
