// Where a picture lies on the anchor, in the units of the drawn mouths; pure, so that it can be tested.

// x, y: the anchor, in pixels of the picture
export interface Anchor {
  x: number;
  y: number;
  scale: number;
}

export interface Lying extends Anchor {
  href: string;
  width: number;
  height: number;
  turn: number;
}

export interface Laid {
  href: string;
  left: number;
  top: number;
  wide: number;
  high: number;
  turned: string;
}

export interface Box {
  left: number;
  right: number;
  top: number;
}

// A drawing as an SVG image is laid.
export function laid({ href, width, height, x, y, scale, turn }: Lying): Laid {
  return { href, left: -x * scale, top: -y * scale, wide: width * scale, high: height * scale, turned: `rotate(${turn})` };
}

/** What of a picture is drawn: left, right and top in pixels of the picture, from its colours drawn `side` times as
 * large. Nothing drawn is all of it. */
export function boxOf(data: Uint8ClampedArray, width: number, height: number, side: number): Box {
  let [left, right, top] = [width, 0, height];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      if (data[(y * width + x) * 4 + 3] < 100) continue;
      left = Math.min(left, x);
      right = Math.max(right, x + 1);
      top = Math.min(top, y);
    }
  }
  if (left >= right) [left, right, top] = [0, width, 0];
  return { left: left / side, right: right / side, top: top / side };
}

// The anchor that lays a drawing's upper edge on that of another, their middles on each other.
export function overlaid(drawing: Anchor, own: Box, beneath: Anchor, theirs: Box): { x: number; y: number } {
  const middle = ((theirs.left + theirs.right) / 2 - beneath.x) * beneath.scale;
  const top = (theirs.top - beneath.y) * beneath.scale;
  return { x: (own.left + own.right) / 2 - middle / drawing.scale, y: own.top - top / drawing.scale };
}
