// Where a layer or the mouth lies on a face, in the face's units; pure, so that it can be tested.

/** The SVG transform of a layer, whose picture is drawn at its own size with its middle at 0. */
export function layerTransform({ x, y, scale, turn }) {
  return `translate(${x} ${y}) rotate(${turn}) scale(${scale})`;
}

/** The SVG transform of the mouth's anchor. */
export function mouthTransform({ x, y, size, turn }) {
  return `translate(${x} ${y}) rotate(${turn}) scale(${size})`;
}

/** What a key does: how far it moves, sizes and turns, or null for another key. */
export function moveOf(key, far) {
  const by = far ? 10 : 1;
  const moves = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] };
  if (moves[key]) return { x: moves[key][0], y: moves[key][1], times: 1, turn: 0 };
  if (key === "+") return { x: 0, y: 0, times: 1.03, turn: 0 };
  if (key === "-") return { x: 0, y: 0, times: 1 / 1.03, turn: 0 };
  if (key === "[") return { x: 0, y: 0, times: 1, turn: -2 };
  if (key === "]") return { x: 0, y: 0, times: 1, turn: 2 };
  return null;
}

/** Something moved, sized and turned. */
export function moved(one, { x, y, times, turn }) {
  const size = "scale" in one ? "scale" : "size";
  return { ...one, x: one.x + x, y: one.y + y, [size]: one[size] * times, turn: one.turn + turn };
}

/** The frame's exposure in a list of [frame, frames, drawing], the last one before it. */
export function shownOn(exposures, frame) {
  let found = exposures[0];
  for (const one of exposures) {
    if (one[0] > frame) break;
    found = one;
  }
  return found?.[2];
}
