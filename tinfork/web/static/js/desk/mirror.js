// The mirror: a character's face with the mouth of the moment, and the mouths before and after it.
import { DrawnFace, svg } from "../lib/drawnface.js";
import { blendOn } from "../lib/easing.js";
import { placeAt } from "./selection.js";

const MOUTH_VIEW = "-72 -32 144 104";

// The ids in a drawing's markup must stay unique on the page, so every copy gets its own.
let copies = 0;
export function mouthPicture(drawing) {
  copies += 1;
  return svg(MOUTH_VIEW, drawing.svg.replaceAll(/(id="|url\(#)([^")]+)/g, `$1c${copies}-$2`));
}

const GHOST = 0.25;
const ghostsOf = (exposures, index) => [exposures[index - 1]?.drawing, exposures[index + 1]?.drawing].filter(Boolean).map((name) => [name, GHOST]);

function eased(stave, index, frame) {
  const found = blendOn(stave.exposures, index, frame, stave.eases);
  return found ? [[found[0].drawing, found[1]]] : [];
}

export class Mirror {
  constructor(place, neighbours) {
    this.place = place;
    this.neighbours = neighbours;
  }

  show(stave) {
    this.stave = stave;
    this.face = new DrawnFace(stave.chart);
    this.face.element.setAttribute("role", "img");
    this.face.element.setAttribute("aria-label", `${stave.character}'s face`);
    this.shown = null;
    this.place.replaceChildren(this.face.element);
    this.neighbours?.replaceChildren();
    this.trio = null;
  }

  // Show the mouth of a frame; index is the exposure's number, -1 where there is none.
  frame(frame, index, onion = false) {
    const exposures = this.stave.exposures;
    const name = index < 0 ? (exposures.at(-1)?.drawing ?? this.stave.chart.drawings[0].name) : exposures[index].drawing;
    const bend = exposures[index]?.bend ?? null;
    const others = onion ? ghostsOf(exposures, index) : eased(this.stave, index, frame);
    const key = [name, bend, ...others].join();
    if (key !== this.shown) {
      this.face.show(name, bend, others);
      this.shown = key;
      this.place.dataset.drawing = name;
    }
    if (index >= 0 && this.neighbours) this.#neighbours(frame, index);
  }

  // Show at once what was asked for; what the server says is shown when it comes.
  expect(drawing) {
    this.face.show(drawing);
    this.shown = null;
    this.place.dataset.drawing = drawing;
  }

  // Show what would be seen on a frame if the exposures were others.
  preview(exposures, frame) {
    const found = exposures[placeAt(exposures, frame)];
    if (!found || found.drawing === this.shown) return;
    this.face.show(found.drawing, found.bend ?? null);
    this.shown = found.drawing;
    this.place.dataset.drawing = found.drawing;
  }

  #neighbours(frame, index) {
    const around = [index - 1, index, index + 1].map((i) => this.stave.exposures[i]);
    const trio = around.map((e) => e?.drawing).join();
    if (trio !== this.trio) {
      this.trio = trio;
      this.neighbours.replaceChildren(...around.map((e, i) => this.#cell(e, ["before", "now", "next"][i])));
    }
    const now = around[1];
    this.neighbours.querySelector(".now .mono").textContent = `${frame - now.frame + 1} of ${now.frames}`;
    const next = this.neighbours.querySelector(".next .mono");
    if (next) next.textContent = `in ${now.frame + now.frames - frame}`;
  }

  #cell(exposure, when) {
    const cell = document.createElement("div");
    cell.className = when;
    if (!exposure) return cell;
    const name = document.createElement("div");
    const drawing = this.stave.chart.drawings[this.face.rows.get(exposure.drawing)];
    name.textContent = (drawing?.lent && drawing.label) || exposure.drawing || "nothing";
    const count = document.createElement("div");
    count.className = "mono quiet";
    count.textContent = when === "before" ? "before" : "";
    cell.append(drawing ? mouthPicture(drawing) : svg(MOUTH_VIEW, ""), name, count);
    return cell;
  }
}

// All characters of a scene side by side.
export class GroupMirror {
  constructor(place) {
    this.place = place;
    this.faces = [];
  }

  show(staves) {
    this.faces = staves.map((stave) => ({ id: stave.id, face: new DrawnFace(stave.chart) }));
    this.place.replaceChildren(...this.faces.map(({ face }) => face.element));
  }

  // staves: as they are now; posesOf(stave): what the parts of a face do.
  frame(frame, staves, posesOf = (_stave) => undefined) {
    for (const { id, face } of this.faces) {
      const stave = staves.find((one) => one.id === id);
      const place = placeAt(stave.exposures, frame);
      const found = stave.exposures[place];
      if (found) face.show(found.drawing, found.bend ?? null, eased(stave, place, frame));
      face.pose(posesOf(stave) ?? {});
    }
  }
}
