// Seconds and frames, as tinfork.core.timebase has them: times are kept to the microsecond, so one that lies within a
// microsecond of a frame's edge lies on it. fps: frames per second.

const CLOCK_SECONDS = 1e-6;

// The frame on screen at a time: the last one that has begun.
export const frameAt = (seconds, fps) => Math.floor((seconds + CLOCK_SECONDS) * fps);

// The first frame that begins at or after a time: where something that ends then is over.
export const frameAfter = (seconds, fps) => Math.ceil((seconds - CLOCK_SECONDS) * fps) + 0;
