// The picture: everybody as they are seen on a frame, or as a version had them; and what is drawn over it.
import { DrawnFace } from "../lib/face/drawnface.ts";
import { GroupMirror } from "../lib/face/mirror.ts";
import type { Poses } from "../lib/store/actedlane.ts";
import { blendOn } from "../lib/store/easing.ts";
import { placeAt } from "../lib/store/exposures.ts";
import type { Store } from "../lib/store/store.ts";
import type { FaceDocument, Shown, Stave } from "../lib/types.ts";
import type { Changed, Note } from "../lib/review.ts";

const SVG = "http://www.w3.org/2000/svg";

export interface Watched {
  number: number;
  roles: { name: string; chart: FaceDocument; exposures: Shown[]; eases: Stave["eases"]; poses: Poses[] }[];
  changes: Changed[];
}

export class Stage {
  readonly #now: GroupMirror;
  readonly #store: Store;
  readonly #over: SVGSVGElement;
  readonly #before: HTMLElement;
  #version: Watched | null = null;
  #faces: DrawnFace[] = [];

  constructor(now: HTMLElement, before: HTMLElement, over: SVGSVGElement, store: Store) {
    this.#now = new GroupMirror(now);
    this.#store = store;
    this.#over = over;
    this.#before = before;
    this.renew();
  }

  // The drawings may be others.
  renew(): void {
    this.#now.show(this.#store.staves);
  }

  get version(): Watched | null {
    return this.#version;
  }

  // Show a version, beside the shot as it is or in its place; null: none.
  compare(version: Watched | null): void {
    this.#version = version;
    this.#faces = (version?.roles ?? []).map((role) => new DrawnFace(role.chart));
    this.#before.replaceChildren(...this.#faces.map((face) => face.element));
  }

  frame(frame: number): void {
    const store = this.#store;
    this.#now.frame(frame, store.staves, (stave) => store.poses(stave.characterId, frame));
    this.#version?.roles.forEach(({ exposures, eases, poses }, at) => {
      const place = placeAt(exposures, frame);
      const own = exposures[place] ?? exposures.at(-1);
      const blend = blendOn(exposures, place, frame, eases);
      if (own) this.#faces[at].show(own.drawing, null, blend ? [[blend[0].drawing, blend[1]]] : []);
      this.#faces[at].pose(poses[Math.min(frame, poses.length - 1)] ?? {});
    });
  }

  // What is drawn of notes over the picture, in shares of its width and height.
  mark(notes: readonly Pick<Note, "place" | "line">[]): void {
    this.#over.replaceChildren(...notes.flatMap(({ place, line }) => [...(line.length > 1 ? [drawn("polyline", { points: line.map(([x, y]) => `${x * 100},${y * 100}`).join(" ") })] : []), ...(place ? [drawn("ellipse", { cx: place[0] * 100, cy: place[1] * 100, rx: 0.9, ry: 1.6 })] : [])]));
  }
}

function drawn(name: string, values: Record<string, string | number>): SVGElement {
  const made = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(values)) made.setAttribute(key, String(value));
  return made;
}
