// What is done to exposures: asked of the server, which knows the verbs.
import type { Mirror } from "../lib/face/mirror.ts";
import { sayDone } from "../lib/saying.ts";
import { isDone } from "../lib/store/editor.ts";
import { endOf, lifted, looped, type Piece, still } from "../lib/store/exposures.ts";
import type { Drawing, Exposure, Span } from "../lib/types.ts";
import { type Choosing, NO_RANGE, NONE_CHOSEN } from "./choosing.ts";
import { likeliest, shapeAt } from "./likely.ts";
import type { MouthMap } from "./mouthmap.ts";
import type { Desk } from "./state.ts";

export interface DoingWith {
  choosing: Choosing;
  map: MouthMap;
  mirror: Mirror;
  // What happens to the neighbours of what slides, and what goes along with it.
  border: () => string;
  along: () => string;
}

export class Doing {
  readonly desk: Desk;
  readonly #with: DoingWith;
  readonly #choosing: Choosing;
  #copied: Piece[] = [];
  #copiedFrom: { id: number; frames: Span } | null = null;
  // The drawing that was picked last.
  #brush = "";

  constructor(desk: Desk, others: DoingWith) {
    this.desk = desk;
    this.#with = others;
    this.#choosing = others.choosing;
  }

  get #pressed(): { at: number[] } | null {
    return this.desk.state.chosen.length ? { at: this.#choosing.ordered } : null;
  }

  // Whether it was done; what: null where nothing is chosen.
  async #ask(verb: string, what: object | null): Promise<boolean> {
    const { desk } = this;
    if (!what) {
      desk.say(NONE_CHOSEN);
      return false;
    }
    if (!desk.given.mayEdit) return false;
    const answer = await desk.edit(verb, what);
    if (answer.notes?.length) sayDone(desk.say, answer.notes.join(" "));
    return isDone(answer);
  }

  // Ask, and choose what came of it, unless something else was chosen meanwhile.
  async #askAndChoose(verb: string, what: object | null, frames: readonly number[], lead?: number, seek = false): Promise<void> {
    const asked = this.#choosing.times;
    if (!(await this.#ask(verb, what)) || asked !== this.#choosing.times) return;
    const now = still(this.#choosing.exposures, frames);
    this.#choosing.choose(now, lead ?? now.at(-1) ?? null, seek);
  }

  // A drawing for the chosen exposures; with none chosen between in and out, or from the playhead on for a hold. While
  // it plays, at the playhead.
  pick(drawing: string | undefined): void {
    const { state, transport, given } = this.desk;
    if (drawing === undefined) return;
    this.#brush = drawing;
    if (transport.player.playing) this.tap();
    else if (!state.chosen.length) this.lay(drawing);
    else {
      const here = this.#choosing.on(state.frame);
      if (given.mayEdit && here && state.chosen.includes(here.frame)) this.#with.mirror.expect(drawing);
      this.#ask("show", { at: this.#choosing.ordered, drawing });
    }
  }

  lay(drawing: string): void {
    const { state, store } = this.desk;
    const [first, end] = this.#choosing.range ?? [state.frame, Math.min(store.frames, state.frame + this.desk.stave().settings.hold)];
    this.#askAndChoose("lay", { frame: first, pieces: [[0, end - first, drawing]] }, [first]);
  }

  // The drawing that was picked last, laid at the playhead, also while it plays.
  tap(): void {
    const { state, store, given } = this.desk;
    const drawing = this.#brush || this.#choosing.on(state.frame)?.drawing;
    if (!given.mayEdit || drawing === undefined) return;
    const frame = Math.min(state.frame, store.frames - 1);
    this.#ask("lay", { frame, pieces: [[0, Math.min(this.desk.stave().settings.hold, store.frames - frame), drawing]] });
  }

  // The drawing that is the likeliest but so many.
  likely(number: number): void {
    const own = this.#choosing.lead ?? this.#choosing.on(this.desk.state.frame);
    if (own) this.pick(this.ranked(own)[number - 1]?.name);
  }

  // The drawings in the order they are likely for an exposure.
  ranked(exposure: Exposure): Drawing[] {
    const { store, fps, given } = this.desk;
    const middle = Math.min(endOf(exposure) - 1, exposure.frame + Math.floor(exposure.frames / 2)) + this.desk.stave().settings.lead;
    const shape = shapeAt(this.desk.stave(), Math.min(middle, store.frames - 1), fps);
    return likeliest(this.#with.map.drawings, given.shapes[shape], given.weights);
  }

  // Another mouth from the map for the chosen exposure: up more closed, down more open, left wider, right rounder.
  neighbour(arrow: string): void {
    const { lead } = this.#choosing;
    if (lead) this.pick(this.#with.map.beside(lead.drawing, arrow));
  }

  pin(): void {
    const { own } = this.#choosing;
    if (own.length) this.#ask(own.every((one) => one.pinned) ? "free" : "keep", this.#pressed);
    else this.desk.say(NONE_CHOSEN);
  }

  split(): void {
    const { frame } = this.desk.state;
    this.#askAndChoose("split", { frame }, [frame]);
  }

  merge(): void {
    this.#askAndChoose("merge", this.#pressed, this.#choosing.ordered.slice(0, 1));
  }

  rest(): void {
    this.#ask("rest", this.#pressed);
  }

  nothing(): void {
    if (this.desk.state.chosen.length) this.pick("");
    else this.lay("");
  }

  // along: "words" that are said there, or the "sound", go along.
  slide(by: number, along = this.#with.along()): void {
    const what = this.#pressed;
    const to = (this.desk.state.lead ?? 0) + by;
    const moved = what?.at.map((frame) => frame + by) ?? [];
    if (along === "sound") this.#askAndChoose("slide sound", what && { ...what, by }, moved, to, true);
    else this.#askAndChoose("slide", what && { ...what, by, border: this.#with.border(), words: along === "words" }, moved, to, true);
  }

  // The beginning or the end of the chosen exposure, so many frames later.
  edge(which: "start" | "end", by: number): void {
    const own = this.desk.state.chosen.length ? this.#choosing.lead : undefined;
    if (!own) return this.desk.say(NONE_CHOSEN);
    const frame = which === "start" ? own.frame : endOf(own);
    this.desk.transport.go(frame + by, true);
    this.seam(frame, frame + by, which === "start" ? frame + by : own.frame);
  }

  // What begins on a frame begins on another; chosen is what begins on a third.
  seam(frame: number, to: number, chosen = to): void {
    this.#askAndChoose("seam", { frame, to }, [chosen]);
  }

  // Where the chosen exposure is to begin, and how long it is held.
  span(first: number, frames: number): void {
    const own = this.#choosing.lead;
    if (!own) return this.desk.say(NONE_CHOSEN);
    this.#askAndChoose("span", { frame: own.frame, first, frames }, [first], first, true);
  }

  copy(): void {
    const { own, ordered, exposures } = this.#choosing;
    this.#copied = lifted(exposures, ordered);
    const last = own.at(-1);
    this.#copiedFrom = last ? { id: this.desk.stave().id, frames: [own[0].frame, endOf(last)] } : null;
    const count = this.#copied.length;
    if (count) sayDone(this.desk.say, `Copied ${count} ${count === 1 ? "exposure" : "exposures"}; paste at the playhead (Ctrl+V).`);
    else this.desk.say(NONE_CHOSEN);
  }

  cut(): void {
    this.copy();
    if (this.#copied.length) this.remove(false);
  }

  paste(): void {
    if (!this.#copied.length) return this.#nothingCopied();
    const from = this.#with.along() === "words" && this.#copiedFrom?.id === this.desk.stave().id ? this.#copiedFrom.frames : null;
    this.#layPieces(this.desk.state.frame, this.#copied, from);
  }

  // Over and over from in to out.
  loop(): void {
    const { range } = this.#choosing;
    if (!this.#copied.length) return this.#nothingCopied();
    if (!range) return this.desk.say(NO_RANGE);
    this.#layPieces(range[0], looped(this.#copied, range[1] - range[0]), null);
  }

  #nothingCopied() {
    this.desk.say("Copy some exposures first (Ctrl+C).");
  }

  #layPieces(frame: number, pieces: readonly Piece[], words: Span | null) {
    this.#askAndChoose("lay", { frame, pieces, words }, pieces.map(([at]) => frame + at), frame);
  }

  repeat(times: number): void {
    const { own, range } = this.#choosing;
    const last = own.at(-1);
    const found = last ? [own[0].frame, endOf(last)] : range;
    if (!found) return this.desk.say("Select what to repeat, or set in and out (I, O).");
    this.#ask("repeat", { frame: found[0], frames: found[1] - found[0], times });
  }

  // hold: the exposure before is held instead.
  remove(hold: boolean): void {
    const what = this.#pressed;
    this.#askAndChoose("remove", what && { ...what, hold }, what?.at.slice(0, 1) ?? []);
  }

  holdOn(): void {
    const { lead } = this.#choosing;
    if (lead) this.#ask("hold on", { frame: lead.frame });
  }

  // The seams on which the chosen exposures begin, eased over some frames; 0 cuts them.
  ease(frames: number): void {
    this.#ask("ease", this.#pressed && { ...this.#pressed, frames });
  }
}
