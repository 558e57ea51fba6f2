// A note that is being written: its words, and what is drawn with it on the picture.
import { drag } from "../lib/drag.ts";
import { $ } from "../lib/page.ts";

const SMALL = 0.01; // A drag over less of the picture is a press.
const MOST_POINTS = 400;

export interface Drawn {
  place: [number, number] | null;
  line: [number, number][];
}

interface ComposerPage {
  // Whether notes may be written.
  may(): boolean;
  // What is drawn is another.
  changed(): void;
  // Somebody begins to draw.
  begun(): void;
  // Keep a note; whether it was kept.
  send(text: string, drawn: Drawn): Promise<boolean>;
}

const NOTHING: Drawn = { place: null, line: [] };

export class Composer {
  readonly #page: ComposerPage;
  drawn = NOTHING;

  constructor(page: ComposerPage) {
    this.#page = page;
    $("picture").addEventListener("pointerdown", (event) => this.#draw(event));
    document.getElementById("note-nowhere")?.addEventListener("click", () => this.#keep(NOTHING));
    document.getElementById("note-form")?.addEventListener("submit", (event) => {
      event.preventDefault();
      this.#write();
    });
  }

  async #write(): Promise<void> {
    const field = $("note-text") as HTMLTextAreaElement;
    if (!(await this.#page.send(field.value, this.drawn))) return;
    field.value = "";
    this.#keep(NOTHING);
    $("rushes").focus();
  }

  #keep(now: Drawn): void {
    this.drawn = now;
    $("note-place").textContent = now.line.length > 1 ? ", with a line" : now.place ? ", with a place" : "";
    $("note-nowhere").hidden = !now.place;
    this.#page.changed();
  }

  #draw(event: PointerEvent): void {
    if (!this.#page.may() || event.button !== 0) return;
    const box = $("picture").getBoundingClientRect();
    const share = (at: PointerEvent): [number, number] => [(at.clientX - box.left) / box.width, (at.clientY - box.top) / box.height].map((one) => Math.round(1e4 * Math.min(1, Math.max(0, one))) / 1e4) as [number, number];
    const line = [share(event)];
    this.#page.begun();
    this.#keep({ place: line[0], line: [] });
    const moved = (at: PointerEvent) => {
      const next = share(at);
      const last = line[line.length - 1];
      if (line.length < MOST_POINTS && Math.hypot(next[0] - last[0], next[1] - last[1]) > SMALL) line.push(next);
      this.#keep({ place: line[0], line: line.length > 1 ? line : [] });
    };
    drag($("picture"), event, moved, (whole) => (whole ? $("note-text").focus() : this.#keep(NOTHING)));
  }
}
