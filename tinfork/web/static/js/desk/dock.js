// The panels of the desk: who is shown, and under the lanes the mouth map, the selected word, the words to look at, the
// readings as files and the pins without a place. The page says what is so; what is pressed goes back to it.
import { goHome } from "../lib/focus.js";
import { easeOn } from "../lib/easing.js";
import { anewNow, habitsNow, historyRows, peopleIn, rangePanels, rangesNow, takeRows } from "./ranges.js";
import { mouthPicture } from "./mirror.js";
import { isSet, sameWord } from "./staves.js";
import { doubtful, guessOf, halves, isUnwritten, percent, stateOf, wordAt } from "./words.js";

const NO_TIMING = { names: [], rows: [], drawings: [], told: "" };

/** @param {any} page what the panels ask of the desk */
export function dockOf(page) {
  let shown = null;
  const dock = {
    mayEdit: page.mayEdit,
    signs: page.keyboard.slice(1).flat(),
    voices: [],
    together: false,
    onion: false,
    soloed: false,
    curved: false,
    dialPoints: [],
    dialDetail: 0.5,
    seen: [],
    follow: true,
    many: false,
    tab: "mouths",
    read: false,
    character: "",
    word: null,
    sound: -1,
    ipa: "",
    between: "",
    guess: "",
    anewText: "",
    anewPressed: "false",
    anewKnown: false,
    words: "",
    inside: false,
    doubts: [],
    doubtCount: 0,
    lost: [],
    away: [],
    toPlace: [],
    files: [],
    chosen: 0,
    pinned: false,
    first: "",
    long: "",
    ease: "",
    border: "squeeze",
    along: "",
    times: "1",
    reach: "12",
    about: "",
    timing: NO_TIMING,

    init() {
      shown = this;
    },

    get listed() {
      return this.read && !this.timing.names.length;
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
    get unwritten() {
      return isUnwritten(this.word);
    },
    get noSound() {
      return this.sound < 0 || this.sound >= this.word.sounds.length;
    },
    get notSplit() {
      return this.noSound || this.sound < 1;
    },
    get noMouth() {
      return this.chosen === 0;
    },
    get pinText() {
      return this.pinned ? "Unpin" : "Pin";
    },
    get placeText() {
      return this.word ? `Place on “${this.word.text}”` : "Place";
    },

    mouth(what) {
      page.mouths().doing[what]();
    },
    group(name) {
      page.mouths().chooseGroup(name);
    },
    again() {
      page.mouths().repeat(Number.parseInt(this.times, 10) || 0);
    },
    // Where the chosen exposure is to begin and how long it is held, as typed.
    putAt() {
      const [first, long] = [this.first, this.long].map((text) => Number.parseInt(text, 10));
      if (Number.isFinite(first) && Number.isFinite(long)) page.mouths().span(first - page.startFrame, long);
      goHome();
    },
    setEase() {
      const frames = Number.parseInt(this.ease, 10);
      if (Number.isFinite(frames)) page.mouths().ease(frames);
      goHome();
    },
    writeWord() {
      this.change("write word", { text: this.guess });
    },
    open: page.open,
    activate: page.activate,
    seeAll: page.seeAll,
    onionSkin: page.onionSkin,
    fullScreen: page.fullScreen,
    followOrNot: page.followOrNot,
    zoomTo: page.zoomTo,
    solo: page.solo,
    curves() {
      page.curves();
    },
    async showDial(event) {
      if (event.target.open) this.dialPoints = await page.dialCurve();
    },
    get dialChanges() {
      const most = Math.max(1, ...this.dialPoints.map((one) => one.changes));
      return pointsOf(this.dialPoints.map((one) => [one.detail, one.changes / most]));
    },
    get dialReached() {
      return pointsOf(this.dialPoints.map((one) => [one.detail, one.reached]));
    },
    get dialAt() {
      return String(DIAL_WIDTH * this.dialDetail);
    },
    get dialText() {
      const near = this.dialPoints.toSorted((a, b) => Math.abs(a.detail - this.dialDetail) - Math.abs(b.detail - this.dialDetail))[0];
      return near ? `${near.exposures} exposures, ${near.changes.toFixed(1)} changes a second, ${Math.round(near.reached * 100)}% of long vowels open` : "…";
    },
    chooseSeen(row) {
      page.choose(row.frame);
    },
    get soloText() {
      return String(this.soloed);
    },
    get curvedText() {
      return String(this.curved);
    },
    loopLine: page.loopLine,
    get togetherText() {
      return String(this.together);
    },
    get onionText() {
      return String(this.onion);
    },
    get followText() {
      return String(this.follow);
    },
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
    async lookAtTiming(event) {
      const [file] = event.target.files;
      if (!file) return;
      const answer = await page.lookAtTiming(file);
      event.target.value = "";
      if (!answer) return;
      const names = answer.names.map((one) => ({ ...one, told: `${one.times} ${one.times === 1 ? "time" : "times"}`, label: `The drawing that ${one.name} stands for` }));
      this.timing = { ...answer, names, drawings: page.stave().chart.drawings.filter((one) => !one.lent).map((one) => one.name) };
    },
    // What a name was matched to, to be seen.
    pictured(name) {
      const drawing = page.stave().chart.drawings.find((one) => one.name === name);
      this.$el.replaceChildren(...(drawing ? [mouthPicture(drawing)] : []));
    },
    async layTiming() {
      const names = Object.fromEntries(this.timing.names.map((one) => [one.name, one.drawing]));
      const done = await page.edit("lay timing", { rows: this.timing.rows, names });
      if (done?.document && !done.problem) this.leaveTiming();
      if (done?.notes?.length) page.say(done.notes.join(" "), undefined, "", true);
    },
    leaveTiming() {
      this.timing = NO_TIMING;
    },
    bring(event) {
      if (event.target.files.length) page.bring(event.target.files[0]);
    },

    // How it stands now. state: what is selected; staves: all of them; lead: the exposure chosen last, or null.
    show(stave, state, tab, staves, lead) {
      const chosen = state.word;
      const word = chosen ? wordAt(stave, chosen)?.word ?? null : null;
      const sound = word && chosen.sound < word.sounds.length ? chosen.sound : -1;
      const found = doubtful(stave);
      const now = shown ?? dock;
      const { bend, ...ranges } = rangesNow(page, stave, state, tab, staves, now);
      // What can be typed over is shown anew only when it, or what it is about, is another; else it may be half typed.
      const fields = {
        ipa: sound >= 0 ? word.sounds[sound].ipa : "",
        guess: word ? guessOf(word) : "",
        first: lead ? String(lead.frame + page.startFrame) : "",
        long: lead ? String(lead.frames) : "",
        ease: lead ? String(easeOn(stave.eases, lead.frame)) : "",
        bend,
      };
      const about = JSON.stringify([fields, word?.at, sound]);
      if (about !== now.about) Object.assign(now, fields, { about });
      Object.assign(now, {
        doubtCount: found.length,
        tab,
        voices: staves.map(({ character }, number) => ({ name: character, number, selected: String(number === state.active) })),
        chosen: state.chosen.length,
        pinned: Boolean(lead?.pinned),
        ...ranges,
        ...anewNow(page.takes.compared),
        takes: takeRows(page.takes.rows, page.takes.compared?.id),
        people: peopleIn(page.history.steps),
        history: historyRows(page.history.steps, (area) => staves.find((one) => area === `stave ${one.id}`)?.character ?? area.split(" ")[0]),
        ...habitsNow(page.habits, page),
        together: state.together,
        onion: state.onion,
        soloed: state.solo === stave.id,
        curved: state.curves !== null,
        dialDetail: stave.settings.detail,
        seen: tab === "list" ? seenRows(stave, page, state) : [],
        follow: state.follow,
        many: staves.length > 1,
        read: stave.read,
        character: stave.character,
        word,
        sound,
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
    get asked() {
      return shown ?? dock;
    },
  };
  Object.defineProperties(dock, Object.getOwnPropertyDescriptors(rangePanels(page)));
  document.addEventListener("alpine:init", () => window.Alpine.data("dock", () => dock));
  return dock;
}

const DIAL_WIDTH = 240;
const DIAL_HEIGHT = 44;

// Pairs of Detail and a share, as the points of a line in the small picture of the dial.
export const pointsOf = (pairs) => pairs.map(([detail, share]) => `${(DIAL_WIDTH * detail).toFixed(1)},${(DIAL_HEIGHT * (1 - share)).toFixed(1)}`).join(" ");

// The exposures in view as a list: what the ribbon shows, in words.
function seenRows(stave, page, state) {
  const [first, end] = page.inView();
  return stave.exposures
    .filter((one) => one.frame < end && one.frame + one.frames > first)
    .map((one) => ({
      frame: one.frame,
      text: `${one.frame + page.startFrame}, ${one.frames} ${one.frames === 1 ? "frame" : "frames"}: ${one.drawing || "nothing"}${one.own ? ", of a stretch of its own" : one.pinned ? ", pinned" : ""}`,
      pressed: String(state.chosen.includes(one.frame)),
    }));
}

function doubtRow({ word, line }, key, page, chosen) {
  const sure = isUnwritten(word) ? "unwritten speech" : percent(word.confidence);
  return { key, word, text: word.text, line: line.text, struck: word.said ? "" : "struck", frame: page.frame(word.start), sure: word.said ? sure : "not heard", pressed: String(sameWord(word, chosen)) };
}

function awayRow({ drawing, frame, frames, why }, number, page) {
  const there = frame === null ? "" : ` from frame ${frame + page.startFrame}`;
  return { number, drawing, frame, seen: frame !== null, text: `pinned for ${frames} frames${there}: ${why}` };
}
