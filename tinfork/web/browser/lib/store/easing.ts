// How one drawing becomes the next where it is not cut, as tinfork.core.exposure.easing has it: both are held against one
// table.
import type { Ease, Shown } from "../types.ts";

// A share of the way, slow at both ends.
export const smooth = (share: number): number => share * share * (3 - 2 * share);

// How much of what comes after a seam is seen in the middle of a frame, 0 to 1.
export function weight(frame: number, seam: number, frames: number): number {
  const share = Math.min(1, Math.max(0, (frame + 0.5 - seam) / frames + 0.5));
  return smooth(share);
}

// Over how many frames the seam on a frame is eased; of the eases the last that holds counts.
export const easeOn = (eases: readonly Ease[], frame: number): number => eases.findLast(([first, frames]) => first <= frame && frame < first + frames)?.[2] ?? 0;

// Whether the seam on a frame is eased by a drawing between.
export const isDrawn = (eases: readonly Ease[], frame: number): boolean => eases.findLast(([first, frames]) => first <= frame && frame < first + frames)?.[3] ?? false;

// What is seen of the exposure beside the one a frame is on, with its share; null where the frame is not eased.
export function blendOn<E extends Shown>(exposures: readonly E[], place: number, frame: number, eases: readonly Ease[]): [E, number] | null {
  if (!eases.length || place < 0) return null;
  for (const seam of [place, place + 1]) {
    const [before, after] = [exposures[seam - 1], exposures[seam]];
    if (!before || !after || before.drawing === after.drawing || isDrawn(eases, after.frame)) continue;
    const frames = Math.min(easeOn(eases, after.frame), before.frames, after.frames);
    const share = frames < 2 ? 0 : weight(frame, after.frame, frames);
    if (share <= 0 || share >= 1) continue;
    return seam === place ? [before, 1 - share] : [after, share];
  }
  return null;
}
