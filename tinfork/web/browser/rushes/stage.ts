// The picture: everybody as they are seen on a frame, or as a version had them; and what is drawn over it.
import { GroupMirror } from "../lib/face/mirror.ts";
import type { Changed, Note } from "../lib/review.ts";
import type { Store } from "../lib/store/store.ts";
import { WatchedCast, type WatchedRole } from "./cast.ts";

const SVG = "http://www.w3.org/2000/svg";

export interface Watched {
  number: number;
  roles: WatchedRole[];
  changes: Changed[];
}

export class Stage {
  readonly #now: GroupMirror;
  readonly #store: Store;
  readonly #over: SVGSVGElement;
  readonly #before: HTMLElement;
  #version: Watched | null = null;
  #cast: WatchedCast | null = null;

  // The version that is watched in place of the shot as it is.
  #shown: WatchedCast | null = null;

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

  // Watch a version in place of the shot as it is; null: the shot again.
  watch(version: Watched | null): void {
    this.#shown = version && new WatchedCast(version.roles);
    if (this.#shown) this.#now.place.replaceChildren(...this.#shown.elements);
    else this.renew();
  }

  // Show a version beside what is watched; null: none.
  compare(version: Watched | null): void {
    this.#version = version;
    this.#cast = version && new WatchedCast(version.roles);
    this.#before.replaceChildren(...(this.#cast?.elements ?? []));
  }

  frame(frame: number): void {
    const store = this.#store;
    if (this.#shown) this.#shown.frame(frame);
    else this.#now.frame(frame, store.staves, (stave) => store.posed(stave.characterId, frame));
    this.#cast?.frame(frame);
  }

  mark(notes: Marked): void {
    drawNotes(this.#over, notes);
  }
}

type Marked = readonly Pick<Note, "place" | "line">[];

// What is drawn of notes over a picture, in shares of its width and height.
export function drawNotes(over: SVGSVGElement, notes: Marked): void {
  over.replaceChildren(...notes.flatMap(({ place, line }) => [...(line.length > 1 ? [drawn("polyline", { points: line.map(([x, y]) => `${x * 100},${y * 100}`).join(" ") })] : []), ...(place ? [drawn("ellipse", { cx: place[0] * 100, cy: place[1] * 100, rx: 0.9, ry: 1.6 })] : [])]));
}

function drawn(name: string, values: Record<string, string | number>): SVGElement {
  const made = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(values)) made.setAttribute(key, String(value));
  return made;
}
