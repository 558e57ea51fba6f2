// Where the parts of a face are drawn, as tinfork.core.acting has it.
import type { Pose } from "../store/actedlane.ts";
import type { PartRow } from "../facetypes.ts";

// a b c d e f, as SVG has them
export type Matrix = [number, number, number, number, number, number];

export interface Part {
  name: string;
  x: number;
  y: number;
  on: string;
  rest: string;
  drawings: string[];
  role: string;
}

const PLAIN: Matrix = [1, 0, 0, 1, 0, 0];

export const partsOf = (rows: readonly PartRow[]): Part[] => rows.map(([name, x, y, on, rest, drawings, role]) => ({ name, x, y, on, rest, drawings, role }));

// The other first, then the one.
export function times([a, b, c, d, e, f]: Matrix, [g, h, i, j, k, m]: Matrix): Matrix {
  return [a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f];
}

export function matrixOf(part: Pick<Part, "x" | "y">, dials: Record<string, number>): Matrix {
  if (!Object.values(dials).some(Boolean)) return PLAIN;
  const { x = 0, y = 0, turn = 0, size = 0, stretch = 0, bend = 0 } = dials;
  const [cos, sin] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const tall = 1 + stretch;
  const moved: Matrix = [cos, sin, -sin, cos, part.x + x, part.y + y];
  const leant = times(times(moved, [1, 0, -bend, 1, 0, 0]), [(1 + size) / tall, 0, 0, (1 + size) * tall, 0, 0]);
  return times(leant, [1, 0, 0, 1, -part.x, -part.y]);
}

// Where each part is drawn, with all that it hangs on.
export const matrices = (parts: readonly Part[], poses: Record<string, Pose | undefined>): Record<string, Matrix> => matricesAndCarried(parts, poses)[0];

// Where each part is drawn, and where what hangs on it is.
export function matricesAndCarried(parts: readonly Part[], poses: Record<string, Pose | undefined>): [Record<string, Matrix>, Record<string, Matrix>] {
  const known = new Map(parts.map((part) => [part.name, part]));
  const carried: Record<string, Matrix> = {};
  const found: Record<string, Matrix> = {};
  const place = (part: Part) => {
    const pose = poses[part.name];
    const above = known.get(part.on);
    if (above && !carried[above.name]) place(above);
    const under = above ? carried[above.name] : PLAIN;
    found[part.name] = carried[part.name] = times(under, matrixOf(part, pose?.dials ?? {}));
    if (pose?.alone && pose.dials.stretch) carried[part.name] = times(under, matrixOf(part, { ...pose.dials, stretch: 0 }));
  };
  for (const part of parts) if (!found[part.name]) place(part);
  return [found, carried];
}

// Whether a part is another, or hangs on it by whatever lies between.
export function hangsOn(parts: readonly Part[], name: string, other: string): boolean {
  if (name === other) return true;
  const part = parts.find((one) => one.name === name);
  return part ? hangsOn(parts, part.on, other) : false;
}
