// Words and sounds under the hands: choosing them, dragging their seams, and the keys for what is done to them.
import { drag } from "../lib/drag.ts";
import { targetOf } from "../lib/page.ts";
import { sayDone } from "../lib/saying.ts";
import { frameAt } from "../lib/store/clock.ts";
import { isDone } from "../lib/store/editor.ts";
import { jobEnded, type Or, post, sentenceOf } from "../lib/store/requests.ts";
import type { Word, WordPlace } from "../lib/types.ts";
import type { Spot } from "./draw/spots.ts";
import { type Desk, sameWord } from "./state.ts";
import { roomOf } from "./wordroom.ts";
import { allWords, doubtful, edgesOf, halves, wordAt } from "./words.ts";

const FAR = 4; // pixels, from which on a word that is pressed is dragged

type At = { at: WordPlace };

export class WordHands {
  readonly desk: Desk;
  // Whether what was moved is read again inside, and whether what was set by hand stays on its frames.
  readonly rereads: () => boolean;
  readonly stays: () => boolean;
  // Whether something is being read.
  readonly reading: (busy: boolean) => void;
  readonly #choosing: Record<string, () => void>;
  readonly #changing: Record<string, (word: Word, sound: number) => unknown>;

  constructor(desk: Desk, { rereads, stays, reading }: { rereads(): boolean; stays(): boolean; reading(busy: boolean): void }) {
    this.desk = desk;
    this.rereads = rereads;
    this.stays = stays;
    this.reading = reading;
    this.#choosing = { ",": () => this.#beside(-1), ".": () => this.#beside(1), "[": () => this.#soundBeside(-1), "]": () => this.#soundBeside(1) };
    this.#changing = {
      enter: (word) => this.#approve(word),
      delete: ({ at }) => desk.edit("delete word", { at }),
      j: ({ at }) => desk.edit("join words", { at }),
      r: (word) => this.readAgain(word, true),
      s: (word, sound) => sound > 0 && desk.edit("split word", { at: word.at, sound, ...halves(word, sound) }),
    };
  }

  get #words(): Word[] {
    return allWords(this.desk.stave()).map(({ word }) => word);
  }

  // The selected word, and which of its sounds, -1 for none.
  get chosen(): { word: Word; sound: number } | null {
    const { word } = this.desk.state;
    const found = wordAt(this.desk.stave(), word)?.word;
    return found && word ? { word: found, sound: word.sound } : null;
  }

  select(word: Word, sound = -1, seek = true): void {
    const { state, transport, fps } = this.desk;
    state.word = { at: word.at, sound };
    state.chosen = [];
    if (state.tab === "mouths" || state.tab === "files") state.tab = "word";
    if (seek) transport.go(frameAt(word.sounds[sound]?.start ?? word.start, fps), true);
    this.desk.showSelection();
  }

  nextDoubt(step: number): void {
    const rows = doubtful(this.desk.stave());
    if (!rows.length) return sayDone(this.desk.say, "No word is doubtful.");
    const place = rows.findIndex(({ word }) => sameWord(word, this.desk.state.word));
    this.select(rows[place < 0 ? 0 : (place + step + rows.length) % rows.length].word);
  }

  // Pinning a word that was doubtful goes on to the next one.
  async #approve({ at }: At) {
    const rows = doubtful(this.desk.stave());
    const place = rows.findIndex(({ word }) => sameWord(word, { at }));
    await this.desk.edit("approve", { at });
    if (place >= 0 && place + 1 < rows.length) this.select(rows[place + 1].word);
  }

  // Read a word, or its line, again; the page waits and shows what came of it.
  async readAgain(word: At, alone: boolean): Promise<void> {
    const { desk } = this;
    const { id } = desk.stave();
    const line = wordAt(desk.stave(), word)?.line;
    if (!line) return;
    desk.say("");
    try {
      const queued = await post<Or<{ job: string }>>(desk.given.readUrl, { lines: [line.id], words: alone ? [word.at] : [] });
      if (queued.problem || !queued.job) return desk.say(queued.problem ?? "");
      this.reading(true);
      const job = await jobEnded(queued.job);
      await desk.store.anew(id);
      if (job.state !== "done") desk.say(job.message || "The reading did not end; try again.");
    } catch (failed) {
      console.debug(failed);
      desk.say(sentenceOf(failed), () => this.readAgain(word, alone));
    }
    this.reading(false);
  }

  // The word at the playhead, or the next one after it.
  here(): void {
    const { state, fps } = this.desk;
    const found = this.#words.find((word) => word.end > (state.frame + 0.5) / fps) ?? this.#words.at(-1);
    if (found) this.select(found);
    else this.desk.say("There is no word here.");
  }

  #next(step: number): Word | undefined {
    return this.#words[this.#words.findIndex((word) => sameWord(word, this.desk.state.word)) + step];
  }

  #beside(step: number) {
    const next = this.#next(step);
    if (next) this.select(next);
  }

  // The sound before or after the selected one, in the next word where this one ends.
  #soundBeside(step: number) {
    const { chosen } = this;
    if (!chosen) return;
    const sound = chosen.sound < 0 && step < 0 ? -1 : chosen.sound + step;
    if (sound >= 0 && sound < chosen.word.sounds.length) return this.select(chosen.word, sound);
    const next = this.#next(step);
    if (next) this.select(next, step > 0 ? 0 : next.sounds.length - 1);
  }

  // The selected word a frame earlier or later; of a selected sound its beginning, with Shift its end; with Shift the line.
  moveByKey(event: KeyboardEvent): void {
    const { chosen } = this;
    if (!chosen) return;
    const by = (event.key === "ArrowLeft" ? -1 : 1) / this.desk.fps;
    const { word, sound } = chosen;
    if (sound < 0) this.#move(event.shiftKey ? "move line" : "move word", word, by);
    else {
      const edge = sound + (event.shiftKey ? 1 : 0);
      this.#moveSeam(word, edge, edgesOf(word)[edge] + by);
    }
  }

  // What a key does to the selected word; false when it does nothing.
  key(event: KeyboardEvent): boolean {
    const { chosen } = this;
    if (!chosen) return false;
    const choosing = this.#choosing[event.key];
    const changing = this.#changing[event.key.toLowerCase()];
    if (choosing) choosing();
    else if (!changing || !this.desk.given.mayEdit || (event.key === "Enter" && targetOf(event).matches("button"))) return false;
    else changing(chosen.word, chosen.sound);
    return true;
  }

  // A seam, a word or a line is selected when it is pressed and moved when it is dragged, with the sound under the hand.
  hold(spot: Spot & { word: Word }, event: PointerEvent): void {
    const { state, fps, transport, store, given } = this.desk;
    const { word, line, edge } = spot;
    const begun = event.clientX;
    const times = edge !== undefined ? [edgesOf(word)[edge]] : line ? [line.start, line.end] : [word.start, word.end];
    const said = this.#words.filter((one) => one.said);
    const [low, high] = edge !== undefined ? roomOf(word, edge, said, store.frames / fps) : [-Infinity, Infinity];
    const moved = (now: MouseEvent) => {
      if (!given.mayEdit || (!state.drag && Math.abs(now.clientX - begun) < FAR)) return;
      const by = Math.min(high - times[0], Math.max(low - times[0], (now.clientX - begun) / state.perFrame / fps));
      state.drag = { times: times.map((time) => time + by), by };
      const frame = Math.max(0, frameAt(times[0] + by, fps));
      if (frame !== state.frame) transport.go(frame, true);
      this.desk.draw();
    };
    drag(this.desk.canvas, event, moved, (whole) => {
      const by = state.drag?.by;
      state.drag = null;
      if (!whole) return this.desk.draw();
      const sound = edge !== undefined ? Math.min(edge, word.sounds.length - 1) : (spot.sound ?? -1);
      this.select(word, spot.lane === "sounds" ? sound : -1, by === undefined);
      if (by === undefined) return;
      if (edge !== undefined) this.#moveSeam(word, edge, times[0] + by);
      else this.#move(line ? "move line" : "move word", word, by);
    });
  }

  #move(verb: string, { at }: At, by: number) {
    this.desk.edit(verb, { at, by, stay: this.stays() });
  }

  async #moveSeam(word: Word, edge: number, time: number) {
    const answer = await this.desk.edit("edge", { at: word.at, edge, time, stay: this.stays() });
    if (!isDone(answer) || !this.rereads()) return;
    const moved = wordAt(this.desk.stave(), word)?.word;
    if (moved) this.readAgain(moved, true);
  }
}
