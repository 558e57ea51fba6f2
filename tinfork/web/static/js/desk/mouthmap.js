// The mouth map: a chart laid out by how the mouths look. Closed to open goes down, spread to rounded goes right.
import { mouthPicture } from "./mirror.js";

const BANDS = [0.12, 0.32, 2];

function rows(drawings) {
  const bands = BANDS.map(() => []);
  for (const drawing of drawings) bands[BANDS.findIndex((top) => drawing.jaw < top)].push(drawing);
  for (const band of bands) band.sort((a, b) => a.rounding - a.width - (b.rounding - b.width));
  return bands.filter((band) => band.length);
}

export class MouthMap {
  constructor(place, onPick) {
    this.place = place;
    this.onPick = onPick;
  }

  // The drawings of the chart in one mood: the one that is worn, until another is chosen.
  show(chart) {
    const moods = [...new Set(chart.drawings.map((drawing) => drawing.mood))];
    if (this.worn !== chart.mood || !moods.includes(this.mood)) this.mood = moods.includes(chart.mood) ? chart.mood : moods[0];
    this.worn = chart.mood;
    this.drawings = chart.drawings.filter((drawing) => drawing.mood === this.mood);
    this.rows = rows(this.drawings);
    this.place.replaceChildren(
      ...(moods.length > 1 ? [this.#moods(chart, moods)] : []),
      ...this.rows.map((band) => {
        const row = document.createElement("div");
        row.className = "map-row";
        row.append(...band.map((drawing) => this.#button(drawing)));
        return row;
      }),
    );
  }

  #moods(chart, moods) {
    const select = document.createElement("select");
    select.className = "form-select form-select-sm map-moods";
    select.setAttribute("aria-label", "Mood of the drawings to choose from");
    select.append(...moods.map((mood) => new Option(mood, mood, mood === this.mood, mood === this.mood)));
    select.addEventListener("change", () => {
      this.mood = select.value;
      this.show(chart);
      this.mark(...this.marked);
    });
    return select;
  }

  #button(drawing) {
    const button = document.createElement("button");
    button.type = "button";
    button.dataset.drawing = drawing.name;
    button.title = `${drawing.name}: ${drawing.meaning}`;
    const label = document.createElement("span");
    label.textContent = drawing.label;
    const number = document.createElement("kbd");
    button.append(mouthPicture(drawing), number, label);
    button.addEventListener("click", () => this.onPick(drawing.name));
    button.draggable = true;
    button.addEventListener("dragstart", (event) => event.dataTransfer.setData("text/x-drawing", drawing.name));
    return button;
  }

  // likely: the drawings, the likeliest first; the first nine have a key.
  mark(name, enabled, likely = []) {
    this.marked = [name, enabled, likely];
    const numbers = new Map(likely.slice(0, 9).map((drawing, i) => [drawing.name, String(i + 1)]));
    for (const button of this.place.querySelectorAll("button")) {
      button.querySelector("kbd").textContent = numbers.get(button.dataset.drawing) ?? "";
      button.setAttribute("aria-pressed", String(button.dataset.drawing === name));
      button.disabled = !enabled;
    }
  }

  // The drawing next to one on the map: "ArrowUp" more closed, "ArrowDown" more open, left wider, right rounder.
  beside(name, key) {
    const y = this.rows.findIndex((band) => band.some((d) => d.name === name));
    const x = this.rows[y]?.findIndex((d) => d.name === name);
    if (x === undefined || x < 0) return null;
    if (key === "ArrowLeft") return this.rows[y][x - 1]?.name;
    if (key === "ArrowRight") return this.rows[y][x + 1]?.name;
    const band = this.rows[y + (key === "ArrowDown" ? 1 : -1)];
    if (!band) return null;
    const share = this.rows[y].length > 1 ? x / (this.rows[y].length - 1) : 0.5;
    return band[Math.round(share * (band.length - 1))].name;
  }
}
