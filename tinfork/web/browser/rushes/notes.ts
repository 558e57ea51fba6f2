// The notes beside the picture, and their marks on the time.
import { $, element } from "../lib/page.ts";
import { answersTo, type Note, type ReviewDocument, threads } from "../lib/review.ts";

export interface NotesPage {
  startFrame: number;
  frames(): number;
  // Where a frame's mark lies in time, from 0 to 1, where that holds more than this shot.
  share?(frame: number): number;
  go(note: Note): void;
  answer(note: Note, text: string): Promise<boolean>;
  done(note: Note, done: boolean): void;
  takeAway(note: Note): void;
}

const WHEN = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
export const when = (text: string): string => WHEN.format(new Date(text));

export class Notes {
  readonly #page: NotesPage;
  #review: ReviewDocument;
  // The note somebody answers, and what they typed: it stays when others' notes come in.
  #answering = 0;
  #typed = "";

  constructor(page: NotesPage, review: ReviewDocument) {
    this.#page = page;
    this.#review = review;
  }

  show(review: ReviewDocument): void {
    this.#review = review;
    const open = threads(review.notes).filter((note) => !note.done).length;
    $("notes-count").textContent = review.notes.length ? `${open} open` : "none yet";
    $("notes").replaceChildren(...threads(review.notes).map((note) => this.#row(note)));
    this.#marks();
  }

  at(frame: number): void {
    for (const row of document.querySelectorAll<HTMLElement>("#notes > li")) row.classList.toggle("here", Number(row.dataset.frame) <= frame && frame <= Number(row.dataset.end));
  }

  #marks(): void {
    const { startFrame, frames, share = (frame: number) => Math.min(frame, frames()) / frames() } = this.#page;
    const marks = threads(this.#review.notes).map((note) => {
      const mark = element("button", { type: "button", className: note.done ? "done" : "", title: `Frame ${note.frame + startFrame}, ${note.who}: ${note.text}`, ariaLabel: `Note on frame ${note.frame + startFrame}` });
      mark.style.left = `${100 * share(note.frame)}%`;
      mark.addEventListener("click", () => this.#page.go(note));
      return mark;
    });
    $("marks").replaceChildren(...marks);
  }

  #row(note: Note): HTMLElement {
    const { startFrame, frames } = this.#page;
    const row = element("li", { className: note.done ? "done" : "" });
    Object.assign(row.dataset, { frame: note.frame, end: note.end, id: note.id });
    const place = element("button", { type: "button", className: "btn btn-sm btn-quiet mono", textContent: note.end > note.frame ? `${note.frame + startFrame}–${note.end + startFrame}` : String(note.frame + startFrame), title: "Go there" });
    place.addEventListener("click", () => this.#page.go(note));
    const head = element("p", { className: "note-head" });
    head.append(place, element("strong", { textContent: note.who }), element("span", { className: "quiet", textContent: `${when(note.when)}${note.version ? ` · version ${note.version}` : ""}${note.frame >= frames() ? " · this frame is gone" : ""}` }));
    row.append(head, element("p", { className: "note-said", textContent: note.text }));
    for (const answer of answersTo(this.#review.notes, note.id)) row.append(this.#answer(answer));
    if (this.#review.mayComment) row.append(this.#doing(note));
    if (this.#answering === note.id) row.append(this.#form(note));
    return row;
  }

  #answer(answer: Note): HTMLElement {
    const said = element("p", { className: "note-answer" });
    said.append(element("strong", { textContent: `${answer.who}: ` }), answer.text);
    if (answer.own) said.append(this.#button("✕", `Take away what you answered: ${answer.text}`, () => this.#page.takeAway(answer)));
    return said;
  }

  #doing(note: Note): HTMLElement {
    const place = element("p", { className: "note-do" });
    if (this.#review.mayFinish) place.append(this.#button(note.done ? "Not done" : "Done", "", () => this.#page.done(note, !note.done)));
    place.append(this.#button("Answer", "", () => this.#begin(note)));
    if (note.own) place.append(this.#button("Take away", "", () => this.#page.takeAway(note)));
    return place;
  }

  #button(textContent: string, ariaLabel: string, press: () => void): HTMLElement {
    const made = element("button", { type: "button", className: "btn btn-sm btn-quiet", textContent });
    if (ariaLabel) made.ariaLabel = ariaLabel;
    made.addEventListener("click", press);
    return made;
  }

  #begin(note: Note): void {
    this.#answering = this.#answering === note.id ? 0 : note.id;
    this.show(this.#review);
    document.querySelector<HTMLElement>("#notes textarea")?.focus();
  }

  #form(note: Note): HTMLElement {
    const form = element("form", { className: "note-form" });
    const field = element("textarea", { className: "form-control", rows: 2, maxLength: 4000, ariaLabel: `Answer to ${note.who}`, value: this.#typed });
    field.addEventListener("input", () => {
      this.#typed = field.value;
    });
    form.append(field, element("button", { type: "submit", className: "btn btn-sm btn-outline-secondary", textContent: "Answer" }));
    form.addEventListener("submit", async (event) => {
      event.preventDefault();
      if (!(await this.#page.answer(note, field.value))) return;
      this.#answering = 0;
      this.#typed = "";
      this.show(this.#review);
    });
    return form;
  }
}
