// Drawing the Sound view: the frame ruler, who speaks when, and clips on tracks.
import { colour, fit } from "../lib/peaks.js";
import { clipWave, RULER, ruler } from "../lib/ruler.js";

export const TRACK = 84;
export const VOICE = 18;
const EDGE = 6;
const LABEL = 16;
const TEXT = '"Atkinson Hyperlegible Next", sans-serif';

// view: {rate, startFrame, left, perFrame, frame, in, out, sound, selected, peaks, tall, cast, drag, held, suggested}
export function drawTracks(canvas, view) {
  const heights = RULER + marksHeight(view) + TRACK * Math.max(1, view.sound.tracks.length);
  const { context, width, height } = fit(canvas, heights + 4);
  canvas.style.height = `${height}px`;
  const names = ["paper", "sheet", "ink", "tin", "tin-deep", "copper", "verdigris", "verdigris-pale", "beet"];
  const ink = Object.fromEntries(names.map((n) => [n, colour(n)]));
  const draw = { context, width, height, ink, view, x: (frame) => (frame - view.left) * view.perFrame };
  outside(draw);
  ruler(draw);
  marks(draw);
  view.sound.tracks.forEach((track, i) => drawTrack(draw, track, tracksTop(view) + i * TRACK));
  inAndOut(draw);
  playhead(draw);
}

export const marksHeight = (view) => Math.max(1, view.cast.length) * VOICE;
export const tracksTop = (view) => RULER + marksHeight(view);

// What lies before the first frame or after the last is on darker ground.
function outside({ context, width, height, ink, view, x }) {
  context.fillStyle = ink.tin;
  context.globalAlpha = 0.45;
  if (x(0) > 0) context.fillRect(0, RULER, x(0), height);
  if (x(view.sound.frames) < width) context.fillRect(x(view.sound.frames), RULER, width, height);
  context.globalAlpha = 1;
}

function drawTrack(draw, track, top) {
  const { context, width, ink, view } = draw;
  const solo = view.sound.tracks.some((one) => one.solo);
  const quiet = track.muted || (solo && !track.solo);
  context.fillStyle = ink.tin;
  context.fillRect(0, top + TRACK - 1, width, 1);
  for (const clip of track.clips) drawClip(draw, moved(view, clip), top, quiet, track);
}

// A clip as it is while it is dragged.
function moved(view, clip) {
  const drag = view.drag;
  if (!drag?.clips?.has(clip.id)) return clip;
  if (drag.kind === "slide") return { ...clip, start: clip.start + drag.by };
  const by = drag.by;
  if (drag.kind === "first") return { ...clip, start: clip.start + by, offset: clip.offset + by, frames: clip.frames - by };
  if (drag.kind === "end") return { ...clip, frames: clip.frames + by };
  return clip;
}

function drawClip(draw, clip, top, quiet, track) {
  const { context, width, ink, view, x } = draw;
  const left = Math.max(-4, x(clip.start));
  const right = Math.min(width + 4, x(clip.start + clip.frames));
  if (right < 0 || left > width) return;
  const selected = view.selected.has(clip.id);
  const speech = track.kind === "dialogue" || track.kind === "shared";
  context.fillStyle = selected ? ink["verdigris-pale"] : ink.sheet;
  context.fillRect(left, top + 4, right - left, TRACK - 9);
  const wave = quiet ? ink.tin : speech ? ink.verdigris : ink["tin-deep"];
  clipWave(draw, clip, { y: top + 4 + LABEL, height: TRACK - 9 - LABEL, tall: view.tall }, view.fps, wave);
  context.strokeStyle = selected ? ink.copper : ink["tin-deep"];
  context.lineWidth = selected ? 2 : 1;
  context.strokeRect(left + 0.5, top + 4.5, right - left - 1, TRACK - 10);
  for (const [start, end] of trouble(view, clip)) {
    context.fillStyle = ink.beet;
    context.fillRect(x(start), top + TRACK - 8, Math.max(3, x(end) - x(start)), 3);
  }
  context.save();
  context.beginPath();
  context.rect(left, top, right - left, LABEL + 4);
  context.clip();
  context.font = `12px ${TEXT}`;
  context.fillStyle = ink.ink;
  const gain = clip.gain ? ` · ${clip.gain > 0 ? "+" : ""}${clip.gain} dB` : "";
  context.fillText(`${clip.name}${gain}`, Math.max(left, 0) + 6, top + 4 + 12);
  context.restore();
}

// Where in the scene the quality report found something, in frames.
function trouble(view, clip) {
  const findings = view.sound.sounds[clip.sound].findings.filter((f) => ["clipping", "cut-in"].includes(f.kind));
  const shift = clip.start - clip.offset;
  return findings
    .flatMap((f) => f.places)
    .map(([start, end]) => [Math.max(clip.start, start * view.fps + shift), Math.min(clip.start + clip.frames, end * view.fps + shift)])
    .filter(([start, end]) => end > start);
}

function marks({ context, width, ink, view, x }) {
  context.font = `11px ${TEXT}`;
  view.cast.forEach((one, row) => {
    const top = RULER + row * VOICE;
    context.fillStyle = ink.tin;
    context.fillRect(0, top + VOICE - 1, width, 0.5);
    for (const mark of view.sound.marks.filter((m) => m.character === one.id)) {
      const { start, end } = view.drag?.mark === mark.id ? view.drag : mark;
      bar({ context, ink, view, x }, start, end, top, one);
      if (view.mark === mark.id) {
        context.strokeStyle = ink.copper;
        context.lineWidth = 2;
        context.strokeRect(x(start * view.fps), top + 2, Math.max(2, (end - start) * view.fps * view.perFrame), VOICE - 5);
      }
    }
    context.strokeStyle = ink.copper;
    context.lineWidth = 1;
    context.setLineDash([3, 2]);
    for (const { start, end } of view.suggested.filter((s) => s.character === one.id)) {
      context.strokeRect(x(start * view.fps) + 0.5, top + 2.5, (end - start) * view.fps * view.perFrame - 1, VOICE - 6);
    }
    context.setLineDash([]);
    if (view.drag?.drawn?.id === one.id) bar({ context, ink, view, x }, view.drag.start, view.drag.end, top, one, true);
    const held = view.held?.get(one.id);
    for (const [start, end] of held ?? []) bar({ context, ink, view, x }, start, end ?? view.time, top, one, true);
  });
  context.fillStyle = ink.beet;
  for (const [start, end] of view.sound.overlaps) {
    const [left, right] = [x(start * view.fps), x(end * view.fps)];
    for (let at = left; at < right; at += 4) context.fillRect(at, RULER, 1.5, marksHeight(view));
  }
}

function bar({ context, ink, view, x }, start, end, top, one, live = false) {
  const [left, right] = [x(start * view.fps), x(end * view.fps)];
  context.fillStyle = live ? ink.copper : ink.verdigris;
  context.globalAlpha = live ? 0.5 : 0.75;
  context.fillRect(left, top + 2, Math.max(2, right - left), VOICE - 5);
  context.globalAlpha = 1;
  if (right - left < 46) return;
  context.fillStyle = ink.sheet;
  context.fillText(one.name, Math.max(0, left) + 5, top + 12);
}

function inAndOut({ context, height, ink, view, x }) {
  context.fillStyle = ink.copper;
  for (const edge of ["in", "out"]) {
    if (view[edge] === null) continue;
    context.fillRect(Math.round(x(view[edge] + (edge === "out" ? 1 : 0))) - 1, 0, 2, 14);
  }
  if (view.in === null || view.out === null) return;
  context.globalAlpha = 0.09;
  context.fillRect(x(view.in), RULER, (view.out + 1 - view.in) * view.perFrame, height);
  context.globalAlpha = 1;
}

function playhead({ context, height, ink, view, x }) {
  context.fillStyle = ink.copper;
  context.fillRect(Math.round(x(view.frame)), 0, 2, height);
  context.beginPath();
  context.moveTo(x(view.frame) - 6, 0);
  context.lineTo(x(view.frame) + 8, 0);
  context.lineTo(x(view.frame) + 1, 9);
  context.fill();
}

// What lies under a point of the canvas: {frame, seconds, track, clip, part: "body" | "first" | "end"} or {voice} and, where there is one, {mark, part}.
export function under(view, px, py) {
  const place = view.left + px / view.perFrame;
  const found = { frame: Math.floor(place), seconds: place / view.fps };
  if (py < RULER) return found;
  if (py < tracksTop(view)) {
    const row = Math.floor((py - RULER) / VOICE);
    return { ...found, voice: view.cast[row], ...markUnder(view, px, row) };
  }
  const track = view.sound.tracks[Math.floor((py - tracksTop(view)) / TRACK)];
  if (!track) return found;
  const x = (frame) => (frame - view.left) * view.perFrame;
  const clip = track.clips.findLast((c) => px >= x(c.start) - 2 && px <= x(c.start + c.frames) + 2);
  if (!clip) return { ...found, track };
  const narrow = clip.frames * view.perFrame < 4 * EDGE;
  const part = narrow ? "body" : px - x(clip.start) < EDGE ? "first" : x(clip.start + clip.frames) - px < EDGE ? "end" : "body";
  return { ...found, track, clip, part };
}

function markUnder(view, px, row) {
  const x = (seconds) => (seconds * view.fps - view.left) * view.perFrame;
  const mark = view.sound.marks.find((m) => m.character === view.cast[row]?.id && px >= x(m.start) - 3 && px <= x(m.end) + 3);
  if (!mark) return { voices: true };
  const part = Math.abs(px - x(mark.start)) < EDGE ? "start" : Math.abs(px - x(mark.end)) < EDGE ? "end" : "body";
  return { mark, part, voices: true };
}
