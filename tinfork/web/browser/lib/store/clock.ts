// Seconds and frames, as tinfork.core.timebase has them: times are kept to the microsecond, so one that lies within a
// microsecond of a frame's edge lies on it. fps: frames per second.
import type { Rate } from "../types.ts";

const CLOCK_SECONDS = 1e-6;

export const fpsOf = (rate: Rate): number => rate.numerator / rate.denominator;

// The frame on screen at a time: the last one that has begun.
export const frameAt = (seconds: number, fps: number): number => Math.floor((seconds + CLOCK_SECONDS) * fps);

// The first frame that begins at or after a time: where something that ends then is over.
export const frameAfter = (seconds: number, fps: number): number => Math.ceil((seconds - CLOCK_SECONDS) * fps) + 0;
