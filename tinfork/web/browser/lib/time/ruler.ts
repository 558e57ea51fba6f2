// What every drawing of time has: the frame ruler, a clip's waveform, in and out, and the playhead.
import type { Clip, Rate } from "../types.ts";
import { type Fitted, type Ink, MONO } from "./canvas.ts";
import { drawWave, type Levels } from "./peaks.ts";

export const RULER = 26;

// What is seen of time, and where in it one is. left in frames, perFrame in pixels; frame and time are the playhead's.
export interface TimeView {
  rate: Rate;
  startFrame: number;
  frame: number;
  time: number;
  left: number;
  perFrame: number;
  in: number | null;
  out: number | null;
  loop: boolean;
  follow: boolean;
  drag: object | null;
}

export const timeView = (rate: Rate, startFrame: number): TimeView => ({ rate, startFrame, frame: 0, time: 0, left: 0, perFrame: 0, in: null, out: null, loop: false, follow: true, drag: null });

// From in to out, or null where both are not set.
export const inToOut = (view: Pick<TimeView, "in" | "out">): [number, number] | null => (view.in === null || view.out === null ? null : [view.in, view.out + 1]);

// A drawing of time that is being made; x(frame) is where a frame begins.
export interface Drawing<V extends TimeView> extends Fitted {
  ink: Ink;
  view: V;
  x: (frame: number) => number;
}

export const drawingOf = <V extends TimeView>(fitted: Fitted, ink: Ink, view: V): Drawing<V> => ({ ...fitted, ink, view, x: (frame) => (frame - view.left) * view.perFrame });

export function ruler({ context, width, height, ink, view, x }: Drawing<TimeView>): void {
  const every = [1, 2, 4, 6, 12, 24, 48, 120, 240, 480, 1200, 2400].find((n) => n * view.perFrame >= 52) ?? 4800;
  context.font = `12px ${MONO}`;
  context.textAlign = "left";
  const first = Math.max(0, Math.floor(view.left / every) * every);
  for (let frame = first; x(frame) < width; frame += every) {
    context.fillStyle = ink.tin;
    context.fillRect(Math.round(x(frame)), RULER - 8, 1, height);
    context.fillStyle = ink["tin-deep"];
    context.fillText(String(frame + view.startFrame), x(frame) + 3, 12);
  }
  if (view.perFrame >= 6) {
    context.fillStyle = ink.tin;
    for (let frame = Math.max(0, Math.floor(view.left)); x(frame) < width; frame++) context.fillRect(Math.round(x(frame)), RULER - 4, 1, 4);
  }
  context.fillStyle = ink["tin-deep"];
  context.fillRect(0, RULER - 1, width, 1);
}

export interface WaveBox {
  y: number;
  height: number;
  tall?: number;
}

// The part of a clip's waveform that is in sight.
export function clipWave({ context, width, view, x }: Drawing<TimeView & { peaks: ReadonlyMap<string, Levels> }>, clip: Clip, box: WaveBox, fps: number, colour: string): void {
  const peaks = view.peaks.get(clip.peaks);
  const left = Math.max(0, Math.floor(x(clip.start)));
  const right = Math.min(width, Math.ceil(x(clip.start + clip.frames)));
  if (!peaks || right <= left) return;
  const at = (pixel: number) => (view.left + pixel / view.perFrame - clip.start + clip.offset) / fps;
  drawWave(context, peaks, { x: left, y: box.y, width: right - left, height: box.height }, [at(left), at(right)], colour, box.tall);
}

// Where in and out are, as marks of a width and from a height on.
export function inAndOut({ context, ink, view, x }: Drawing<TimeView>, top: number, width: number, height: number): void {
  context.fillStyle = ink.copper;
  const place = (frame: number | null) => frame !== null && context.fillRect(Math.round(x(frame)) - width / 2, top, width, height);
  place(view.in);
  place(view.out === null ? null : view.out + 1);
}

// Where the playhead is: a line, with its flag above.
export function playhead({ context, height, ink, view, x }: Drawing<TimeView>, wide = 0): void {
  const left = x(view.frame);
  context.fillStyle = ink.copper;
  context.globalAlpha = 0.16;
  if (wide) context.fillRect(left, 0, Math.max(1, wide), height);
  context.globalAlpha = 1;
  context.fillRect(Math.round(left), 0, 2, height);
  context.beginPath();
  context.moveTo(left - 5, 0);
  context.lineTo(left + 7, 0);
  context.lineTo(left + 1, 9);
  context.fill();
}
