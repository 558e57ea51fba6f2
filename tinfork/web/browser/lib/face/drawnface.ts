// A character's face with all of their mouths in it, of which one is shown, and its parts where they are.
import type { Poses } from "../store/actedlane.ts";
import type { Bend, FaceDocument, Relief } from "../types.ts";
import { hangsOn, type Matrix, matricesAndCarried, type Part, partsOf } from "./matrices.ts";
import { FACING, onHead } from "./turning.ts";

const SVG = "http://www.w3.org/2000/svg";
const MOUTH = "mouth";
const HEAD = "head";
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

interface Piece {
  element: SVGElement;
  part: string;
  drawing: string | null;
  relief: Relief | null;
  as: string;
}

// Of a drawing and others that are seen with it: their shares.
export type Beside = readonly (readonly [string, number])[];

export class DrawnFace {
  readonly element: SVGSVGElement;
  readonly rows: Map<string, number>;
  readonly #parts: Part[];
  readonly #head: Part | undefined;
  readonly #mouths: SVGElement[];
  readonly #pieces: Piece[];
  readonly #place: string;
  #shown: string | null = null;
  #acts = true;
  #reach = Number.NaN;
  #poses: Poses = {};

  constructor(chart: FaceDocument) {
    const mouths = chart.drawings.map((d, i) => `<g data-mouth="${i}" display="none" transform="${chart.mouth}">${d.svg}</g>`).join("");
    const pieces = chart.pieces.map(([part, drawing, markup]) => {
      const shown = drawing === null ? "" : ` data-drawing="${escaped(drawing)}"`;
      return `<g data-part="${escaped(part)}"${shown}>${part === MOUTH && drawing === null && !markup ? mouths : markup}</g>`;
    });
    this.element = svg(chart.view.join(" "), pieces.join(""));
    this.#mouths = [...this.element.querySelectorAll<SVGElement>("[data-mouth]")];
    this.#parts = partsOf(chart.parts);
    this.#head = this.#parts.find((part) => part.name === HEAD);
    const elements = [...this.element.querySelectorAll<SVGElement>("[data-part]")];
    this.#pieces = chart.pieces.map(([part, drawing, , relief], i) => ({ element: elements[i], part, drawing, relief: hangsOn(this.#parts, part, HEAD) ? relief : null, as: "" }));
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
      const poses = this.#poses;
      this.pose({});
      this.#reach = this.#outside();
      this.pose(poses);
    }
    return this.#outside() > this.#reach + CUT;
  }

  // bend: of a drawing that is stretched; others: those that are seen with it.
  show(name: string, bend: Bend | null = null, others: Beside = []): void {
    const key = [name, bend, others].join();
    if (key === this.#shown) return;
    this.#shown = key;
    const shares = new Map(others.map(([one, share]) => [this.rows.get(one), share]));
    this.#mouths.forEach((mouth, i) => {
      const own = i === this.rows.get(name);
      mouth.setAttribute("display", own || shares.has(i) ? "inline" : "none");
      mouth.setAttribute("opacity", own ? "1" : String(shares.get(i) ?? 0));
      mouth.setAttribute("transform", own && bend ? `${this.#place} skewX(${-bend[2]}) scale(${bend[0]} ${bend[1]})` : this.#place);
    });
  }

  // What the parts do, by their names; those that are not named rest. Only what is another than before is touched.
  pose(poses: Poses): void {
    if (!this.#acts && !Object.keys(poses).length) return;
    this.#acts = Object.keys(poses).length > 0;
    this.#poses = poses;
    const [placed, carried] = matricesAndCarried(this.#parts, poses);
    const facing = poses[HEAD]?.dials[FACING] ?? 0;
    const rests = new Map(this.#parts.map((part) => [part.name, part.rest]));
    for (const piece of this.#pieces) {
      const shown = piece.drawing === null || piece.drawing === (poses[piece.part]?.drawing ?? rests.get(piece.part) ?? "");
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

  // Where a piece is drawn; nowhere where it is on the far side of the head.
  #placed({ part, relief }: Piece, facing: number, placed: Record<string, Matrix>, carried: Record<string, Matrix>): Matrix | undefined {
    const own = placed[part] ?? AT_REST;
    if (!relief || !this.#head) return own;
    const at = onHead(relief, this.#head.x, facing, part === HEAD ? placed[HEAD] : carried[HEAD], own);
    return at[0] || at[1] ? at : undefined;
  }
}
