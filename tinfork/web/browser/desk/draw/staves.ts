// Drawing time: the frame ruler, then for each character a waveform, the words, the sounds in IPA and the ribbon.
import { fitTall, inks, MONO, TEXT } from "../../lib/time/canvas.ts";
import { clipWave, type Drawing, drawingOf, playhead, ruler, type WaveBox } from "../../lib/time/ruler.ts";
import type { Stave } from "../../lib/types.ts";
import type { DeskState } from "../state.ts";
import { FOLDED, IPA, layoutOf, NAME, ribbonUnder, staveHeight, WORDS, wordsUnder } from "./layout.ts";
import { lyrics } from "./lyrics.ts";
import { inView, ribbon } from "./ribbon.ts";

// How large the flag of a note is, in pixels.
const NOTE = 10;

export function drawStaves(canvas: HTMLCanvasElement, view: DeskState, fps: number): void {
  const { wave, tops } = layoutOf(view, canvas.parentElement?.clientHeight ?? 0);
  const draw = drawingOf(fitTall(canvas, tops[tops.length - 1] + 8), inks(), view);
  ruler(draw);
  noted(draw);
  view.staves.forEach((stave, i) => {
    if (view.folded.has(stave.id)) drawFolded(draw, stave, tops[i], i === view.active);
    else drawStave(draw, stave, tops[i], wave, fps);
  });
  playhead(draw, view.perFrame);
  const words = wordsUnder(tops[view.active], wave);
  if (view.drag?.times) dragged(draw, view.drag.times, view.drag.by ?? 0, words, fps);
  // Where things lie, for whoever cannot see the picture.
  const places = { left: view.left, perFrame: view.perFrame, line: words + 6, words: words + 22, sounds: words + WORDS + 9, ribbon: words + WORDS + IPA + 30, folded: view.folded.size };
  for (const [name, place] of Object.entries(places)) canvas.dataset[name] = String(place);
}

// On the ruler where notes are that are not done.
function noted({ context, ink, x, view }: Drawing<DeskState>) {
  context.fillStyle = ink.beet;
  for (const { frame, on, done } of view.notes) {
    if (on || done) continue;
    context.beginPath();
    context.moveTo(x(frame), NOTE);
    context.lineTo(x(frame) + NOTE, 0);
    context.lineTo(x(frame), 0);
    context.fill();
  }
}

// Where what is being dragged would go: its edges, and by how many frames it moves. times and by in seconds.
function dragged({ context, ink, x }: Drawing<DeskState>, times: readonly number[], by: number, top: number, fps: number) {
  context.strokeStyle = ink.copper;
  context.lineWidth = 2;
  context.setLineDash([4, 3]);
  context.beginPath();
  for (const time of times) {
    context.moveTo(x(time * fps), top);
    context.lineTo(x(time * fps), top + WORDS + IPA);
  }
  context.stroke();
  context.setLineDash([]);
  context.font = `11px ${MONO}`;
  context.fillStyle = ink.copper;
  const frames = by * fps;
  context.fillText(`${frames < 0 ? "−" : "+"}${Math.abs(frames).toFixed(1)}`, x(times[0] * fps) + 4, top + 10);
}

// A folded stave: its name, and its mouths as a thin ribbon.
function drawFolded(draw: Drawing<DeskState>, stave: Stave, top: number, active: boolean) {
  const { context, width, ink, view, x } = draw;
  context.font = `600 12px ${TEXT}`;
  context.fillStyle = active ? ink.ink : ink["tin-deep"];
  context.fillText(`▸ ${stave.character}`, 8, top + 13);
  const drawings = new Map(stave.chart.drawings.map((d) => [d.name, d]));
  for (const { frame, frames, drawing } of inView(stave.exposures, view, width)) {
    const half = 0.5 + (drawings.get(drawing)?.jaw ?? 0) * 8;
    context.fillStyle = ink.verdigris;
    context.fillRect(x(frame), top + FOLDED - 11 - half, frames * view.perFrame - 0.5, 2 * half);
  }
  context.fillStyle = ink.tin;
  context.fillRect(0, top + FOLDED - 1, width, 1);
}

function drawStave(draw: Drawing<DeskState>, stave: Stave, top: number, wave: number, fps: number) {
  const { context, width, ink, view } = draw;
  const active = view.staves[view.active] === stave;
  context.font = `600 12px ${TEXT}`;
  context.fillStyle = active ? ink.ink : ink["tin-deep"];
  context.fillText(`▾ ${stave.character}`, 8, top + 13);
  waves(draw, stave, { y: top + NAME, height: wave }, fps);
  context.fillStyle = ink.tin;
  context.fillRect(0, top + staveHeight(wave) - 1, width, 1);
  if (!stave.read) {
    context.fillStyle = ink["tin-deep"];
    context.font = `13px ${TEXT}`;
    context.fillText("Not read yet. Press Read under Script, or put words and mouths here by hand.", 12, wordsUnder(top, wave) + 30);
  } else lyrics(draw, stave, wordsUnder(top, wave), fps);
  ribbon(draw, stave, ribbonUnder(top, wave), active);
}

// What is heard of a character. Of a sound that others are heard in too only their own lines stand out.
function waves(draw: Drawing<DeskState>, stave: Stave, box: WaveBox, fps: number) {
  const { context, view, ink, x } = draw;
  const others = view.staves.filter((one) => one !== stave).flatMap((one) => one.clips);
  const shared = stave.clips.filter((clip) => others.includes(clip));
  for (const clip of stave.clips) clipWave(draw, clip, box, fps, shared.includes(clip) && stave.read ? ink.tin : ink.verdigris);
  if (!shared.length || !stave.read) return;
  context.save();
  context.beginPath();
  for (const { start, end } of stave.lines) context.rect(x(start * fps), box.y, (end - start) * fps * view.perFrame, box.height);
  context.clip();
  for (const clip of shared) clipWave(draw, clip, box, fps, ink.verdigris);
  context.restore();
}
