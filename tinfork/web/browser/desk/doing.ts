// What is done to exposures: asked of the server, which knows the verbs.
import type { Mirror } from "../lib/face/mirror.ts";
import { sayDone } from "../lib/saying.ts";
import { type Aim, aimOf, repeated, type Situation, slidBy, tapOf, toldOf, withBits } from "../lib/store/aims.ts";
import { isDone } from "../lib/store/editor.ts";
import { endOf, lifted, looped, type Piece, still } from "../lib/store/exposures.ts";
import type { Drawing } from "../lib/facetypes.ts";
import type { Exposure, Span } from "../lib/types.ts";
import type { Say } from "../lib/store/editor.ts";
import { type Choosing, NO_RANGE, NONE_CHOSEN } from "./choosing.ts";
import { likeliest, nextLikely, shapeAt } from "./likely.ts";
import type { MouthMap } from "./mouthmap.ts";
import type { Desk } from "./state.ts";

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

export interface DoingWith {
  choosing: Choosing;
  map: MouthMap;
  mirror: Mirror;
  // What happens to the neighbours of what slides, and what goes along with it.
  border: () => string;
  along: () => string;
  // How often something is repeated.
  times: () => number;
  // Says what was changed.
  tell: Say;
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

  get #situation(): Situation {
    const { state, store, transport, stave } = this.desk;
    const last = this.#copied.at(-1);
    return {
      exposures: this.#choosing.exposures,
      chosen: this.#choosing.ordered,
      frame: state.frame,
      frames: store.frames,
      range: this.#choosing.range,
      hold: stave().settings.hold,
      playing: transport.player.playing,
      filling: state.filling,
      copied: last ? last[0] + last[1] : 0,
      times: this.#with.times(),
    };
  }

  // What a verb would change.
  aim(what: Aim): Span[] {
    return this.desk.given.mayEdit ? aimOf(what, this.#situation) : [];
  }

  get #pressed(): { at: number[] } | null {
    const spans = aimOf("chosen", this.#situation);
    return spans.length ? this.#those(spans) : null;
  }

  // Exposures as they are seen here: elsewhere they may be others by now.
  #those(spans: readonly Span[]): { at: number[]; long: number[] } {
    return { at: spans.map(([first]) => first), long: spans.map(([first, end]) => end - first) };
  }

  // Whether it was done; what: null where nothing is chosen; spans: what it changes.
  async #ask(verb: string, what: object | null, spans: readonly Span[]): Promise<boolean> {
    const { desk } = this;
    if (!what) {
      desk.say(NONE_CHOSEN);
      return false;
    }
    if (!desk.given.mayEdit) return false;
    const answer = await desk.edit(verb, what);
    const told = toldOf(spans, desk.state.startFrame, desk.transport.inView);
    if (isDone(answer) && told) this.#with.tell(`${capital(desk.stave().undo)}: ${told}.`, () => desk.edit("undo"), "Undo", true);
    return isDone(answer);
  }

  // Ask, and choose what came of it, unless something else was chosen meanwhile.
  async #askAndChoose(verb: string, what: object | null, spans: readonly Span[], frames: readonly number[], lead?: number, seek = false): Promise<void> {
    const asked = this.#choosing.times;
    if (!(await this.#ask(verb, what, spans)) || asked !== this.#choosing.times) return;
    const now = still(this.#choosing.exposures, frames);
    this.#choosing.choose(now, lead ?? now.at(-1) ?? null, seek);
  }

  // A drawing for the chosen exposures; with none chosen for the one at the playhead. While it plays, laid at the
  // playhead; where it is to fill in to out, there.
  pick(drawing: string | undefined): void {
    const { state, transport, given } = this.desk;
    if (drawing === undefined) return;
    this.#brush = drawing;
    if (state.filling) return this.#fillWith(drawing);
    if (transport.player.playing) return this.tap();
    const spans = this.aim("pick");
    if (given.mayEdit && spans.some(([first, end]) => first <= state.frame && state.frame < end)) this.#with.mirror.expect(drawing);
    this.#ask("show", spans.length ? { ...this.#those(spans), drawing } : null, spans);
  }

  // The next drawing that is picked fills in to out; asked for once more, none does.
  fill(): void {
    const { state } = this.desk;
    if (!state.filling && !this.#choosing.range) return this.desk.say(NO_RANGE);
    state.filling = !state.filling;
    this.desk.showSelection();
  }

  #fillWith(drawing: string): void {
    const { range: span } = this.#choosing;
    this.desk.state.filling = false;
    if (!span) return this.desk.say(NO_RANGE);
    this.#askAndChoose("lay", { frame: span[0], pieces: [[0, span[1] - span[0], drawing]] }, this.aim("fill"), [span[0]]);
  }

  // The drawing that was picked last, laid at the playhead, also while it plays.
  tap(): void {
    const drawing = this.#brush || this.#choosing.on(this.desk.state.frame)?.drawing;
    const span = tapOf(this.#situation);
    if (!span || drawing === undefined) return;
    this.#ask("lay", { frame: span[0], pieces: [[0, span[1] - span[0], drawing]] }, this.aim("tap"));
  }

  // The drawing that has a key on the map.
  pickByKey(key: string): void {
    this.pick(this.#with.map.byKey(key));
  }

  hasKey(key: string): boolean {
    return this.#with.map.byKey(key) !== undefined;
  }

  likelier(): void {
    const own = this.#choosing.judged;
    if (own) this.pick(nextLikely(this.ranked(own), own.drawing)?.name);
  }

  // The drawings in the order they are likely for an exposure.
  ranked(exposure: Exposure): Drawing[] {
    const { store, fps, given } = this.desk;
    const middle = Math.min(endOf(exposure) - 1, exposure.frame + Math.floor(exposure.frames / 2)) + this.desk.stave().settings.lead;
    const shape = shapeAt(this.desk.stave(), Math.min(middle, store.frames - 1), fps);
    return likeliest(this.#with.map.drawings, given.shapes[shape], given.weights);
  }

  // Another mouth from the map for what is meant: up more closed, down more open, left wider, right rounder.
  neighbour(arrow: string): void {
    const own = this.#choosing.judged;
    if (own) this.pick(this.#with.map.beside(own.drawing, arrow));
  }

  pin(): void {
    const own = this.#choosing.meant;
    this.#ask(own.every((one) => one.pinned) ? "free" : "keep", this.#pressed, this.aim("chosen"));
  }

  split(): void {
    const { frame } = this.desk.state;
    this.#askAndChoose("split", { frame }, this.aim("here"), [frame]);
  }

  merge(): void {
    this.#askAndChoose("merge", this.#pressed, this.aim("chosen"), this.#choosing.meant.slice(0, 1).map((one) => one.frame));
  }

  rest(): void {
    this.#ask("rest", this.#pressed, this.aim("chosen"));
  }

  nothing(): void {
    this.pick("");
  }

  // along: "words" that are said there, or the "sound", go along.
  slide(by: number, along = this.#with.along()): void {
    const what = this.#pressed;
    const to = (this.#choosing.judged?.frame ?? 0) + by;
    const moved = what?.at.map((frame) => frame + by) ?? [];
    const spans = slidBy(by, this.#situation);
    if (along === "sound") this.#askAndChoose("slide sound", what && { ...what, by }, spans, moved, to, true);
    else this.#askAndChoose("slide", what && { ...what, by, border: this.#with.border(), words: along === "words" }, spans, moved, to, true);
  }

  // The beginning or the end of the chosen exposure, so many frames later.
  edge(which: "start" | "end", by: number): void {
    const own = this.#choosing.judged;
    if (!own) return this.desk.say(NONE_CHOSEN);
    const frame = which === "start" ? own.frame : endOf(own);
    this.desk.transport.go(frame + by, true);
    this.seam(frame, frame + by, which === "start" ? frame + by : own.frame);
  }

  // What begins on a frame begins on another; chosen is what begins on a third.
  seam(frame: number, to: number, chosen = to): void {
    this.#askAndChoose("seam", { frame, to }, [[Math.min(frame, to), Math.max(frame, to)]], [chosen]);
  }

  // Where the chosen exposure is to begin, and how long it is held.
  span(first: number, frames: number): void {
    const own = this.#choosing.lead;
    if (!own) return this.desk.say(NONE_CHOSEN);
    this.#askAndChoose("span", { frame: own.frame, first, frames }, [[first, first + frames]], [first], first, true);
  }

  copy(): void {
    const { meant: own, exposures } = this.#choosing;
    this.#copied = lifted(exposures, own.map((one) => one.frame));
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
    const spans = pieces.map(([at, held]): Span => [frame + at, frame + at + held]);
    this.#askAndChoose("lay", { frame, pieces, words }, withBits(this.#situation, spans), pieces.map(([at]) => frame + at), frame);
  }

  repeat(times: number): void {
    const found = repeated(this.#situation);
    if (!found) return this.desk.say("Select what to repeat, or set in and out (I, O).");
    this.#ask("repeat", { frame: found[0], frames: found[1] - found[0], times }, this.aim("repeat"));
  }

  // hold: the exposure before is held instead.
  remove(hold: boolean): void {
    const what = this.#pressed;
    this.#askAndChoose("remove", what && { ...what, hold }, this.aim("chosen"), what?.at.slice(0, 1) ?? []);
  }

  // What it changes is not told: its aim is as far as it reaches at the most.
  holdOn(): void {
    const own = this.#choosing.judged;
    if (own) this.#ask("hold on", { frame: own.frame }, []);
  }

  // The seams on which the chosen exposures begin, eased over some frames, by drawings between or not; 0 cuts them.
  ease(frames: number, drawn: boolean): void {
    this.#ask("ease", this.#pressed && { ...this.#pressed, frames, drawn }, this.aim("chosen"));
  }
}
