// The panels of the desk: who is shown, and under the lanes the mouth map, the selected word, the words to look at, the
// readings as files and the pins without a place. The page says what is so; what is pressed goes back to it.
import { isSet, sameWord } from "./staves.js";
import { doubtful, halves, percent, stateOf, wordAt } from "./words.js";

/** @param {{mayEdit: boolean, keyboard: string[][], formats: string[][], startFrame: number, edit: Function,
 *   readAgain: Function, select: Function, activate: Function, open: Function, go: Function, bring: Function,
 *   frame: (seconds: number) => number, range: () => number[] | null, time: () => number}} page */
export function dockOf(page) {
  let shown = null;
  const dock = {
    mayEdit: page.mayEdit,
    signs: page.keyboard.slice(1).flat(),
    voices: [],
    tab: "mouths",
    read: false,
    character: "",
    word: null,
    sound: -1,
    ipa: "",
    between: "",
    words: "",
    inside: false,
    doubts: [],
    doubtCount: 0,
    lost: [],
    away: [],
    toPlace: [],
    files: [],

    init() {
      shown = this;
    },

    get lostCount() {
      return this.lost.length + this.away.length;
    },
    get sounds() {
      return this.word.sounds.map((sound, number) => ({ ...sound, number, title: `${percent(sound.confidence)} sure`, pressed: String(number === this.sound) }));
    },
    get when() {
      const { start, end, said } = this.word;
      return said ? `${page.frame(start)} to ${page.frame(end)}` : String(page.frame(start));
    },
    get state() {
      return stateOf(this.word);
    },
    get isSet() {
      return isSet(this.word);
    },
    get noSound() {
      return this.sound < 0 || this.sound >= this.word.sounds.length;
    },
    get notSplit() {
      return this.noSound || this.sound < 1;
    },
    get placeText() {
      return this.word ? `Place on “${this.word.text}”` : "Place";
    },

    open: page.open,
    activate: page.activate,
    approve() {
      this.change("approve");
    },
    change(verb, what = {}) {
      return page.edit(verb, { at: this.word.at, ...what });
    },
    chooseSound(number) {
      page.select(this.word, number);
    },
    changeSound() {
      this.change("sound", { sound: this.sound, ipa: this.ipa.trim() });
    },
    putSound() {
      this.change("insert sound", { sound: this.noSound ? this.word.sounds.length : this.sound, ipa: this.ipa.trim() });
    },
    dropSound() {
      this.change("delete sound", { sound: this.sound });
    },
    sign(event) {
      this.ipa = event.target.value || this.ipa;
    },
    split() {
      this.change("split word", { sound: this.sound, ...halves(this.word, this.sound) });
    },
    putBetween() {
      const range = page.range();
      if (range && this.between.trim()) this.change("insert word", { text: this.between, start: range[0], end: range[1] });
    },
    readWord() {
      page.readAgain(this.word, true);
    },
    readLine() {
      page.readAgain(this.word, false);
    },
    // Between in and out, or from the playhead on.
    async put(what) {
      const [start, end] = page.range() ?? [page.time(), null];
      const done = await page.edit("write line", { text: "", start, end, ...what });
      if (!done?.problem && what.text) this.words = "";
    },
    putWords() {
      if (this.words.trim()) this.put({ text: this.words });
    },
    lookAt(doubt) {
      page.select(doubt.word, -1);
    },
    placeLost(number) {
      page.edit("place lost", { lost: number, at: this.word.at });
    },
    dropLost(number) {
      page.edit("drop lost", { lost: number });
    },
    goTo(frame) {
      page.go(frame);
    },
    bring(event) {
      if (event.target.files.length) page.bring(event.target.files[0]);
    },

    // How it stands now. chosen: the selected word's place and sound, or null; voices: the names of all staves.
    show(stave, chosen, tab, voices, active) {
      const word = chosen ? wordAt(stave, chosen)?.word ?? null : null;
      const sound = word && chosen.sound < word.sounds.length ? chosen.sound : -1;
      const found = doubtful(stave);
      Object.assign(shown ?? dock, {
        doubtCount: found.length,
        tab,
        voices: voices.map((name, number) => ({ name, number, selected: String(number === active) })),
        read: stave.read,
        character: stave.character,
        word,
        sound,
        ipa: sound >= 0 ? word.sounds[sound].ipa : "",
        doubts: tab === "doubts" ? found.map((one, key) => doubtRow(one, key, page, chosen)) : [],
        lost: stave.lost.map((one, number) => ({ ...one, number })),
        away: stave.pinsAway.map((one, number) => awayRow(one, number, page)),
        toPlace: stave.toPlace,
        files: page.formats.map(([name, code, loses]) => ({ name, code, url: stave.outUrl.replace("KIND", code), holds: loses ? `does not hold ${loses}` : "holds everything, pins too" })),
      });
    },
    get rereads() {
      return (shown ?? dock).inside;
    },
  };
  document.addEventListener("alpine:init", () => window.Alpine.data("dock", () => dock));
  return dock;
}

function doubtRow({ word, line }, key, page, chosen) {
  const sure = word.extra.length ? "unwritten speech" : percent(word.confidence);
  return { key, word, text: word.text, line: line.text, struck: word.said ? "" : "struck", frame: page.frame(word.start), sure: word.said ? sure : "not heard", pressed: String(sameWord(word, chosen)) };
}

function awayRow({ drawing, frame, frames, why }, number, page) {
  const there = frame === null ? "" : ` from frame ${frame + page.startFrame}`;
  return { number, drawing, frame, seen: frame !== null, text: `pinned for ${frames} frames${there}: ${why}` };
}
