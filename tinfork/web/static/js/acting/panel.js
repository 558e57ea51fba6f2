// The panels of the Acting view: the phrase beside, and under the lanes the part, the proposals, poses and passes.
import { post } from "../lib/edits.js";
import { goHome } from "../lib/focus.js";
import { scaleOf } from "./lanes.js";

const WAYS = [
  ["left", "←", -1, 0],
  ["right", "→", 1, 0],
  ["up", "↑", 0, -1],
  ["down", "↓", 0, 1],
  ["up left", "↖", -0.7, -0.7],
  ["up right", "↗", 0.7, -0.7],
];
const NO_PHRASE = { line: 0, text: "", frames: "", note: "", amount: 1, amountText: "", proposed: 0, locked: false, told: "" };

/** @param {any} page what the panels ask of the view */
export function panelOf(page) {
  let shown = null;
  let followed = "";
  const { state, edit, say } = page;
  const number = (event) => Number.parseFloat(event.target.value);

  const panel = {
    mayEdit: page.page.mayEdit,
    tab: "part",
    cast: [],
    many: false,
    together: false,
    phrase: NO_PHRASE,
    phrases: [],
    parts: [],
    dials: [],
    drawings: [],
    pressed: [],
    chosenText: "",
    hasKey: false,
    hasShow: false,
    hasGesture: false,
    gestureAmount: 1,
    looks: false,
    ways: WAYS.map(([name, sign, x, y]) => ({ name, sign, x, y, label: `Look ${name}` })),
    headToo: true,
    lead: 0,
    alone: false,
    others: [],
    wish: { rate: 16, seed: 1, eyes_first: 3, amount: 1 },
    onlyPart: "",
    poses: [],
    poseName: "",
    poseAmount: "1",
    poseMirrored: false,
    passOf: "y",
    passWith: "mouse",
    passLate: "120",
    passSmooth: "2",
    passAllowed: "0.5",
    passTold: "",
    recording: false,

    init() {
      shown = this;
      refresh();
    },
    get fixed() {
      return !this.mayEdit || this.phrase.locked;
    },
    get poseShare() {
      return `${Math.round(Number(this.poseAmount) * 100)}%`;
    },

    open(name) {
      document.activeElement?.blur();
      this.tab = name;
      refresh();
    },
    activate(one) {
      page.activate(one);
      refresh();
    },
    seeAll() {
      page.seeAll();
      refresh();
    },
    goTo(frame) {
      page.transport.go(frame, false);
    },

    // The phrase
    note(event) {
      edit("phrase", { line: this.phrase.line, note: event.target.value });
    },
    amount(event) {
      edit("phrase", { line: this.phrase.line, amount: number(event) });
    },
    propose: () => panel_.propose(),
    accept: () => panel_.accept(),
    throwAway: () => panel_.throwAway(),
    moment: () => panel_.moment(),
    lock() {
      edit("phrase", { line: this.phrase.line, locked: !this.phrase.locked });
    },

    // The scene
    proposeAll() {
      return proposed([]);
    },
    async others_() {
      await edit("wish", { seed: (page.acted().wish.seed % 1_000_000) + 1 });
      return proposed([]);
    },
    wishTo(name, event) {
      const value = number(event);
      if (Number.isFinite(value)) edit("wish", { [name]: name === "eyes_first" ? Math.round(value) : value });
    },

    // The part
    chooseDial(name) {
      state.dial = name;
      state.chosen = null;
      refresh();
      page.draw();
    },
    turn(dial, event) {
      state.dial = dial;
      page.preview({ dials: { ...page.lane().pose(state.frame).dials, [dial]: number(event) } });
    },
    setDial(dial, event) {
      state.dial = dial;
      const value = number(event);
      if (Number.isFinite(value)) edit("key", { part: state.part, dial, frame: state.frame, value: Number((value - added(dial)).toFixed(3)) });
    },
    show(drawing) {
      page.showAt(drawing);
    },
    onShow(verb) {
      const at = state.chosen?.frame ?? state.frame;
      const own = { split: { frame: state.frame }, "hold on": { frame: at }, free: { at: [at] }, remove: { at: [at] } };
      edit(verb, { part: state.part, ...own[verb] });
    },
    ease(ease) {
      edit("ease", { part: state.part, dial: state.chosen.dial, frames: [state.chosen.frame], ease });
    },
    remove() {
      page.removeChosen();
    },
    gestureTo(event) {
      edit("gestures", { part: state.part, ids: [state.chosen.id], amount: number(event) });
    },
    gestureKept() {
      edit("gestures", { part: state.part, ids: [state.chosen.id] });
    },
    asKeys() {
      edit("as keys", { part: state.part, ids: [state.chosen.id] });
    },
    look(x, y) {
      page.look(x, y, this.headToo);
    },
    leadTo(event) {
      const frames = number(event);
      if (Number.isFinite(frames)) edit("lane", { part: state.part, lead: Math.round(frames) });
    },
    aloneTo(event) {
      edit("lane", { part: state.part, alone: event.target.checked });
    },
    clearRange() {
      const span = page.span();
      if (span) edit("drop keys", { part: state.part, first: span[0], end: span[1] });
      else say("Set in and out around what is to be cleared first (I and O).");
    },
    copyFrom(event) {
      const source = Number(event.target.value);
      const span = page.span();
      event.target.value = "";
      if (!source) return;
      if (span) edit("paste", { source, first: span[0], end: span[1], frame: span[0], parts: [] });
      else say("Set in and out around what is to be copied first (I and O).");
    },

    // Poses
    async keepPose() {
      if (!this.poseName.trim()) return say("Give the pose a name first.");
      await page.posesAsked({ name: this.poseName, frame: state.frame });
      this.poseName = "";
    },
    layPose(pose) {
      edit("pose", { pose, frame: state.frame, amount: Number(this.poseAmount), mirrored: this.poseMirrored });
    },
    async dropPose(pose) {
      try {
        await post(`/poses/${pose}/delete`, {});
        page.page.poses = page.page.poses.filter((one) => one.id !== pose);
      } catch (failed) {
        say(failed.message);
      }
      refresh();
    },

    // Passes
    async pass() {
      if (this.recording) return passEnds("");
      const dial = this.passOf;
      const from = page.span()?.[0] ?? state.frame;
      if (state.loop) page.transport.toggleLoop();
      page.transport.go(from, false);
      this.recording = true;
      this.passTold = "Recording: move the hand.";
      await page.transport.toggle();
      page.recorder.begin({ dial, with: this.passWith, drawings: this.drawings, most: dial === "switch" ? 0 : scaleOf(dial) * (dial === "y" ? -1 : 1), from });
    },
  };

  // By how much gestures turn a dial beside its keys.
  const added = (dial) => page.lane().value(dial, state.frame) - page.lane().keyed(dial, state.frame);

  async function proposed(lines) {
    const own = shown?.onlyPart ? [shown.onlyPart] : [];
    const answer = await edit("propose", { lines, parts: own });
    if (answer.proposed !== undefined) say(`${answer.proposed} gestures proposed for ${answer.phrases === 1 ? "the phrase" : `${answer.phrases} phrases`}. Accept what is right, throw away the rest.`, undefined, "", true);
  }

  async function passEnds(sentence) {
    const made = page.recorder.end();
    shown.recording = false;
    if (page.transport.player.playing) await page.transport.toggle();
    goHome();
    if (!made) {
      shown.passTold = "Nothing was recorded.";
      if (sentence) say(sentence);
      return;
    }
    const last = made.samples.at(-1)?.[0] ?? state.frame;
    const out = page.span()?.[1] ?? Math.floor(last) + 1;
    const late = (Number(shown.passLate) / 1000) * page.fps;
    const what = { part: state.part, first: made.from, end: Math.min(state.frames, Math.max(made.from + 1, Math.min(out, Math.floor(last) + 1))), late };
    const answer =
      made.dial === "switch"
        ? await edit("record switch", { ...what, shown: made.shown })
        : await edit("record", { ...what, dial: made.dial, samples: made.samples, smooth: Math.round(Number(shown.passSmooth)), allowed: Number(shown.passAllowed) });
    if (sentence) say(sentence);
    const { pass } = answer;
    shown.passTold = pass ? `${pass.keys} keys for ${pass.frames} frames, off by ${pass.error} at most.` : "It was not kept.";
  }

  function phraseNow() {
    const found = page.phraseAt(state.frame);
    if (!found) return NO_PHRASE;
    const [line, first, end] = found;
    const own = page.acted().phrases[line] ?? {};
    const gestures = Object.values(page.acted().lanes).flatMap((lane) => lane.gestures.filter((one) => one.line === line));
    const accepted = gestures.filter((one) => one.accepted).length;
    const amount = own.amount ?? 1;
    return {
      line,
      text: page.textOf(line),
      frames: `${first + state.startFrame}–${end - 1 + state.startFrame}`,
      note: own.note ?? "",
      amount,
      amountText: `${Math.round(amount * 100)}%`,
      proposed: gestures.length - accepted,
      locked: own.locked ?? false,
      told: `${gestures.length - accepted} proposed, ${accepted} accepted`,
    };
  }

  function phraseRows() {
    return page.acted().lines.map(([line, frame], place) => {
      const own = page.acted().phrases[line] ?? {};
      return { line, frame, number: String(place + 1), state: own.locked ? "locked" : own.note ? "noted" : "", title: own.note || "Go there" };
    });
  }

  const rounded = (value) => Number(value.toFixed(3));

  // What goes with the playhead.
  function follow() {
    if (!shown) return;
    const lane = page.lane();
    const playing = page.transport.player.playing;
    if (playing && !page.recorder.on) return;
    const key = [state.active, state.part, state.dial, state.frame, page.acted().version].join();
    if (key === followed) return;
    followed = key;
    shown.dials = Object.entries(page.page.dials).map(([name, [least, most, unit]]) => {
      const far = Math.min(most, scaleOf(name) * 2);
      const value = rounded(lane.value(name, state.frame));
      const mark = name === state.dial ? "dial-chosen" : "";
      return { name, unit, least: Math.max(least, -far), most: far, step: far > 5 ? 0.1 : 0.005, value, mark, label: `${state.part} ${name}`, numberLabel: `${state.part} ${name}, as a number` };
    });
    shown.phrase = phraseNow();
  }

  function refresh() {
    if (!shown) return;
    followed = "";
    const part = page.part();
    const lane = page.lane();
    const { chosen } = state;
    const gesture = chosen?.kind === "gesture" ? lane.gestures.find((one) => one.id === chosen.id) : null;
    Object.assign(shown, {
      cast: page.actings.map((one, place) => ({ number: place, name: one.character, chosen: place === state.active ? "true" : "false" })),
      many: page.actings.length > 1,
      together: state.together,
      parts: state.parts,
      drawings: part.drawings.length ? [...new Set([...part.drawings, part.rest])].map((name, i) => ({ name, label: name || "nothing", key: String(i + 1) })) : [],
      hasKey: chosen?.kind === "key",
      hasShow: part.drawings.length > 0,
      hasGesture: Boolean(gesture),
      gestureAmount: gesture?.amount ?? 1,
      looks: part.role === "eyes",
      lead: lane.maps.of.lead,
      alone: lane.maps.of.alone,
      others: page.actings.filter((one) => one !== page.acted()).map((one) => ({ id: one.id, name: one.character })),
      wish: page.acted().wish,
      poses: page.page.poses.map((pose) => ({ ...pose, title: `Lay it at the playhead: ${pose.parts.join(", ")}`, away: `Delete the pose ${pose.name}` })),
      phrases: shown.tab === "scene" ? phraseRows() : [],
      chosenText: told(chosen, gesture),
    });
    shown.pressed = shown.passOf === "switch" ? shown.drawings : [];
    if (state.parts.length) page.steps?.();
    follow();
  }

  function told(chosen, gesture) {
    if (!chosen) return "none chosen";
    const at = chosen.frame + state.startFrame;
    if (gesture) return `${gesture.kind}, ${gesture.accepted ? "accepted" : "proposed"}, frames ${at} to ${at + gesture.frames - 1}`;
    return chosen.kind === "key" ? `key of ${chosen.dial} on frame ${at}` : `drawing from frame ${at}`;
  }

  const panel_ = {
    refresh,
    follow,
    passEnds,
    get headToo() {
      return shown?.headToo ?? true;
    },
    propose: () => (phraseNow().line ? proposed([phraseNow().line]) : undefined),
    accept: () => edit("accept", { line: phraseNow().line }),
    throwAway: () => edit("throw away", { line: phraseNow().line }),
    moment() {
      const { line } = phraseNow();
      const own = page.acted().moments?.[line] ?? [];
      const moments = own.includes(state.frame) ? own.filter((one) => one !== state.frame) : [...own, state.frame];
      return edit("phrase", { line, moments });
    },
  };
  document.addEventListener("alpine:init", () => globalThis.Alpine.data("acting", () => panel));
  return panel_;
}
