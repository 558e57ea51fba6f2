// What every drawing of time has: the frame ruler, and a clip's waveform.
import { drawWave } from "./peaks.js";

export const RULER = 26;
export const MONO = '"Atkinson Hyperlegible Mono", monospace';

export function ruler({ context, width, height, ink, view, x }) {
  const every = [1, 2, 4, 6, 12, 24, 48, 120, 240, 480, 1200, 2400].find((n) => n * view.perFrame >= 52) ?? 4800;
  context.font = `11px ${MONO}`;
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

// The part of a clip's waveform that is in sight.
export function clipWave({ context, width, view, x }, clip, box, fps, colour) {
  const peaks = view.peaks.get(clip.peaks);
  const left = Math.max(0, Math.floor(x(clip.start)));
  const right = Math.min(width, Math.ceil(x(clip.start + clip.frames)));
  if (!peaks || right <= left) return;
  const at = (pixel) => (view.left + pixel / view.perFrame - clip.start + clip.offset) / fps;
  drawWave(context, peaks, { x: left, y: box.y, width: right - left, height: box.height }, at(left), at(right), colour, box.tall ?? 1);
}
