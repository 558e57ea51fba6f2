// Small still waveforms: every canvas with data-peaks, when it comes onto the page.
import { colour, drawWave, fit, loadPeaks, PEAK_RATE } from "./peaks.js";

async function draw(canvas) {
  const height = Number(canvas.dataset.height ??= canvas.getAttribute("height"));
  const levels = await loadPeaks(canvas.dataset.peaks);
  const { context, width } = fit(canvas, height);
  const seconds = (levels[0].samples * levels[0].values.length) / 2 / PEAK_RATE;
  drawWave(context, levels, { x: 0, y: 0, width, height }, 0, seconds, colour("verdigris"));
}

export function drawAll(root = document) {
  for (const canvas of root.querySelectorAll("canvas[data-peaks]")) draw(canvas).catch(() => {});
}

drawAll();
document.addEventListener("theme-switched", () => drawAll());
document.addEventListener("htmx:load", (event) => {
  if (event.target !== document.body) drawAll(event.target.parentElement ?? document);
});
