// The selected word and its sounds, the words to look at, and pins that lost their words.
import { fieldOf, panel } from "../../lib/page.ts";
import { frameAt } from "../../lib/store/clock.ts";
import type { PinAway, SpokenSound, Word } from "../../lib/types.ts";
import { isDone } from "../../lib/store/editor.ts";
import { post, sentenceOf } from "../../lib/store/requests.ts";
import { sameWord } from "../state.ts";
import { doubtful, guessOf, halves, isSet, isUnwritten, percent, type Place, saidOtherwise, stateOf, wordAt } from "../words.ts";
import type { DockPage } from "./page.ts";

interface DoubtRow {
  key: number;
  word: Word;
  text: string;
  line: string;
  struck: string;
  frame: number;
  sure: string;
  pressed: string;
}

interface AwayRow {
  number: number;
  drawing: string;
  frame: number | null;
  seen: boolean;
  text: string;
}

interface Words {
  text?: string;
  line?: number;
}

export const wordPanel = (page: DockPage) =>
  panel({
    // What is shown of the word only where there is one.
    word: null as Word | null,
    otherwise: "",
    sound: -1,
    signs: page.given.keyboard.slice(1).flat(),
    ipa: "",
    between: "",
    guess: "",
    words: "",
    inside: false,
    stay: page.given.stays,
    doubts: [] as DoubtRow[],
    doubtCount: 0,
    lost: [] as { text: string; ipa: string; number: number }[],
    away: [] as AwayRow[],
    toPlace: [] as { id: number; text: string }[],

    keepStay() {
      page.given.stays = this.stay;
      post(page.given.staysUrl, this.stay).catch((failed) => page.say(sentenceOf(failed)));
    },
    get lostCount() {
      return this.lost.length + this.away.length;
    },
    get theWord(): Word {
      if (!this.word) throw new Error("No word is selected.");
      return this.word;
    },
    get sounds(): (SpokenSound & { number: number; title: string; pressed: string })[] {
      return (this.word?.sounds ?? []).map((sound, number) => ({ ...sound, number, title: `${percent(sound.confidence)} sure`, pressed: String(number === this.sound) }));
    },
    get when(): string {
      const { start, end, said } = this.theWord;
      const frame = (seconds: number) => frameAt(seconds, page.fps) + page.state.startFrame;
      return said ? `${frame(start)} to ${frame(end)}` : String(frame(start));
    },
    get state(): string {
      return stateOf(this.theWord) + (this.otherwise ? ` · ${this.otherwise}` : "");
    },
    get isSet(): boolean {
      return isSet(this.theWord);
    },
    get unwritten(): boolean {
      return isUnwritten(this.theWord);
    },
    get noSound(): boolean {
      return this.sound < 0 || this.sound >= (this.word?.sounds.length ?? 0);
    },
    get notSplit(): boolean {
      return this.noSound || this.sound < 1;
    },
    get placeText(): string {
      return this.word ? `Place on “${this.word.text}”` : "Place";
    },

    change(verb: string, what: object = {}) {
      return page.edit(verb, { at: this.theWord.at, ...what });
    },
    approve() {
      this.change("approve");
    },
    writeWord() {
      this.change("write word", { text: this.guess });
    },
    chooseSound(number: number) {
      page.words.select(this.theWord, number);
    },
    changeSound() {
      this.change("sound", { sound: this.sound, ipa: this.ipa.trim() });
    },
    putSound() {
      this.change("insert sound", { sound: this.noSound ? this.theWord.sounds.length : this.sound, ipa: this.ipa.trim() });
    },
    dropSound() {
      this.change("delete sound", { sound: this.sound });
    },
    sign(event: Event) {
      this.ipa = fieldOf(event).value || this.ipa;
    },
    split() {
      this.change("split word", { sound: this.sound, ...halves(this.theWord, this.sound) });
    },
    readWord() {
      page.words.readAgain(this.theWord, true);
    },
    readLine() {
      page.words.readAgain(this.theWord, false);
    },
    putBetween() {
      const range = secondsOf(page);
      if (range && this.between.trim()) this.change("insert word", { text: this.between, start: range[0], end: range[1] });
    },
    // Between in and out, or from the playhead on.
    async put(what: Words) {
      const [start, end] = secondsOf(page) ?? [page.state.frame / page.fps, null];
      const answer = await page.edit("write line", { text: "", start, end, ...what });
      if (isDone(answer) && what.text) this.words = "";
    },
    putWords() {
      if (this.words.trim()) this.put({ text: this.words });
    },
    lookAt: (doubt: DoubtRow) => page.words.select(doubt.word, -1),
    placeLost(number: number) {
      page.edit("place lost", { lost: number, at: this.theWord.at });
    },
    dropLost: (number: number) => page.edit("drop lost", { lost: number }),
    goTo: (frame: number) => page.transport.go(frame, true),
  });

// From in to out in seconds, or null where both are not set.
function secondsOf({ transport, fps }: DockPage): [number, number] | null {
  const span = transport.span;
  return span && [span[0] / fps, span[1] / fps];
}

export function wordNow(page: DockPage) {
  const { state } = page;
  const stave = page.stave();
  const place = wordAt(stave, state.word);
  const word = place?.word ?? null;
  const found = doubtful(stave);
  return {
    word,
    otherwise: (place && saidOtherwise(stave, place.line).get(place.word)) ?? "",
    sound: word && state.word && state.word.sound < word.sounds.length ? state.word.sound : -1,
    doubtCount: found.length,
    doubts: state.tab === "doubts" ? found.map((one, key) => doubtRow(one, key, page)) : [],
    lost: stave.lost.map((one, number) => ({ ...one, number })),
    away: stave.pinsAway.map((one, number) => awayRow(one, number, state.startFrame)),
    toPlace: stave.toPlace,
  };
}

// What can be typed over, as it is.
export const wordFields = ({ word, sound }: ReturnType<typeof wordNow>) => ({ ipa: word && sound >= 0 ? word.sounds[sound].ipa : "", guess: word ? guessOf(word) : "" });

function doubtRow({ word, line }: Place, key: number, page: DockPage): DoubtRow {
  const { state, fps } = page;
  const otherwise = saidOtherwise(page.stave(), line).get(word);
  const sure = isUnwritten(word) ? "unwritten speech" : word.tight ? "too little room" : percent(word.confidence);
  return {
    key,
    word,
    text: word.text,
    line: line.text,
    struck: word.said ? "" : "struck",
    frame: frameAt(word.start, fps) + state.startFrame,
    sure: otherwise || (word.said ? sure : "not heard"),
    pressed: String(sameWord(word, state.word)),
  };
}

function awayRow({ drawing, frame, frames, why }: PinAway, number: number, startFrame: number): AwayRow {
  const there = frame === null ? "" : ` from frame ${frame + startFrame}`;
  return { number, drawing, frame, seen: frame !== null, text: `pinned for ${frames} frames${there}: ${why}` };
}
