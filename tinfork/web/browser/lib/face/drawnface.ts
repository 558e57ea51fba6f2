// A character's face with all of their mouths in it, of which one is shown, and its parts where they are.
import type { Moment, Poses } from "../store/actedlane.ts";
import type { Drawing, FaceDocument, Relief, Turn } from "../facetypes.ts";
import type { Bend } from "../types.ts";
import { hangsOn, type Matrix, matricesAndCarried, type Part, partsOf, times } from "./matrices.ts";
import { placeBetween, styledMouth } from "./mouth.ts";
import { FACING, inverse, onHead } from "./turning.ts";

const SVG = "http://www.w3.org/2000/svg";
const MOUTH = "mouth";
const HEAD = "head";
const FRONT = "front";
const AT_REST: Matrix = [1, 0, 0, 1, 0, 0];

// Markup from our own server, put into a new SVG element.
export function svg(viewBox: string, markup: string): SVGSVGElement {
  const element = document.createElementNS(SVG, "svg");
  element.setAttribute("viewBox", viewBox);
  element.innerHTML = markup;
  return element;
}

const escaped = (text: string) => text.replaceAll("&", "&amp;").replaceAll('"', "&quot;");

// In pixels: so much more of a face may lie outside its picture than at rest before it is told.
const CUT = 3;

type Sides = Pick<DOMRect, "left" | "top" | "right" | "bottom">;

// How far one box reaches out of another, at most; boxes as the browser measures them.
export const outside = (box: Sides, of: Sides): number => Math.max(0, of.left - box.left, of.top - box.top, box.right - of.right, box.bottom - of.bottom);

let ways = 0;

// All pictures of a drawing, of which the first is shown.
const phases = ({ svg: first, moving }: Drawing) =>
  moving ? [first, ...moving.svgs].map((one, i) => `<g data-picture="${i}"${i ? ' display="none"' : ""}>${one}</g>`).join("") : first;

// Which picture of a drawing that moves is seen on a frame, where it is seen from the first on.
export function pictureOn(pictures: number, each: number, once: boolean, frame: number, first: number): number {
  return once ? Math.min(pictures - 1, Math.floor((frame - first) / each)) : Math.floor(frame / each) % pictures;
}

// From which frame on a part has shown what it shows, not farther back than so many.
function since(part: string, { frame, drawing }: Moment, most: number): number {
  const now = drawing(part, frame);
  let first = frame;
  while (first > 0 && frame - first < most && drawing(part, first - 1) === now) first -= 1;
  return first;
}

// The view whose mouths are seen on a head that turns by its dial, while it shows a view. faces: by how many degrees to
// the right it is turned in each.
export function mouthsView(view: string, facing: number, faces: Readonly<Record<string, number>>): string {
  if (view !== FRONT || !facing) return view;
  const away = (one: string) => Math.abs(faces[one] - facing);
  return Object.keys(faces).reduce((best, one) => (away(one) < away(best) ? one : best), Object.keys(faces)[0] ?? view);
}

interface Piece {
  element: SVGElement;
  part: string;
  drawing: string | null;
  relief: Relief | null;
  view: string | null;
  turn: Turn | null;
  as: string;
}

const START: Moment = { frame: 0, drawing: () => null };

function inTurn({ part, drawing, turn }: Piece, moment: Moment): boolean {
  if (!turn) return true;
  const [pictures, each, once, picture] = turn;
  const first = once && drawing !== null ? since(part, moment, pictures * each) : 0;
  return pictureOn(pictures, each, once, moment.frame, first) === picture;
}

// Of a drawing and others that are seen with it: their shares.
export type Beside = readonly (readonly [string, number])[];

export class DrawnFace {
  readonly element: SVGSVGElement;
  readonly rows: Map<string, number>;
  readonly #parts: Part[];
  readonly #head: Part | undefined;
  readonly #mouths: SVGElement[];
  // A mouth of ours on its way from one drawing to another.
  readonly #way: SVGElement | null;
  #ident = "";
  readonly #pieces: Piece[];
  readonly #place: string;
  readonly #chart: Pick<FaceDocument, "drawings" | "lies" | "drawn" | "faces" | "style">;
  #view = FRONT;
  // The view its mouths are seen in.
  #mouthsView = FRONT;
  // It turns by its dial, and by no views it is drawn in.
  readonly #slides: boolean;
  #asked: [string, Bend | null, Beside, boolean] | null = null;
  #shown: string | null = null;
  #acts = true;
  #reach = Number.NaN;
  #poses: Poses = {};
  #moment = START;
  // Some of it moves by itself.
  readonly #moves: boolean;

  constructor(chart: FaceDocument) {
    const mouths = `${chart.drawings.map((d, i) => `<g data-mouth="${i}" display="none" transform="${chart.mouth}">${phases(d)}</g>`).join("")}<g data-way="" display="none" transform="${chart.mouth}"></g>`;
    const pieces = chart.pieces.map(([part, drawing, markup]) => {
      const shown = drawing === null ? "" : ` data-drawing="${escaped(drawing)}"`;
      return `<g data-part="${escaped(part)}"${shown}>${part === MOUTH && drawing === null && !markup ? mouths : markup}</g>`;
    });
    this.element = svg(chart.view.join(" "), pieces.join(""));
    this.#way = this.element.querySelector<SVGElement>("[data-way]");
    this.#mouths = [...this.element.querySelectorAll<SVGElement>("[data-mouth]")];
    this.#parts = partsOf(chart.parts);
    this.#head = this.#parts.find((part) => part.name === HEAD);
    const elements = [...this.element.querySelectorAll<SVGElement>("[data-part]")];
    this.#pieces = chart.pieces.map(([part, drawing, , relief, view, turn], i) => ({ element: elements[i], part, drawing, relief: hangsOn(this.#parts, part, HEAD) ? relief : null, view: view ?? null, turn: turn ?? null, as: "" }));
    this.#slides = chart.pieces.some(([, , , relief]) => relief !== null) && !chart.pieces.some(([, , , , view]) => view);
    this.#moves = this.#pieces.some((piece) => piece.turn);
    this.#chart = chart;
    this.#place = chart.mouth;
    this.rows = new Map(chart.drawings.map((d, i) => [d.name, i]));
    this.pose({});
  }

  // How far the face reaches out of its picture as it is now, in pixels.
  #outside(): number {
    const picture = this.element.getBoundingClientRect();
    return Math.max(0, ...this.#pieces.filter((piece) => piece.as !== "hidden").map((piece) => outside(piece.element.getBoundingClientRect(), picture)));
  }

  // Whether what its parts do moves it out of its picture, where it is cut; what lies outside at rest is meant so.
  isCut(): boolean {
    if (!this.#acts) return false;
    if (Number.isNaN(this.#reach)) {
      const [poses, moment] = [this.#poses, this.#moment];
      this.pose({});
      this.#reach = this.#outside();
      this.pose(poses, moment);
    }
    return this.#outside() > this.#reach + CUT;
  }

  // bend: of a drawing that is stretched; others: those that are seen with it; onItsWay: it is becoming the one of them.
  show(name: string, bend: Bend | null = null, others: Beside = [], onItsWay = false): void {
    const key = [name, bend, others, onItsWay, this.#mouthsView].join();
    if (key === this.#shown) return;
    this.#shown = key;
    this.#asked = [name, bend, others, onItsWay];
    if (this.#onItsWay(name, bend, onItsWay ? others : [])) return;
    const [row, mirrored] = this.#inView(name);
    const shares = new Map(others.map(([one, share]) => [this.#inView(one)[0], share]));
    this.#mouths.forEach((mouth, i) => {
      const own = i === row;
      mouth.setAttribute("display", own || shares.has(i) ? "inline" : "none");
      mouth.setAttribute("opacity", own ? "1" : String(shares.get(i) ?? 0));
      const bent = own && bend ? ` skewX(${-bend[2]}) scale(${bend[0]} ${bend[1]})` : "";
      mouth.setAttribute("transform", `${this.#place}${bent}${mirrored ? " scale(-1 1)" : ""}`);
    });
  }

  // Show the picture of a frame, of a drawing that moves and is seen from the first on.
  play(name: string, frame: number, first: number): void {
    const row = this.#inView(name)[0] ?? -1;
    const moving = (this.#chart.drawings[row] as Drawing | undefined)?.moving;
    if (!moving) return;
    const now = String(pictureOn(moving.svgs.length + 1, moving.each, moving.once, frame, first));
    for (const one of this.#mouths[row].querySelectorAll<SVGElement>("[data-picture]")) one.setAttribute("display", one.dataset.picture === now ? "inline" : "none");
  }

  // Draw a mouth of ours between two places, where it is eased; no two are laid over each other then.
  #onItsWay(name: string, bend: Bend | null, others: Beside): boolean {
    const { style, drawings } = this.#chart;
    const [one, other] = [name, others[0]?.[0]].map((own) => drawings[this.rows.get(own ?? "") ?? -1] as Drawing | undefined);
    const drawn = Boolean(style && this.#way && !bend && others.length === 1 && one && other);
    this.#way?.setAttribute("display", drawn ? "inline" : "none");
    if (!drawn || !style || !this.#way || !one || !other) return false;
    ways += this.#ident ? 0 : 1;
    this.#ident ||= `way${ways}`;
    this.#way.innerHTML = styledMouth(placeBetween(one, other, others[0][1]), this.#ident, style);
    for (const mouth of this.#mouths) mouth.setAttribute("display", "none");
    return true;
  }

  // The row of what is seen of a drawing in the view that is shown, and whether as in a mirror.
  #inView(name: string): [number | undefined, boolean] {
    const row = this.rows.get(name);
    const [seen, mirrored] = (row === undefined ? undefined : this.#chart.drawings[row].views?.[this.#mouthsView]) ?? [name, false];
    return [this.rows.get(seen) ?? row, mirrored];
  }

  // What the parts do, by their names; those that are not named rest. Only what is another than before is touched.
  // moment: when that is, for what moves by itself.
  pose(poses: Poses, moment = START): void {
    if (!this.#moves && !this.#acts && !Object.keys(poses).length) return;
    this.#acts = Object.keys(poses).length > 0;
    this.#poses = poses;
    this.#moment = moment;
    const rests = new Map(this.#parts.map((part) => [part.name, part.rest]));
    const [placed, carried] = matricesAndCarried(this.#parts, poses);
    const dial = poses[HEAD]?.dials[FACING] ?? 0;
    this.#look((poses[HEAD]?.drawing ?? rests.get(HEAD)) || FRONT, dial);
    const facing = dial + (this.#chart.faces?.[this.#view] ?? 0);
    const drawn = this.#chart.drawn?.[this.#view] ?? this.#view;
    for (const piece of this.#pieces) {
      const drawing = piece.drawing === null || piece.drawing === (poses[piece.part]?.drawing ?? rests.get(piece.part) ?? "");
      const shown = drawing && (piece.view === null || piece.view === drawn) && inTurn(piece, moment);
      const at = shown ? this.#placed(piece, facing, placed, carried) : undefined;
      const as = at ? at.map((value) => Math.round(value * 1e4) / 1e4).join(" ") : "hidden";
      if (as === piece.as) continue;
      piece.as = as;
      if (at) {
        piece.element.setAttribute("transform", `matrix(${as})`);
        piece.element.removeAttribute("display");
      } else piece.element.setAttribute("display", "none");
    }
  }

  // Show another view of the face, with the mouth of the moment as it is drawn there.
  #look(view: string, dial: number) {
    const mouths = this.#slides ? mouthsView(view, dial, this.#chart.faces ?? {}) : view;
    if (view === this.#view && mouths === this.#mouthsView) return;
    this.#view = view;
    this.#mouthsView = mouths;
    if (this.#asked) this.show(...this.#asked);
  }

  // Where a piece is drawn; nowhere where it is on the far side of the head.
  #placed({ part, relief }: Piece, facing: number, placed: Record<string, Matrix>, carried: Record<string, Matrix>): Matrix | undefined {
    let own = placed[part] ?? AT_REST;
    const lies = part === MOUTH && this.#head ? this.#chart.lies?.[this.#view] : undefined;
    if (lies) own = times(times(times(carried[HEAD], lies), inverse(carried[HEAD])), own);
    if (!relief || !this.#head) return own;
    const at = onHead(relief, this.#head.x, facing, part === HEAD ? placed[HEAD] : carried[HEAD], own);
    return at[0] || at[1] ? at : undefined;
  }
}
