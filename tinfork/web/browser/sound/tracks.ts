// Drawing the Sound view: the frame ruler, who speaks when, and clips on tracks.
import { fitTall, inks, TEXT } from "../lib/time/canvas.ts";
import { clipWave, type Drawing, drawingOf, inAndOut, playhead, RULER, ruler } from "../lib/time/ruler.ts";
import type { CastMember, Clip, Mark, SoundTrack, Span } from "../lib/types.ts";
import type { RoomView } from "./state.ts";

const LEAST_TRACK = 84;
const MOST_TRACK = 320;
export const VOICE = 18;
const EDGE = 6;
const LABEL = 16;

type Draw = Drawing<RoomView>;

export function drawTracks(canvas: HTMLCanvasElement, view: RoomView): void {
  const heights = RULER + marksHeight(view) + view.trackHeight * Math.max(1, view.sound.tracks.length);
  const draw = drawingOf(fitTall(canvas, heights + 4), inks(), view);
  outside(draw);
  ruler(draw);
  marks(draw);
  view.sound.tracks.forEach((track, i) => drawTrack(draw, track, tracksTop(view) + i * view.trackHeight));
  inAndOut(draw, 0, 2, 14);
  range(draw);
  playhead(draw);
}

// How tall each track is where all of them have so much room together.
export const trackHeight = (room: number, tracks: number): number => Math.max(LEAST_TRACK, Math.min(MOST_TRACK, Math.floor(room / Math.max(1, tracks))));

type Rows = Pick<RoomView, "cast">;
export const marksHeight = (view: Rows): number => Math.max(1, view.cast.length) * VOICE;
export const tracksTop = (view: Rows): number => RULER + marksHeight(view);

// What lies before the first frame or after the last is on darker ground.
function outside({ context, width, height, ink, view, x }: Draw) {
  context.fillStyle = ink.tin;
  context.globalAlpha = 0.45;
  if (x(0) > 0) context.fillRect(0, RULER, x(0), height);
  if (x(view.sound.frames) < width) context.fillRect(x(view.sound.frames), RULER, width, height);
  context.globalAlpha = 1;
}

function drawTrack(draw: Draw, track: SoundTrack, top: number) {
  const { context, width, ink, view } = draw;
  const solo = view.sound.tracks.some((one) => one.solo);
  const quiet = track.muted || (solo && !track.solo);
  context.fillStyle = ink.tin;
  context.fillRect(0, top + view.trackHeight - 1, width, 1);
  for (const clip of track.clips) drawClip(draw, moved(view, clip), top, quiet, track);
}

// A clip as it is while it is dragged.
function moved({ drag }: RoomView, clip: Clip): Clip {
  if (!drag || !("clips" in drag) || !drag.clips.has(clip.id)) return clip;
  const { kind, by } = drag;
  if (kind === "slide") return { ...clip, start: clip.start + by };
  if (kind === "first") return { ...clip, start: clip.start + by, offset: clip.offset + by, frames: clip.frames - by };
  return { ...clip, frames: clip.frames + by };
}

function drawClip(draw: Draw, clip: Clip, top: number, quiet: boolean, track: SoundTrack) {
  const { context, width, ink, view, x } = draw;
  const tall = view.trackHeight;
  const left = Math.max(-4, x(clip.start));
  const right = Math.min(width + 4, x(clip.start + clip.frames));
  if (right < 0 || left > width) return;
  const selected = view.selected.has(clip.id);
  const speech = track.kind === "dialogue" || track.kind === "shared";
  context.fillStyle = selected ? ink["verdigris-pale"] : ink.sheet;
  context.fillRect(left, top + 4, right - left, tall - 9);
  const wave = quiet ? ink.tin : speech ? ink.verdigris : ink["tin-deep"];
  clipWave(draw, clip, { y: top + 4 + LABEL, height: tall - 9 - LABEL, tall: view.tall }, view.fps, wave);
  context.strokeStyle = selected ? ink.copper : ink["tin-deep"];
  context.lineWidth = selected ? 2 : 1;
  context.strokeRect(left + 0.5, top + 4.5, right - left - 1, tall - 10);
  for (const [start, end] of trouble(view, clip)) {
    context.fillStyle = ink.beet;
    context.fillRect(x(start), top + tall - 8, Math.max(3, x(end) - x(start)), 3);
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
function trouble(view: RoomView, clip: Clip): Span[] {
  const findings = view.sound.sounds[clip.sound].findings.filter((f) => ["clipping", "cut-in"].includes(f.kind));
  const shift = clip.start - clip.offset;
  return findings
    .flatMap((f) => f.places)
    .map(([start, end]): Span => [Math.max(clip.start, start * view.fps + shift), Math.min(clip.start + clip.frames, end * view.fps + shift)])
    .filter(([start, end]) => end > start);
}

function marks(draw: Draw) {
  const { context, width, ink, view, x } = draw;
  const { drag } = view;
  context.font = `12px ${TEXT}`;
  view.cast.forEach((one, row) => {
    const top = RULER + row * VOICE;
    context.fillStyle = ink.tin;
    context.fillRect(0, top + VOICE - 1, width, 0.5);
    const whose = (mark: Mark) => (drag?.kind === "mark" && drag.mark === mark.id ? drag.to : mark.character);
    for (const mark of view.sound.marks.filter((m) => whose(m) === one.id)) {
      const { start, end } = drag?.kind === "mark" && drag.mark === mark.id ? drag : mark;
      bar(draw, start, end, top, one);
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
    if (drag?.kind === "draw" && drag.who.id === one.id) bar(draw, drag.start, drag.end, top, one, true);
    const held = view.held?.get(one.id);
    for (const [start, end] of held ?? []) bar(draw, start, end ?? view.time, top, one, true);
  });
  context.fillStyle = ink.beet;
  for (const [start, end] of view.sound.overlaps) {
    const [left, right] = [x(start * view.fps), x(end * view.fps)];
    for (let at = left; at < right; at += 4) context.fillRect(at, RULER, 1.5, marksHeight(view));
  }
}

function bar({ context, ink, view, x }: Draw, start: number, end: number, top: number, one: CastMember, live = false) {
  const [left, right] = [x(start * view.fps), x(end * view.fps)];
  context.fillStyle = live ? ink.copper : ink.verdigris;
  context.globalAlpha = live ? 0.5 : 0.75;
  context.fillRect(left, top + 2, Math.max(2, right - left), VOICE - 5);
  context.globalAlpha = 1;
  if (right - left < 46) return;
  context.fillStyle = ink.sheet;
  context.fillText(one.name, Math.max(0, left) + 5, top + 12);
}

// From in to out.
function range({ context, height, ink, view, x }: Draw) {
  if (view.in === null || view.out === null) return;
  context.fillStyle = ink.copper;
  context.globalAlpha = 0.09;
  context.fillRect(x(view.in), RULER, (view.out + 1 - view.in) * view.perFrame, height);
  context.globalAlpha = 1;
}

// What lies under a point of the canvas: a track, and a clip of it with the part that is meant; or the row of whom a mark
// says that they speak, and the mark with the part that is meant.
export interface Spot {
  frame: number;
  seconds: number;
  track?: SoundTrack;
  clip?: Clip;
  voice?: CastMember;
  mark?: Mark;
  part?: "body" | "first" | "end" | "start";
}

export function under(view: RoomView, px: number, py: number): Spot {
  const place = view.left + px / view.perFrame;
  const found = { frame: Math.floor(place), seconds: place / view.fps };
  if (py < RULER) return found;
  if (py < tracksTop(view)) {
    const row = Math.floor((py - RULER) / VOICE);
    return { ...found, voice: view.cast.at(row), ...markUnder(view, px, row) };
  }
  const track = view.sound.tracks[Math.floor((py - tracksTop(view)) / view.trackHeight)] as SoundTrack | undefined;
  if (!track) return found;
  const x = (frame: number) => (frame - view.left) * view.perFrame;
  const clip = track.clips.findLast((c) => px >= x(c.start) - 2 && px <= x(c.start + c.frames) + 2);
  if (!clip) return { ...found, track };
  const narrow = clip.frames * view.perFrame < 4 * EDGE;
  const part: Spot["part"] = narrow ? "body" : px - x(clip.start) < EDGE ? "first" : x(clip.start + clip.frames) - px < EDGE ? "end" : "body";
  return { ...found, track, clip, part };
}

function markUnder(view: RoomView, px: number, row: number): Pick<Spot, "mark" | "part"> {
  const x = (seconds: number) => (seconds * view.fps - view.left) * view.perFrame;
  const mark = view.sound.marks.find((m) => m.character === view.cast[row]?.id && px >= x(m.start) - 3 && px <= x(m.end) + 3);
  if (!mark) return {};
  const part: Spot["part"] = Math.abs(px - x(mark.start)) < EDGE ? "start" : Math.abs(px - x(mark.end)) < EDGE ? "end" : "body";
  return { mark, part };
}
