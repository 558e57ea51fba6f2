// The Reading desk: what is chosen is one state, what the scene is lies in the store; both are drawn when they change.
import { $, $button, $canvas, givenIn, oncePerPicture, on, typing } from "../lib/page.ts";
import { keepLayout } from "../lib/kept.ts";
import { Reel } from "../lib/reel.ts";
import { sayDone, sayIn, showSteps } from "../lib/saying.ts";
import { frameAt } from "../lib/store/clock.ts";
import { sayWhatWasDone } from "../lib/store/editor.ts";
import { sentenceOf } from "../lib/store/requests.ts";
import { type Change, Store } from "../lib/store/store.ts";
import { Miniature } from "../lib/time/miniature.ts";
import { type Jump, Transport } from "../lib/time/transport.ts";
import type { Stave } from "../lib/types.ts";
import { checkingOf } from "./checking.ts";
import { Checks } from "./checks.ts";
import { Choosing } from "./choosing.ts";
import { dockOf } from "./dock/dock.ts";
import type { DockPage } from "./dock/page.ts";
import { Doing } from "./doing.ts";
import { drawStaves } from "./draw/staves.ts";
import { Habits } from "./habits.ts";
import { pointerOn } from "./hands.ts";
import { History } from "./history.ts";
import { keysOf } from "./keys.ts";
import { looksOf } from "./looks.ts";
import { MouthHands } from "./mouthhands.ts";
import { Mirrors } from "./mirrors.ts";
import { SceneNotes } from "./notes.ts";
import { MouthMap } from "./mouthmap.ts";
import { type DeskDocument, deskState, nothingChosen, type Tab } from "./state.ts";
import { outlinesIn } from "./outlines.ts";
import { Takes } from "./takes.ts";
import { Why } from "./why.ts";
import { WordHands } from "./wordhands.ts";
import { wordAt } from "./words.ts";

const DIALS = ["dial-hold", "dial-lead", "dial-detail", "dial-step"];
const CHOSEN_BY_HAND = /^(another drawing|put in|pin)$/;

function begin(given: DeskDocument): void {
  const say = sayIn($("problem"));
  const tell = sayIn($("told"));
  const store = new Store(given, { say, view: () => transport.inView, fills: true });
  const { fps } = store;
  const state = deskState(store);
  const canvas = $canvas("staves");
  const room = $("desk");
  const draw = oncePerPicture(render);
  const transport = new Transport(state, { width: () => canvas.clientWidth, frames: () => store.frames, draw, shown: showFrame, jumps, claims: (event) => mouths.claims(event) });
  const miniature = new Miniature($canvas("miniature"));
  let reel = new Reel($("reel"), store.sound, fps);
  sayWhatWasDone(say);

  const stave = (): Stave => store.staves[state.active];
  const placeOf = (event: MouseEvent) => state.left + (event.clientX - canvas.getBoundingClientRect().left) / state.perFrame;
  const base = {
    given,
    store,
    state,
    fps,
    transport,
    canvas,
    say,
    stave,
    async edit(verb: string, what: object = {}) {
      tell(""); // Its Undo would take back another step.
      return store.edit(stave().id, verb, what);
    },
    draw,
    showSelection,
    showDock,
    open,
    placeOf,
    frameOf: (event: MouseEvent) => Math.floor(placeOf(event)),
  };

  const choosing = new Choosing(base, () => Number.parseInt(dock.asked.reach, 10) || 0);
  const map = new MouthMap($("mouth-map"), (drawing) => doing.pick(drawing));
  const mirrors = new Mirrors(store, state);
  const doing = new Doing(base, {
    choosing,
    map,
    mirror: mirrors.own,
    border: () => dock.asked.border,
    along: () => dock.asked.along,
    times: () => Number.parseInt(dock.asked.times, 10) || 1,
    tell,
  });
  const mouths = new MouthHands(base, choosing, doing);
  const reading = (busy: boolean) => Object.assign(room.dataset, { reading: busy ? "yes" : "no" });
  const words = new WordHands(base, { rereads: () => dock.asked.inside, stays: () => dock.asked.stay, reading });
  const checks = new Checks(store);
  const checking = checkingOf(base, checks, choosing);
  const looks = looksOf(base, { choosing, mirrors, activate });
  const takes = new Takes({ stave, say, changed: showTakes });
  const gone = () => {
    tell("");
    return store.lookAgain();
  };
  const history = new History({ url: given.historyUrl, backUrl: given.backUrl, say, changed: showDock, gone, inLine: (work) => store.editor.inLine(work) });
  const habits = new Habits({ stave, say, changed: showDock, open: () => open("habits") });
  const notes = new SceneNotes(base);
  const page: DockPage = { ...base, choosing, doing, mouths, words, takes, history, habits, notes, looks, checking, activate };
  const dock = dockOf(page);
  const why = new Why(base, $("why"));
  const outline = outlinesIn(room, base, { aim: (what) => doing.aim(what), choosing, hint: $("map-hint") });

  // Drawing

  function render(): void {
    drawStaves(canvas, state, fps);
    miniature.draw(state, { frames: store.frames, fps, clips: [...store.clips.values()], peaks: state.peaks, shown: canvas.clientWidth, ink: "tin-deep" });
  }

  let marked = "null.null";

  function showFrame(playing: boolean): void {
    Object.assign(room.dataset, { frame: String(state.frame), time: state.time.toFixed(6), playing: playing ? "yes" : "no" });
    mirrors.frame(takes);
    outline();
    if (marked !== `${state.in}.${state.out}`) {
      marked = `${state.in}.${state.out}`;
      showDock();
    }
    reel.show(state.time, playing, transport.player.speed);
    why.show();
  }

  // Frames where lines or words of the active stave begin.
  function jumps(kind: Jump): number[] {
    const { lines } = stave();
    const starts = kind === "lines" ? lines : lines.flatMap((line) => line.words);
    return starts.map((one) => Math.max(0, frameAt(one.start, fps))).sort((a, b) => a - b);
  }

  // another: another character, or other drawings.
  function showStave(another = true): void {
    const own = stave();
    if (another) {
      mirrors.show(own);
      map.show(own.chart);
    }
    mirrors.own.stave = own;
    const { hold, lead, detail, step } = own.settings;
    for (const [id, value] of Object.entries({ "dial-hold": hold, "dial-lead": lead, "dial-detail": detail, "dial-step": step })) {
      Object.assign($(id), { value, disabled: !given.mayEdit });
    }
    $("plan-anew").hidden = !own.newChart || !given.mayEdit;
    showSelection();
    transport.show();
  }

  function activate(number: number): void {
    if (number === state.active || number < 0) return;
    state.active = number;
    Object.assign(state, nothingChosen(), { check: null, curves: null });
    looks.fit();
    if (takes.compared) takes.leave();
    load(state.tab);
    showStave();
  }

  function showSelection(): void {
    const lead = state.chosen.length ? choosing.lead : undefined;
    room.dataset.selected = lead ? String(lead.frame) : "";
    room.dataset.chosen = state.chosen.join(" ");
    const { judged } = choosing;
    map.mark({ name: lead?.drawing, enabled: given.mayEdit, likeliest: judged && doing.ranked(judged)[0]?.name });
    outline(true);
    for (const id of ["previous", "next"]) $button(id).disabled = !stave().exposures.length;
    showSteps($button("undo"), $button("redo"), stave(), given.mayEdit);
    showDock();
    draw();
  }

  // The dock under the lanes

  function load(tab: Tab): void {
    if (tab === "takes") takes.load();
    if (tab === "habits") habits.load();
  }

  // Keys after this are meant for the word, not for the tab.
  function open(tab: Tab): void {
    (document.activeElement as HTMLElement | null)?.blur();
    state.tab = tab;
    load(tab);
    if (tab === "history") history.load();
    showDock();
  }

  function showDock(): void {
    room.dataset.word = wordAt(stave(), state.word)?.word.at.join(".") ?? "";
    dock.show();
  }

  function showTakes(): void {
    state.compared = takes.compared;
    mirrors.compare(takes);
    transport.show();
    showDock();
  }

  // What changes in the store

  store.changed.on((change: Change) => {
    if (change.kind === "stave") staveChanged(change.before, change.now);
    else if (change.kind === "sound") soundChanged();
    else if (change.kind === "acting") transport.show();
    else if (change.kind === "elsewhere") {
      tell("");
      sayDone(say, change.sentence);
    }
    else if (change.kind === "busy") room.dataset.busy = change.busy ? "yes" : "no";
    else if (change.kind === "filled") room.dataset.whole = change.whole ? "yes" : "no";
    else if (change.kind === "edited" && change.done && CHOSEN_BY_HAND.test(change.patch.undo)) habits.later();
  });

  function staveChanged(before: Stave, now: Stave): void {
    const drawn = (one: Stave) => one.chart.drawings.map(({ name }) => name).join();
    const another = drawn(before) !== drawn(now);
    if (another && state.together) mirrors.group.show(store.staves);
    if (now.id !== stave().id) return draw();
    if (before.checks !== now.checks && before.lines === now.lines && before.exposures === now.exposures && before.version === now.version) {
      showDock();
      return draw();
    }
    choosing.kept();
    showStave(another);
  }

  function soundChanged(): void {
    reel = new Reel($("reel"), store.sound, fps);
    transport.player.stop();
    looks.hear().catch((failed) => say(sentenceOf(failed)));
  }

  // Hands

  const changeDials = () => {
    const [hold, lead, detail, step] = DIALS.map((id) => Number(($(id) as HTMLInputElement).value));
    base.edit("settings", { hold, lead, detail, step });
  };
  for (const id of DIALS) $(id).addEventListener("change", changeDials);
  on("plan-anew", async () => {
    const { id } = stave();
    await base.edit("plan with chart");
    await store.anew(id);
  });
  on("previous", () => choosing.beside(-1));
  on("next", () => choosing.beside(1));
  on("undo", () => base.edit("undo"));
  on("redo", () => base.edit("redo"));
  $("miniature").addEventListener("click", (event) => transport.go(miniature.frameAt(event.clientX, store.frames), false));
  pointerOn(page, { fold: looks.fold });
  const key = keysOf(page, { nextCheck: checking.next, toggleTake: () => takes.toggle() });
  document.addEventListener("keydown", (event) => {
    if (typing(event) || !key(event)) return;
    event.preventDefault();
  });
  window.addEventListener("resize", looks.fit);
  document.addEventListener("theme-switched", () => draw());

  // Beginning

  keepLayout(room);
  looks.fit();
  load(state.tab);
  state.perFrame = Math.min(24, Math.max(9, canvas.clientWidth / store.frames));
  showStave();
  requestAnimationFrame(() => requestAnimationFrame(() => performance.mark("first view")));
  for (const one of store.staves) checks.changed(one.id, [0, given.slice]);
  store.fill();
  store.watch();
  notes.begin();
  store.loadActing();
  ready();

  async function ready(): Promise<void> {
    await document.fonts.ready;
    try {
      await looks.hear();
    } catch (problem) {
      say(`${sentenceOf(problem)} Reload the page to try again.`);
    }
    room.dataset.ready = "yes";
    draw();
    if (location.hash === "#speak") speak();
  }

  // What was just made is heard and seen at once; a browser that wants a click first is given the button for it.
  async function speak(): Promise<void> {
    window.history.replaceState(null, "", location.pathname);
    $("play").focus();
    if (await transport.player.mayBeHeard()) transport.toggle();
  }
}

const given = givenIn<DeskDocument>("desk-document");
if (given) begin(given);
