// Where a layer or the mouth lies on a face, in the face's units; pure, so that it can be tested.

export interface Layer {
  x: number;
  y: number;
  turn: number;
  scale: number;
}

export interface Mouth {
  x: number;
  y: number;
  turn: number;
  size: number;
}

export interface Move {
  x: number;
  y: number;
  times: number;
  turn: number;
}

// The SVG transform of a layer, whose picture is drawn at its own size with its middle at 0.
export function layerTransform({ x, y, scale, turn }: Layer): string {
  return `translate(${x} ${y}) rotate(${turn}) scale(${scale})`;
}

// The SVG transform of the mouth's anchor.
export function mouthTransform({ x, y, size, turn }: Mouth): string {
  return `translate(${x} ${y}) rotate(${turn}) scale(${size})`;
}

// What a key does: how far it moves, sizes and turns, or null for another key.
export function moveOf(key: string, far: boolean): Move | null {
  const by = far ? 10 : 1;
  const moves: Record<string, [number, number]> = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] };
  if (moves[key]) return { x: moves[key][0], y: moves[key][1], times: 1, turn: 0 };
  if (key === "+") return { x: 0, y: 0, times: 1.03, turn: 0 };
  if (key === "-") return { x: 0, y: 0, times: 1 / 1.03, turn: 0 };
  if (key === "[") return { x: 0, y: 0, times: 1, turn: -2 };
  if (key === "]") return { x: 0, y: 0, times: 1, turn: 2 };
  return null;
}

// Something moved, sized and turned.
export function moved<P extends Layer | Mouth>(one: P, { x, y, times, turn }: Move): P {
  const sized = "scale" in one ? { scale: one.scale * times } : { size: one.size * times };
  return { ...one, ...sized, x: one.x + x, y: one.y + y, turn: one.turn + turn };
}
