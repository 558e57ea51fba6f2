// The mouth map: a chart laid out by how the mouths look. Closed to open goes down, spread to rounded goes right.
import { mouthPicture } from "../lib/face/mirror.ts";
import { element } from "../lib/page.ts";
import type { ChartDocument, Drawing } from "../lib/facetypes.ts";

// How far the jaw is open, at most, in each row.
const BANDS = [0.12, 0.32, 2];

function rows(drawings: readonly Drawing[]): Drawing[][] {
  const bands: Drawing[][] = BANDS.map(() => []);
  for (const drawing of drawings) bands[BANDS.findIndex((top) => drawing.jaw < top)].push(drawing);
  for (const band of bands) band.sort((a, b) => a.rounding - a.width - (b.rounding - b.width));
  return bands.filter((band) => band.length);
}

interface Marked {
  name: string | undefined;
  enabled: boolean;
  likeliest: string | undefined;
}

const NEUTRAL = "neutral";
const KEYS = "123456789";

// The keys of drawings, by name: their own, or that of the neutral drawing of the same name; of the others the first
// have the digits that are left, which stay with them as long as the chart is the same.
export function keysOf(drawings: readonly Drawing[], all: readonly Drawing[]): Map<string, string> {
  const neutral = new Map(all.filter((one) => one.mood === NEUTRAL).map((one) => [one.label, one.key]));
  const own = new Map<string, string>();
  for (const given of [drawings.map((one) => one.key), drawings.map((one) => neutral.get(one.label) ?? "")]) {
    drawings.forEach(({ name }, at) => given[at] && !own.has(name) && ![...own.values()].includes(given[at]) && own.set(name, given[at]));
  }
  const left = [...KEYS].filter((key) => ![...own.values()].includes(key));
  for (const { name } of drawings.filter((one) => !own.has(one.name)).slice(0, left.length)) own.set(name, left.shift() ?? "");
  return own;
}

export class MouthMap {
  readonly place: HTMLElement;
  readonly pick: (drawing: string) => unknown;
  drawings: Drawing[] = [];
  #rows: Drawing[][] = [];
  #keys = new Map<string, string>();
  #worn = "";
  #mood = "";
  #marked: Marked = { name: undefined, enabled: false, likeliest: undefined };

  constructor(place: HTMLElement, pick: (drawing: string) => unknown) {
    this.place = place;
    this.pick = pick;
  }

  // The drawings of the chart in one mood: the one that is worn, until another is chosen.
  show(chart: ChartDocument): void {
    const moods = [...new Set(chart.drawings.map((drawing) => drawing.mood))];
    if (this.#worn !== chart.mood || !moods.includes(this.#mood)) this.#mood = moods.includes(chart.mood) ? chart.mood : moods[0];
    this.#worn = chart.mood;
    this.drawings = chart.drawings.filter((drawing) => drawing.mood === this.#mood);
    this.#rows = rows(this.drawings);
    this.#keys = keysOf(this.#rows.flat(), chart.drawings);
    this.place.replaceChildren(...(moods.length > 1 ? [this.#moods(chart, moods)] : []), ...this.#rows.map((band) => this.#row(band)));
  }

  #row(band: readonly Drawing[]): HTMLElement {
    const row = element("div", { className: "map-row" });
    row.append(...band.map((drawing) => this.#button(drawing)));
    return row;
  }

  #moods(chart: ChartDocument, moods: readonly string[]): HTMLElement {
    const select = element("select", { className: "form-select form-select-sm map-moods" });
    select.setAttribute("aria-label", "Mood of the drawings to choose from");
    select.append(...moods.map((mood) => new Option(mood, mood, mood === this.#mood, mood === this.#mood)));
    select.addEventListener("change", () => {
      this.#mood = select.value;
      this.show(chart);
      this.mark(this.#marked);
    });
    return select;
  }

  #button(drawing: Drawing): HTMLElement {
    const button = element("button", { type: "button", title: `${drawing.name}: ${drawing.meaning}`, draggable: true });
    button.dataset.drawing = drawing.name;
    button.append(mouthPicture(drawing), element("kbd", { textContent: this.#keys.get(drawing.name)?.toUpperCase() ?? "" }), element("span", { textContent: drawing.label }), element("small", { textContent: drawing.letters }));
    button.addEventListener("click", () => this.pick(drawing.name));
    button.addEventListener("dragstart", (event) => event.dataTransfer?.setData("text/x-drawing", drawing.name));
    return button;
  }

  // The name of the drawing that has a key.
  byKey(key: string): string | undefined {
    return [...this.#keys].find(([, own]) => own === key)?.[0];
  }

  // Which is shown, and which is the likeliest for what is judged.
  mark(marked: Marked): void {
    this.#marked = marked;
    const { name, enabled, likeliest } = marked;
    for (const button of this.place.querySelectorAll("button")) {
      button.classList.toggle("likeliest", button.dataset.drawing === likeliest);
      button.setAttribute("aria-pressed", String(button.dataset.drawing === name));
      button.disabled = !enabled;
    }
  }

  // The drawing next to one on the map: "ArrowUp" more closed, "ArrowDown" more open, left wider, right rounder.
  beside(name: string, key: string): string | undefined {
    const y = this.#rows.findIndex((band) => band.some((d) => d.name === name));
    if (y < 0) return undefined;
    const own = this.#rows[y];
    const x = own.findIndex((d) => d.name === name);
    if (key === "ArrowLeft") return own[x - 1]?.name;
    if (key === "ArrowRight") return own[x + 1]?.name;
    const band = this.#rows[y + (key === "ArrowDown" ? 1 : -1)];
    const share = own.length > 1 ? x / (own.length - 1) : 0.5;
    return band?.[Math.round(share * (band.length - 1))].name;
  }
}
