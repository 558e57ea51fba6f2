// The rows of the script: what every line has alike, and where the arrow keys lead in them.
import { inside } from "../lib/page.ts";

// A control of a line.
export type Field = HTMLInputElement;

const TITLES: Record<string, string> = {
  unknown: "Nobody can pronounce this: open it",
  guessed: "The pronunciation is a guess: open it",
  lexicon: "Said as the lexicon has it",
  here: "Said your way in this place",
};

export function complete(row: HTMLElement): void {
  const who = inside<HTMLSelectElement>(row, ".line-who");
  const chosen = who.value;
  who.replaceChildren(inside<HTMLTemplateElement>(document, "#line-cast").content.cloneNode(true));
  who.value = chosen;
  const doing = document.querySelector<HTMLTemplateElement>("#line-do");
  if (doing) row.append(doing.content.cloneNode(true));
  for (const word of row.querySelectorAll<HTMLElement>(".word")) word.title = TITLES[word.classList[1]] ?? "How is this said?";
  inside(row, ".line-language").title = "Language: a code such as es; empty is the character's own";
  stops(row, false);
  const read = row.querySelector<HTMLElement>(".line-state a");
  if (read) read.title = "Where it begins, and how sure the reading is";
}

// The Tab key stops once at each line, and at all that is in the one that has the focus; arrows lead there too.
export function stops(row: Element, all: boolean): void {
  for (const one of controlsOf(row)) one.tabIndex = all || one.name === "text" ? 0 : -1;
}

export const controlsOf = (row: Element): Field[] => [...row.querySelectorAll<Field>("input, textarea, select, button, a")].filter((one) => !one.disabled);

// Where an arrow key leads from a control of a line: to the one beside it, or to the same of the line above or below.
// In a field Left and Right lead out of it where the cursor is at its end, in a list Up and Down choose.
export function beside(field: Field, key: string): Field | null | undefined {
  const row = field.closest("[data-line]");
  if (!row) return null;
  const controls = controlsOf(row);
  const at = controls.indexOf(field);
  const step = key === "ArrowLeft" ? -1 : key === "ArrowRight" ? 1 : 0;
  if (step) return atEnd(field, step) ? controls[at + step] : null;
  if (field.matches("select")) return null;
  const other = key === "ArrowDown" ? row.nextElementSibling : row.previousElementSibling;
  if (!other?.matches("[data-line]")) return null;
  const there = controlsOf(other);
  const last = controls.length - 1 - at;
  return field.name ? other.querySelector<Field>(`[name=${field.name}]`) : (there[there.length - 1 - last] ?? there.at(-1));
}

function atEnd(field: Field, step: number): boolean {
  if (!field.matches("input, textarea")) return true;
  return field.selectionStart === field.selectionEnd && field.selectionStart === (step < 0 ? 0 : field.value.length);
}

export function placeOf(field: Field): string {
  if (!field.name || !field.closest("#script")) return "";
  return lineOf(field) ? `#line-${lineOf(field)} [name=${field.name}]` : `#script form [name=${field.name}]`;
}

export const lineOf = (element: Element): string | undefined => element.closest<HTMLElement>("[data-line]")?.dataset.line;
