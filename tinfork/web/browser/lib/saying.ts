// A line on the page that says what went wrong, or what was done; and the two buttons that undo.
import { element } from "./page.ts";
import type { Say } from "./store/editor.ts";
import type { Steps } from "./types.ts";

// What failed can be done again from the line.
export function sayIn(place: HTMLElement): Say {
  return (sentence, again, label = "Do it again", done = false) => {
    place.textContent = sentence;
    place.hidden = !sentence;
    place.classList.toggle("problem", !done);
    place.classList.toggle("note", done);
    if (!again) return;
    const button = element("button", { type: "button", className: "btn btn-sm btn-quiet", textContent: label });
    button.addEventListener("click", () => again());
    place.append(" ", button);
  };
}

// A line that says what was done.
export const sayDone = (say: Say, sentence: string): void => say(sentence, undefined, "", true);

// The two buttons, each with what it would do.
export function showSteps(undo: HTMLButtonElement, redo: HTMLButtonElement, { undo: back, redo: forth }: Steps, mayEdit: boolean): void {
  undo.disabled = !back || !mayEdit;
  redo.disabled = !forth || !mayEdit;
  undo.title = back ? `Undo: ${back} (Ctrl+Z)` : "Undo (Ctrl+Z)";
  redo.title = forth ? `Redo: ${forth} (Ctrl+Shift+Z)` : "Redo (Ctrl+Shift+Z)";
}
