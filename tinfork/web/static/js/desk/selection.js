// Which exposures are chosen, by the frames they begin on; and what is picked up from them. Exposures are in order.

// The place of the exposure seen on a frame; -1 where there is none.
export function placeAt(exposures, frame) {
  let low = 0;
  let high = exposures.length - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    if (exposures[middle].frame > frame) high = middle - 1;
    else if (exposures[middle].frame + exposures[middle].frames <= frame) low = middle + 1;
    else return middle;
  }
  return -1;
}

export const endOf = (exposure) => exposure.frame + exposure.frames;
const frames = (exposures) => exposures.map((one) => one.frame);

// All from the exposure on one frame to that on another.
export function fromTo(exposures, one, other) {
  const [a, b] = [placeAt(exposures, Math.min(one, other)), placeAt(exposures, Math.max(one, other))];
  return a < 0 || b < 0 ? [] : frames(exposures.slice(a, b + 1));
}

// Those that begin on frames from first on and before end.
export const within = (exposures, first, end) => frames(exposures.filter((one) => one.frame >= first && one.frame < end));

// Those that show a drawing.
export const showing = (exposures, drawing) => frames(exposures.filter((one) => one.drawing === drawing));

// One more, or one less.
export const toggled = (chosen, frame) => (chosen.includes(frame) ? chosen.filter((one) => one !== frame) : [...chosen, frame].sort((a, b) => a - b));

// What is still chosen when the exposures are others: those that are now seen where the chosen ones began.
export function still(exposures, chosen) {
  return [...new Set(chosen.map((frame) => exposures[placeAt(exposures, frame)]?.frame).filter((frame) => frame !== undefined))];
}

/** The chosen exposures as pieces to be laid elsewhere: [distance from the first, frames, drawing].
 * @returns {[number, number, string][]} */
export function lifted(exposures, chosen) {
  const own = chosen.map((frame) => exposures[placeAt(exposures, frame)]).filter(Boolean);
  return own.map((one) => [one.frame - own[0].frame, one.frames, one.drawing]);
}

const lengthOf = (pieces) => Math.max(0, ...pieces.map(([at, count]) => at + count));

// Pieces laid over and over until so many frames are full; the last is cut.
export function looped(pieces, count) {
  const long = lengthOf(pieces);
  const found = [];
  for (let by = 0; long && by < count; by += long) {
    for (const [at, held, drawing] of pieces) if (by + at < count) found.push([by + at, Math.min(held, count - by - at), drawing]);
  }
  return found;
}

// What the exposures look like while a seam is dragged: what begins on a frame begins on another, one side gets longer,
// and what is passed over is covered.
export function withSeam(exposures, frame, to) {
  const longer = placeAt(exposures, frame) - (to > frame ? 1 : 0);
  const spans = exposures.map((one, i) => {
    if (i < longer) return [one.frame, Math.min(endOf(one), to)];
    if (i > longer) return [Math.max(one.frame, to), endOf(one)];
    return [Math.min(one.frame, to), Math.max(endOf(one), to)];
  });
  return exposures.map((one, i) => ({ ...one, frame: spans[i][0], frames: spans[i][1] - spans[i][0] })).filter((one) => one.frames > 0);
}
