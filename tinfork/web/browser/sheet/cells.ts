// The cells of the exposure sheet, and the rows they stand in.
import { mouthPicture } from "../lib/face/mirror.ts";
import { element } from "../lib/page.ts";
import type { HeardClip } from "../lib/time/player.ts";
import { extremes, levelFor, type Levels, PEAK_RATE } from "../lib/time/peaks.ts";
import type { Exposure, Stave } from "../lib/types.ts";
import { type Begun, counted, sceneTimecode } from "./rows.ts";

export const HEIGHT = 24;
const MOST_NOTE = 400;
const FULL = 127; // of a peak

// The columns: "frame", "timecode", "sound", "ipa", "acting", "notes", and "words 0", "drawing 0" and so on for staves.
export type Column = string;

export interface Shown extends Begun {
  acting: Map<number, string>;
  starts: Map<number, Exposure>[];
}

// What the cells show. step: frames of a row; start: the scene's first frame number.
export interface CellsOf {
  fps: number;
  start: number;
  step: number;
  staves: readonly Stave[];
  made: Shown;
  notes: Record<string, string>;
  peaks: { clip: HeardClip; levels: Levels }[];
  editable(column: Column): boolean;
  write(frame: number, text: string): void;
}

const classOf = (column: Column) => column.split(" ")[0];
export const staveNumber = (column: Column): number => Number(column.split(" ")[1]);
const isWords = (column: Column): boolean => column.startsWith("words ");
export const isDrawing = (column: Column): boolean => column.startsWith("drawing ");

export function rowOf(of: CellsOf, row: number, columns: readonly Column[], key: string): HTMLElement {
  const found = element("div", { className: `sheet-row${of.made.lines.has(row) ? " sheet-line" : ""}${beginsSecond(of, row) ? " sheet-second" : ""}` });
  found.setAttribute("role", "row");
  found.setAttribute("aria-rowindex", String(row + 1));
  Object.assign(found.dataset, { key, row: String(row) });
  found.style.top = `${row * HEIGHT}px`;
  found.append(...columns.map((column) => cell(of, column, row)));
  return found;
}

function beginsSecond({ fps, step, start }: CellsOf, row: number): boolean {
  const nominal = Math.ceil(fps - 1e-9);
  return Array.from({ length: step }, (_, k) => counted(row * step + k, start)).some((frame) => frame % nominal === 0);
}

function cell(of: CellsOf, column: Column, row: number): HTMLElement {
  const found = element("div", { className: `sheet-cell sheet-${classOf(column)}` });
  found.setAttribute("role", "gridcell");
  const frame = row * of.step;
  if (column === "frame") found.textContent = String(frame + of.start);
  else if (column === "timecode") found.textContent = sceneTimecode(frame, of.start, of.fps);
  else if (column === "ipa") found.textContent = of.made.ipa.get(row) ?? "";
  else if (isWords(column)) found.textContent = found.title = of.made.words[staveNumber(column)].get(row) ?? "";
  else if (column === "acting") found.textContent = found.title = of.made.acting.get(row) ?? "";
  else if (column === "notes") found.append(note(of, frame));
  else if (column === "sound") found.append(wave(of, frame));
  else drawing(of, found, staveNumber(column), row);
  if (of.editable(column)) {
    found.tabIndex = -1;
    Object.assign(found.dataset, { row: String(row), column });
  }
  return found;
}

function drawing({ staves, made, step, start }: CellsOf, found: HTMLElement, at: number, row: number): void {
  const stave = staves[at];
  const frame = row * step;
  const one = made.starts[at].get(row);
  found.setAttribute("aria-label", `${stave.character}, frame ${frame + start}: ${one ? one.drawing || "nothing" : "held"}`);
  if (!stave.known.some(([first, end]) => first <= frame && frame < end)) found.textContent = "…";
  else if (!one) found.append(element("span", { className: "sheet-held" }));
  else {
    const own = stave.chart.drawings.find((drawn) => drawn.name === one.drawing);
    if (own) found.append(mouthPicture(own));
    found.append(element("span", { textContent: one.drawing || "(nothing)" }));
    if (one.pinned) found.classList.add("pinned");
  }
}

function note({ notes, start, editable, write }: CellsOf, frame: number): HTMLElement {
  const input = element("input", { value: notes[frame] ?? "", disabled: !editable("notes"), maxLength: MOST_NOTE, tabIndex: -1 });
  input.setAttribute("aria-label", `Note beside frame ${frame + start}`);
  input.addEventListener("change", () => write(frame, input.value));
  return input;
}

// The sound of a row, turned upright: loud is wide.
function wave({ fps, step, peaks }: CellsOf, frame: number): HTMLElement {
  const [time, seconds] = [frame / fps, step / fps];
  const heard = peaks.filter(({ clip }) => clip.start < time + seconds && time < clip.start + clip.seconds);
  const parts = heard.map(({ clip, levels }) => extremes(levelFor(levels, seconds * PEAK_RATE), (time - clip.start + clip.offset) * PEAK_RATE, seconds * PEAK_RATE));
  const low = Math.min(0, ...parts.map(([least]) => least));
  const high = Math.max(0, ...parts.map(([, most]) => most));
  const bar = element("span", { className: "sheet-wave" });
  bar.style.left = `${50 + (50 * low) / FULL}%`;
  bar.style.width = `${Math.max(1, (50 * (high - low)) / FULL)}%`;
  return bar;
}

const WIDTHS: Record<string, string> = {
  frame: "62px",
  timecode: "118px",
  sound: "64px",
  words: "minmax(110px, 1.2fr)",
  ipa: "minmax(80px, 0.8fr)",
  acting: "minmax(90px, 0.9fr)",
  notes: "minmax(120px, 1.2fr)",
};
export const widthsOf = (columns: readonly Column[]): string => columns.map((column) => WIDTHS[classOf(column)] ?? "minmax(110px, 1fr)").join(" ");

function headOf(column: Column, staves: readonly Stave[]): string {
  if (isDrawing(column)) return staves[staveNumber(column)].character;
  if (isWords(column)) return staves.length > 1 ? `${staves[staveNumber(column)].character} says` : "words";
  return column === "ipa" ? "IPA" : column;
}

// The heads of the columns; of drawings each has room for what is shown on the first row in sight.
export function headsOf(columns: readonly Column[], staves: readonly Stave[]): HTMLElement[] {
  return columns.map((column) => {
    const textContent = headOf(column, staves);
    const head = element("div", { className: `sheet-cell sheet-${classOf(column)}`, textContent });
    head.setAttribute("role", "columnheader");
    if (!isDrawing(column)) return head;
    head.dataset.stave = String(staveNumber(column));
    head.title = "The drawing that is shown on the first row in sight";
    head.append(element("span", { className: "quiet" }));
    return head;
  });
}
