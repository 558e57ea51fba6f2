// Everybody of a shot as the server sends them whole: a version of it, or a shot that is watched among others.
import { DrawnFace } from "../lib/face/drawnface.ts";
import type { Poses } from "../lib/store/actedlane.ts";
import { blendOn } from "../lib/store/easing.ts";
import { placeAt } from "../lib/store/exposures.ts";
import type { FaceDocument, PieceRow } from "../lib/facetypes.ts";
import type { Shown, Stave } from "../lib/types.ts";

export interface WatchedRole {
  name: string;
  chart: FaceDocument;
  exposures: Shown[];
  eases: Stave["eases"];
  poses: Poses[];
}

// Ids in markup must be unique on the page, so every face has its own.
let copies = 0;
function ownIds(markup: string): string {
  return markup.replaceAll(/(id="|url\(#|href="#)([^")]+)/g, `$1w${copies}-$2`);
}

function faceOf({ name, chart }: WatchedRole): DrawnFace {
  copies += 1;
  const drawings = chart.drawings.map((drawing) => ({ ...drawing, svg: ownIds(drawing.svg) }));
  const pieces = chart.pieces.map(([part, drawing, markup, ...more]): PieceRow => [part, drawing, ownIds(markup), ...more]);
  const face = new DrawnFace({ ...chart, drawings, pieces });
  face.element.setAttribute("role", "img");
  face.element.setAttribute("aria-label", `${name}'s face`);
  return face;
}

export class WatchedCast {
  readonly #roles: readonly WatchedRole[];
  readonly #faces: readonly DrawnFace[];

  constructor(roles: readonly WatchedRole[]) {
    this.#roles = roles;
    this.#faces = roles.map(faceOf);
  }

  get elements(): SVGSVGElement[] {
    return this.#faces.map((face) => face.element);
  }

  frame(frame: number): void {
    this.#roles.forEach(({ exposures, eases, poses }, at) => {
      const place = placeAt(exposures, frame);
      const own = exposures[place] ?? exposures.at(-1);
      const blend = blendOn(exposures, place, frame, eases);
      if (own) this.#faces[at].show(own.drawing, null, blend ? [[blend[0].drawing, blend[1]]] : []);
      this.#faces[at].pose(poses[Math.min(frame, poses.length - 1)] ?? {}, { frame, drawing: (part, n) => poses[n]?.[part]?.drawing ?? null });
    });
  }
}
