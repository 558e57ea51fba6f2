// What others wrote of the scene in its rushes: one goes from note to note, and says that what it wants is done.
import { nextNote, type Note, type ReviewDocument } from "../lib/review.ts";
import { sayDone } from "../lib/saying.ts";
import { get, type Or, post, sentenceOf } from "../lib/store/requests.ts";
import { onTold, settled } from "../lib/told.ts";
import type { Desk } from "./state.ts";

const ASKED_MS = 250;

export class SceneNotes {
  readonly #desk: Desk;

  constructor(desk: Desk) {
    this.#desk = desk;
  }

  get all(): readonly Note[] {
    return this.#desk.state.notes;
  }

  async load(): Promise<void> {
    this.#take(await get<ReviewDocument>(`${this.#desk.given.reviewUrl}review`));
  }

  // From now on.
  begin(): void {
    const load = settled(ASKED_MS, () => this.load());
    onTold(["review"], load);
    load();
  }

  #take({ notes }: Pick<ReviewDocument, "notes">): void {
    if (JSON.stringify(notes) === JSON.stringify(this.all)) return;
    this.#desk.state.notes = notes;
    this.#desk.showDock();
    this.#desk.draw();
  }

  go(note: Note): void {
    this.#desk.transport.go(note.frame, true);
  }

  next(step: number): void {
    const found = nextNote(this.all, this.#desk.state.frame, step > 0 ? 1 : -1);
    if (!found) return sayDone(this.#desk.say, "No note is open here.");
    this.go(found);
    this.#desk.open("notes");
  }

  async done(note: Note): Promise<void> {
    try {
      const answer = await post<Or<ReviewDocument>>(`${this.#desk.given.reviewUrl}done`, { note: note.id, done: !note.done });
      if (answer.problem) this.#desk.say(answer.problem);
      if (answer.notes) this.#take({ notes: answer.notes });
    } catch (failed) {
      this.#desk.say(sentenceOf(failed));
    }
  }
}
