// Small still waveforms: a track's clips, given as JSON before each canvas with data-clips.
import { colour, drawWave, fit, loadPeaks } from "./lib/peaks.js";

async function draw(canvas) {
  canvas.dataset.height ??= canvas.getAttribute("height");
  const height = Number(canvas.dataset.height);
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

// Those that come into view are drawn; a production may have hundreds.
const seen = new Set();
const watch = new IntersectionObserver((entries) => {
  for (const { target, isIntersecting } of entries) {
    if (!isIntersecting || seen.has(target)) continue;
    seen.add(target);
    draw(target).catch((failed) => console.debug(failed));
  }
});
for (const canvas of document.querySelectorAll("canvas[data-clips]")) watch.observe(canvas);
document.addEventListener("theme-switched", () => seen.forEach((canvas) => draw(canvas).catch((failed) => console.debug(failed))));
// A choice that is kept as soon as it is made.
for (const form of document.querySelectorAll("form[data-submit]")) form.addEventListener("change", () => form.submit());
