// Shots laid one after another in time. It knows no elements.
import type { HeardClip } from "../lib/time/player.ts";
import type { Rate } from "../lib/types.ts";
import { fpsOf, frameAt } from "../lib/store/clock.ts";

interface ScreenedClip {
  listen: string;
  peaks: string;
  start: number;
  offset: number;
  frames: number;
  whole: number;
  gain: number;
}

// A shot as the server sends it. films: where the pictures of its videos lie, in frames; version: the one that is watched,
// 0 for the shot as it is now.
export interface ScreenedShot {
  id: number;
  name: string;
  number: string;
  rate: Rate;
  startFrame: number;
  frames: number;
  version: number;
  clips: ScreenedClip[];
  films: { url: string; start: number; offset: number; frames: number }[];
  seenUrl: string;
  notesUrl: string;
}

// A shot in its place: begins, seconds.
export interface Laid {
  shot: ScreenedShot;
  begins: number;
  seconds: number;
}

// Each shot begins where the one before it ends.
export function laid(shots: readonly ScreenedShot[]): Laid[] {
  let begins = 0;
  return shots.map((shot) => {
    const seconds = shot.frames / fpsOf(shot.rate);
    const found = { shot, begins, seconds };
    begins += seconds;
    return found;
  });
}

export const secondsOf = (strip: readonly Laid[]): number => strip.reduce((sum, { seconds }) => sum + seconds, 0);

// Of what is heard only what lies within its shot, where that lies.
export function heardIn(strip: readonly Laid[]): HeardClip[] {
  return strip.flatMap(({ shot, begins, seconds }) => {
    const fps = fpsOf(shot.rate);
    return shot.clips.flatMap((clip) => {
      const [from, to] = [Math.max(0, clip.start / fps), Math.min(seconds, (clip.start + clip.frames) / fps)];
      if (to <= from) return [];
      const offset = clip.offset / fps + from - clip.start / fps;
      return [{ listen: clip.listen, peaks: clip.peaks, start: begins + from, offset, seconds: to - from, whole: clip.whole / fps, gain: 10 ** (clip.gain / 20) }];
    });
  });
}

// Which shot is seen at a time, and which frame of it, counted from 0.
export function seenAt(strip: readonly Laid[], time: number): { at: number; frame: number } {
  const found = strip.findLastIndex(({ begins }) => begins <= time + 1e-6);
  const at = Math.max(0, found);
  const { shot, begins } = strip[at];
  return { at, frame: Math.min(shot.frames - 1, frameAt(Math.max(0, time - begins), fpsOf(shot.rate))) };
}

// When a frame of a shot is seen.
export const timeOf = ({ shot, begins }: Laid, frame: number): number => begins + Math.min(frame, shot.frames - 1) / fpsOf(shot.rate);
