// The ribbon of mouths, with what is decided of it.
import { easeOn } from "../../lib/store/easing.ts";
import { placeAt, shownAt } from "../../lib/store/exposures.ts";
import { type Ink, MONO, TEXT } from "../../lib/time/canvas.ts";
import type { Drawing, TimeView } from "../../lib/time/ruler.ts";
import type { Drawing as Mouth } from "../../lib/facetypes.ts";
import type { Exposure, Shown, Stave } from "../../lib/types.ts";
import { toLookAt } from "../checks.ts";
import type { Curves, DeskState } from "../state.ts";
import { whole } from "./labels.ts";
import { CROWDED, LABELS, RIBBON, SMALL } from "./layout.ts";

type ShownExposure = Shown & Partial<Exposure>;

// The ribbon: half-height is the jaw's opening, rounded lips round its ends, so it compares with the waveform above.
export function ribbon(draw: Drawing<DeskState>, stave: Stave, top: number, active: boolean): void {
  const { context, width, ink, view, x } = draw;
  const middle = top + RIBBON / 2;
  const drawings = new Map(stave.chart.drawings.map((d) => [d.name, d]));
  context.font = `11px ${TEXT}`;
  const chosen = new Set(view.chosen);
  const seen: readonly ShownExposure[] = (active && view.drag?.mouths) || stave.exposures;
  const crowded = view.perFrame <= CROWDED;
  if (crowded) crowd(draw, inView(seen, view, width), drawings, top);
  for (const exposure of crowded ? chosenOf(seen, view.chosen) : inView(seen, view, width)) {
    const left = x(exposure.frame);
    const right = x(exposure.frame + exposure.frames);
    const drawing = drawings.get(exposure.drawing);
    if (exposure.own) ownStretch(context, ink, left, right, top);
    if (active && (chosen.has(exposure.frame) || view.over === exposure.frame)) {
      context.fillStyle = ink["verdigris-pale"];
      context.fillRect(left, top, right - left, RIBBON + LABELS);
      context.strokeStyle = ink.copper;
      context.lineWidth = 2;
      context.strokeRect(left + 1, top + 1, right - left - 2, RIBBON + LABELS - 2);
    }
    if (drawing) block(context, ink, drawing, left, right, middle);
    else nothing(context, ink, left, right, middle);
    context.fillStyle = ink.ink;
    whole(context, (drawing?.lent && drawing.label) || exposure.drawing || "nothing", left + 3, top + RIBBON + 11, right - left - 4);
    if (exposure.pinned) tack(context, ink, (left + right) / 2, top + 3);
  }
  if (stave.eases.length) for (const exposure of inView(seen, view, width)) eased(context, ink, x(exposure.frame), (easeOn(stave.eases, exposure.frame) * view.perFrame) / 2, middle);
  for (const { frame } of toLookAt(stave)) flag(context, ink, x(frame), top - 2);
  if (active && view.curves?.stave === stave.id) articulation(draw, view.curves, middle);
  if (active && view.compared) differences(draw, stave, view.compared.exposures, top + RIBBON + LABELS - 3);
  for (const [first, frames, mood] of stave.moods) over(context, ink, x(first), x(first + frames), top + 2, mood);
  for (const [first, frames, own] of stave.passages) over(context, ink, x(first), x(first + frames), top + RIBBON - 3, `hold ${own.hold} · lead ${own.lead} · ${Math.round(own.detail * 100)}% crisp${own.step > 1 ? ` · on ${own.step}s` : ""}`);
  if (active) for (const [first, end] of view.aim) outlined(draw, first, end, top);
  if (active && view.drag?.slide !== undefined) ghosts(draw, stave, view.drag.slide, top);
}

// The exposures that are chosen, as far as they are there.
const chosenOf = (exposures: readonly ShownExposure[], chosen: readonly number[]) => chosen.flatMap((frame) => shownAt(exposures, frame) ?? []).filter((one) => chosen.includes(one.frame));

// Exposures that share pixels: of each pixel the widest opening, and whether something is pinned there.
function crowd({ context, ink, x }: Drawing<DeskState>, exposures: Iterable<ShownExposure>, drawings: ReadonlyMap<string, Mouth>, top: number) {
  const columns = new Map<number, { half: number; pinned: boolean }>();
  for (const { frame, drawing, pinned } of exposures) {
    const column = Math.floor(x(frame));
    const own = columns.get(column) ?? { half: 1, pinned: false };
    columns.set(column, { half: Math.max(own.half, halfOf(drawings.get(drawing))), pinned: own.pinned || Boolean(pinned) });
  }
  const ends = [...columns.keys()].slice(1);
  [...columns].forEach(([column, { half, pinned }], i) => {
    const wide = Math.max(1, (ends[i] ?? column + 1) - column);
    context.fillStyle = half > 1 ? ink.verdigris : ink["tin-deep"];
    context.fillRect(column, top + RIBBON / 2 - half, wide, half * 2);
    context.fillStyle = ink.beet;
    if (pinned) context.fillRect(column, top + 3, wide, 4);
  });
}

// A seam that is eased over some frames: a lozenge as wide as they are.
function eased(context: CanvasRenderingContext2D, ink: Ink, x: number, half: number, middle: number) {
  if (!half) return;
  context.fillStyle = ink.copper;
  context.beginPath();
  context.moveTo(x - half, middle);
  context.lineTo(x, middle - 5);
  context.lineTo(x + half, middle);
  context.lineTo(x, middle + 5);
  context.fill();
}

// What the jaw, and the rounding of the lips, are asked to do, over the ribbon.
function articulation({ context, ink, view, x }: Drawing<DeskState>, { first, jaw, rounding }: Curves, middle: number) {
  for (const [values, stroke, dash] of [[jaw, ink.copper, []], [rounding, ink.beet, [3, 3]]] as [number[], string, number[]][]) {
    context.strokeStyle = stroke;
    context.lineWidth = 1.2;
    context.setLineDash(dash);
    context.beginPath();
    values.forEach((value, i) => context.lineTo(x(first + i) + view.perFrame / 2, middle - 4 - (value / 100) * 23));
    context.stroke();
  }
  context.setLineDash([]);
}

// Something to look at begins here.
function flag(context: CanvasRenderingContext2D, ink: Ink, x: number, y: number) {
  context.fillStyle = ink.beet;
  context.beginPath();
  context.moveTo(x, y);
  context.lineTo(x + 8, y + 3.5);
  context.lineTo(x, y + 7);
  context.fill();
  context.fillRect(x, y, 1, 12);
}

// Where a take shows other drawings than the track.
function differences({ context, width, ink, view, x }: Drawing<DeskState>, stave: Stave, exposures: readonly Shown[], y: number) {
  context.fillStyle = ink.copper;
  const last = Math.min(stave.frames, view.left + width / view.perFrame);
  for (let frame = Math.max(0, Math.floor(view.left)); frame < last; frame += 1) {
    const [own, theirs] = [stave.exposures, exposures].map((seen) => shownAt<Shown>(seen, frame)?.drawing);
    if (own !== theirs) context.fillRect(x(frame), y, Math.max(1, view.perFrame), 3);
  }
}

// What the verb under the pointer would change.
function outlined({ context, ink, x }: Drawing<DeskState>, first: number, end: number, top: number) {
  context.strokeStyle = ink.beet;
  context.lineWidth = 2;
  context.setLineDash([5, 3]);
  context.strokeRect(x(first) + 1, top + 1, Math.max(2, x(end) - x(first) - 2), RIBBON + LABELS - 2);
  context.setLineDash([]);
}

// What slides, where it would go.
function ghosts({ context, ink, view, x }: Drawing<DeskState>, { exposures }: Stave, slide: number, top: number) {
  context.strokeStyle = ink.copper;
  context.lineWidth = 2;
  context.setLineDash([4, 3]);
  for (const frame of view.chosen) {
    const one = shownAt(exposures, frame);
    if (one) context.strokeRect(x(one.frame + slide) + 1, top + 6, one.frames * view.perFrame - 2, RIBBON - 12);
  }
  context.setLineDash([]);
  context.font = `11px ${MONO}`;
  context.fillStyle = ink.copper;
  context.fillText(`${slide < 0 ? "−" : "+"}${Math.abs(slide)}`, x(view.chosen[0] + slide) + 4, top + 4);
}

// A range that something holds over: a line with what it is.
function over(context: CanvasRenderingContext2D, ink: Ink, left: number, right: number, y: number, text: string) {
  context.fillStyle = ink["tin-deep"];
  context.fillRect(left, y, right - left - 1, 1);
  context.fillRect(left, y, 1, 5);
  context.fillRect(right - 2, y, 1, 5);
  context.font = `10px ${TEXT}`;
  whole(context, text, left + 4, y + 9, right - left - 8);
}

// Frames of a stretch with drawings of its own.
function ownStretch(context: CanvasRenderingContext2D, ink: Ink, left: number, right: number, top: number) {
  context.fillStyle = ink.beet;
  context.globalAlpha = 0.12;
  context.fillRect(left, top, right - left, RIBBON);
  context.globalAlpha = 1;
  context.fillRect(left, top, right - left, 2);
}

// An exposure on which no mouth is shown.
function nothing(context: CanvasRenderingContext2D, ink: Ink, left: number, right: number, middle: number) {
  context.strokeStyle = ink["tin-deep"];
  context.lineWidth = 1;
  context.setLineDash([3, 3]);
  context.strokeRect(left + 1.5, middle - 8, Math.max(1, right - left - 4), 16);
  context.setLineDash([]);
}

// Half the height of a drawing's block; of none a line.
const halfOf = (drawing: Mouth | undefined) => (!drawing || drawing.shape === "rest" ? 1 : drawing.shape === "press" ? 3 : 4 + drawing.jaw * 23);

function block(context: CanvasRenderingContext2D, ink: Ink, drawing: Mouth, left: number, right: number, middle: number) {
  const shut = drawing.shape === "rest";
  const half = halfOf(drawing);
  const wide = Math.max(2, right - left - 1);
  context.fillStyle = shut ? ink["tin-deep"] : drawing.shape === "press" ? ink.ink : ink.verdigris;
  if (wide <= SMALL) return context.fillRect(left, middle - half, right - left, half * 2);
  context.beginPath();
  context.roundRect(left + 0.5, middle - half, wide, half * 2, Math.min(half, wide / 2, 2 + drawing.rounding * 24));
  context.fill();
}

function tack(context: CanvasRenderingContext2D, ink: Ink, x: number, y: number) {
  context.fillStyle = ink.beet;
  context.beginPath();
  context.arc(x, y + 4, 4, 0, Math.PI * 2);
  context.fill();
  context.fillRect(x - 0.75, y + 7, 1.5, 7);
}

// The exposures that are seen in so many pixels.
export function* inView<E extends Shown>(exposures: readonly E[], view: TimeView, width: number): Generator<E> {
  const end = view.left + width / view.perFrame;
  for (let i = Math.max(0, placeAt(exposures, Math.max(0, Math.floor(view.left)))); i < exposures.length && exposures[i].frame <= end; i += 1) yield exposures[i];
}
