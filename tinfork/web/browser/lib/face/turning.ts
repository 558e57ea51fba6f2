// A head that turns: what lies on it slides over it, as tinfork.core.mouths.turning has it.
import type { Relief } from "../facetypes.ts";
import { type Matrix, times } from "./matrices.ts";

export const FACING = "facing";
const MOST_TURNED = 55;
const ROUND = 110;
const COMES = 18;
const OUTLINE = 1.4;
const GONE = 0.06;
const radians = (degrees: number) => (degrees * Math.PI) / 180;

// Where a piece is drawn on a head about an axis that faces some degrees to the right of the picture.
export function slid([at, z, way]: Relief, axis: number, facing: number): Matrix {
  const angle = radians(MOST_TURNED * Math.sin(radians(facing)));
  const [sin, cos, aside] = [Math.sin(angle), Math.cos(angle), at - axis];
  const there = axis + aside * cos + z * sin;
  const edge = axis + OUTLINE * aside;
  const wides = { on: cos - (aside / ROUND) * sin, out: 1, near: Math.min(1, (z * cos - aside * sin) / COMES), edge: (there - edge) / (at - edge) };
  const wide = wides[way];
  const [x, pivot] = way === "edge" ? [edge, edge] : [there, at];
  return wide < GONE ? [0, 0, 0, 1, x, 0] : [wide, 0, 0, 1, x - wide * pivot, 0];
}

// The matrix that undoes one.
export function inverse([a, b, c, d, e, f]: Matrix): Matrix {
  const area = a * d - b * c;
  return [d / area, -b / area, -c / area, a / area, (c * f - d * e) / area, (b * e - a * f) / area];
}

// Where a piece of a part is drawn on a head that faces somewhere. head, part: where these are.
export function onHead(relief: Relief, axis: number, facing: number, head: Matrix, part: Matrix): Matrix {
  return times(times(times(head, slid(relief, axis, facing)), inverse(head)), part);
}
