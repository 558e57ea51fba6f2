// The mirror: a character's face with the mouth of the moment, and the mouths before and after it.
const SVG = "http://www.w3.org/2000/svg";
const MOUTH_VIEW = "-72 -32 144 104";

// Markup from our own server, put into a new SVG element.
function svg(viewBox, markup) {
  const element = document.createElementNS(SVG, "svg");
  element.setAttribute("viewBox", viewBox);
  element.innerHTML = markup;
  return element;
}

// The ids in a drawing's markup must stay unique on the page, so every copy gets its own.
let copies = 0;
export function mouthPicture(drawing) {
  copies += 1;
  return svg(MOUTH_VIEW, drawing.svg.replaceAll(/(id="|url\(#)([^")]+)/g, `$1c${copies}-$2`));
}

export class Mirror {
  constructor(place, neighbours) {
    this.place = place;
    this.neighbours = neighbours;
  }

  show(stave) {
    this.stave = stave;
    const chart = stave.chart;
    const mouths = chart.drawings.map((d, i) => `<g data-mouth="${i}" display="none" transform="${chart.mouth}">${d.svg}</g>`);
    const face = svg(chart.view.join(" "), chart.head + mouths.join("") + chart.front);
    face.setAttribute("role", "img");
    face.setAttribute("aria-label", `${stave.character}'s face`);
    this.mouths = [...face.querySelectorAll("[data-mouth]")];
    this.rows = new Map(chart.drawings.map((d, i) => [d.name, i]));
    this.shown = null;
    this.place.replaceChildren(face);
    this.neighbours.replaceChildren();
    this.trio = null;
  }

  // Show the mouth of a frame; index is the exposure's number, -1 where there is none.
  frame(frame, index) {
    const exposures = this.stave.exposures;
    const name = index < 0 ? (exposures.at(-1)?.drawing ?? this.stave.chart.drawings[0].name) : exposures[index].drawing;
    if (name !== this.shown) {
      this.mouths.forEach((mouth, i) => mouth.setAttribute("display", i === this.rows.get(name) ? "inline" : "none"));
      this.shown = name;
      this.place.dataset.drawing = name;
    }
    if (index >= 0) this.#neighbours(frame, index);
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
    name.textContent = exposure.drawing;
    const count = document.createElement("div");
    count.className = "mono quiet";
    count.textContent = when === "before" ? "before" : "";
    cell.append(mouthPicture(this.stave.chart.drawings[this.rows.get(exposure.drawing)]), name, count);
    return cell;
  }
}
