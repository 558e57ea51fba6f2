// A face as a page is sent it: its drawings, its parts, and what is drawn of them.
export interface Drawing {
  name: string;
  label: string;
  mood: string;
  lent: boolean;
  // A letter or digit of its own, "" for none.
  key: string;
  shape: string;
  meaning: string;
  // How the sounds of its shape are written.
  letters: string;
  svg: string;
  // Further pictures of it by which it moves: for so many frames each, over and over, or once and then the last is held.
  moving?: { svgs: string[]; each: number; once: boolean };
  // By views in which it is another: what is seen there, and whether as in a mirror.
  views?: Record<string, [string, boolean]>;
  // Its lips are together.
  shut?: boolean;
  // It is kept for hands.
  special?: boolean;
  // Where it lies in articulator space.
  jaw: number;
  width: number;
  rounding: number;
  press: number;
  tuck: number;
  upper_teeth: number;
  lower_teeth: number;
  tongue: number;
}

// name, x, y, what it hangs on, what it shows at rest, its drawings, its role
export type PartRow = [string, number, number, string, string, string[], string];

// Where a piece lies on a head that turns: x, how far before its axis, and how.
export type Relief = [number, number, "on" | "out" | "near" | "edge"];

// Of a piece that is one of several pictures that move: how many, for how many frames each, whether once, and which.
export type Turn = [number, number, boolean, number];

// The part, the drawing of it that it is seen with, SVG, where it lies on the head, the only view it is seen in, and when
// it is seen, of what moves.
export type PieceRow = [string, string | null, string, Relief | null, string | null, (Turn | null)?];

// How mouths of ours are drawn on a face, as tinfork.core.mouths.draw.Style has it.
export interface MouthStyle {
  palette: { ink: string; lip: string; inside: string; teeth: string; tongue: string };
  lips: number;
  line: number;
  teeth: boolean;
  corners: number;
}

export interface FaceDocument {
  view: number[];
  mouth: string;
  parts: PartRow[];
  pieces: PieceRow[];
  // What takes the mouth to where it lies in a view, and which view is drawn for each that can be shown; of a version
  // that was kept before there were views, neither.
  lies?: Record<string, [number, number, number, number, number, number]>;
  drawn?: Record<string, string>;
  // By how many degrees the head is turned for a view it has no pieces of its own for.
  faces?: Record<string, number>;
  // Where its mouths are ours: how they are drawn.
  style?: MouthStyle | null;
  drawings: Drawing[];
}

export interface ChartDocument extends FaceDocument {
  mood: string;
}
