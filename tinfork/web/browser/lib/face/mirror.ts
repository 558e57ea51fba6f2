// The mirror: a character's face with the mouth of the moment, and the mouths before and after it.
import { element, inside } from "../page.ts";
import type { Moment, Poses } from "../store/actedlane.ts";
import { betweenOn } from "../store/betweens.ts";
import { blendOn } from "../store/easing.ts";
import { placeAt, shownAt } from "../store/exposures.ts";
import type { Drawing } from "../facetypes.ts";
import type { Exposure, Shown, Stave } from "../types.ts";
import { type Beside, DrawnFace, svg } from "./drawnface.ts";

const MOUTH_VIEW = "-72 -32 144 104";

// The ids in a drawing's markup must stay unique on the page, so every copy gets its own.
let copies = 0;
export function mouthPicture(drawing: Pick<Drawing, "svg">): SVGSVGElement {
  copies += 1;
  return svg(MOUTH_VIEW, drawing.svg.replaceAll(/(id="|url\(#)([^")]+)/g, `$1c${copies}-$2`));
}

const GHOST = 0.25;
const ghostsOf = (exposures: readonly Exposure[], place: number): Beside =>
  [exposures[place - 1]?.drawing, exposures[place + 1]?.drawing].filter((name) => Boolean(name)).map((name) => [name ?? "", GHOST]);

// What is seen with the drawing of a frame where its seam is eased. A shut mouth of ours is whole on all of its frames.
function eased({ exposures, eases, chart }: Stave, place: number, frame: number): Beside {
  const found = blendOn(exposures, place, frame, eases);
  if (!found || (chart.style && chart.drawings.find(({ name }) => name === exposures[place].drawing)?.shut)) return [];
  return [[found[0].drawing, found[1]]];
}

export class Mirror {
  readonly place: HTMLElement;
  readonly neighbours: HTMLElement | null;
  stave: Stave;
  face: DrawnFace;
  #shown: string | null = null;
  #trio: string | null = null;

  constructor(place: HTMLElement, neighbours: HTMLElement | null, stave: Stave) {
    this.place = place;
    this.neighbours = neighbours;
    this.stave = stave;
    this.face = this.show(stave);
  }

  // Show another character, or other drawings.
  show(stave: Stave): DrawnFace {
    this.stave = stave;
    this.face = new DrawnFace(stave.chart);
    this.face.element.setAttribute("role", "img");
    this.face.element.setAttribute("aria-label", `${stave.character}'s face`);
    this.place.replaceChildren(this.face.element);
    this.neighbours?.replaceChildren();
    this.again();
    this.#trio = null;
    return this.face;
  }

  // What is shown next is shown anew, whatever is thought to be there.
  again(): void {
    this.#shown = null;
  }

  // Show the mouth of a frame; onion: with those before and after it, faintly.
  frame(frame: number, onion = false): void {
    const { exposures, chart } = this.stave;
    const place = placeAt(exposures, frame);
    const own = exposures[place];
    const between = onion ? null : betweenOn(exposures, place, frame, this.stave.eases, chart.drawings);
    const name = between ?? own?.drawing ?? exposures.at(-1)?.drawing ?? chart.drawings[0].name;
    const bend = own?.bend ?? null;
    const others = onion ? ghostsOf(exposures, place) : eased(this.stave, place, frame);
    const key = [name, bend, ...others].join();
    if (key !== this.#shown) {
      this.face.show(name, bend, others, !onion);
      this.#shown = key;
      this.place.dataset.drawing = name;
    }
    this.face.play(name, frame, own?.frame ?? frame);
    if (own && this.neighbours) this.#beside(this.neighbours, frame, place);
  }

  // Show at once what was asked for; what the server says is shown when it comes.
  expect(drawing: string): void {
    this.face.show(drawing);
    this.again();
    this.place.dataset.drawing = drawing;
  }

  // Show what would be seen on a frame if the exposures were others.
  preview(exposures: readonly Shown[], frame: number): void {
    const found = shownAt(exposures, frame);
    if (!found || found.drawing === this.#shown) return;
    this.face.show(found.drawing, found.bend ?? null);
    this.#shown = found.drawing;
    this.place.dataset.drawing = found.drawing;
  }

  #beside(neighbours: HTMLElement, frame: number, place: number) {
    const around = [place - 1, place, place + 1].map((i): Exposure | undefined => this.stave.exposures[i]);
    const trio = around.map((e) => e?.drawing).join();
    if (trio !== this.#trio) {
      this.#trio = trio;
      neighbours.replaceChildren(...around.map((e, i) => this.#cell(e, ["before", "now", "next"][i])));
    }
    const now = this.stave.exposures[place];
    inside(neighbours, ".now .mono").textContent = `${frame - now.frame + 1} of ${now.frames}`;
    const next = neighbours.querySelector(".next .mono");
    if (next) next.textContent = `in ${now.frame + now.frames - frame}`;
  }

  #cell(exposure: Exposure | undefined, when: string): HTMLElement {
    const cell = element("div", { className: when });
    if (!exposure) return cell;
    const drawing = this.stave.chart.drawings[this.face.rows.get(exposure.drawing) ?? -1] as Drawing | undefined;
    const textContent = (drawing?.lent && drawing.label) || exposure.drawing || "nothing";
    const count = element("div", { className: "mono quiet", textContent: when === "before" ? "before" : "" });
    cell.append(drawing ? mouthPicture(drawing) : svg(MOUTH_VIEW, ""), element("div", { textContent }), count);
    return cell;
  }
}

// All characters of a scene side by side.
export class GroupMirror {
  readonly place: HTMLElement;
  faces: { id: number; face: DrawnFace }[] = [];

  constructor(place: HTMLElement) {
    this.place = place;
  }

  show(staves: readonly Stave[]): void {
    this.faces = staves.map((stave) => ({ id: stave.id, face: new DrawnFace(stave.chart) }));
    this.place.replaceChildren(...this.faces.map(({ face }) => face.element));
  }

  // staves: as they are now; posesOf(stave): what the parts of a face do.
  frame(frame: number, staves: readonly Stave[], posesOf: (stave: Stave) => readonly [Poses, Moment]): void {
    for (const { id, face } of this.faces) {
      const stave = staves.find((one) => one.id === id);
      if (!stave) continue;
      const place = placeAt(stave.exposures, frame);
      const found = stave.exposures[place];
      if (found) face.show(betweenOn(stave.exposures, place, frame, stave.eases, stave.chart.drawings) ?? found.drawing, found.bend ?? null, eased(stave, place, frame), true);
      if (found) face.play(found.drawing, frame, found.frame);
      face.pose(...posesOf(stave));
    }
  }
}
