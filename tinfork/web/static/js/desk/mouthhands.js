// Exposures under the hands: choosing them on the ribbon, dragging them and their seams, and the keys and buttons for what
// is done to them. What is done is asked of the server, which knows the verbs.
import { drag } from "../lib/drag.js";
import { likeliest, shapeAt } from "./likely.js";
import { endOf, fromTo, lifted, looped, placeAt, showing, still, toggled, within, withSeam } from "./selection.js";

const NONE_CHOSEN = "Select an exposure first (B, N, or press one on the ribbon).";

/** @param {any} page the desk: its state, the active stave, how an edit is asked for, and what shows what is chosen */
export function mouthHands(page) {
  const { state, fps, transport, canvas } = page;
  const exposures = () => page.stave().exposures;
  const seenOn = (frame) => exposures()[placeAt(exposures(), frame)];
  const lead = () => seenOn(state.lead);
  let choices = 0;
  const ordered = () => [...state.chosen].sort((a, b) => a - b);
  let copied = [];
  let copiedFrom = null;
  let brush = "";

  // Choosing

  // anchor: where a row of them that is made longer or shorter begins.
  function choose(frames, lead = frames.at(-1), seek = true, anchor = null) {
    choices += 1;
    state.chosen = frames;
    state.lead = lead ?? null;
    state.anchor = anchor;
    if (frames.length) state.word = null;
    page.mouthIsChosen();
    if (seek && lead !== undefined && lead !== null) transport.go(lead, false);
    page.showSelection();
  }

  // What was chosen, in the exposures as they are now.
  function kept() {
    state.chosen = still(exposures(), state.chosen);
    if (state.lead !== null) state.lead = seenOn(state.lead)?.frame ?? null;
  }

  function beside(step, more = false) {
    const from = state.chosen.length ? state.lead : state.frame;
    const next = exposures()[placeAt(exposures(), from) + step];
    if (!next) return;
    if (!more) return choose([next.frame]);
    const anchor = state.anchor ?? from;
    choose(fromTo(exposures(), anchor, next.frame), next.frame, true, anchor);
  }

  const range = () => (state.in === null || state.out === null ? null : [state.in, state.out + 1]);

  // The exposures of the word or the line at the playhead, from a frame before it on.
  function spoken(what) {
    const time = (state.frame + 0.5) / fps;
    const line = page.stave().lines.find((one) => one.start <= time && time < one.end);
    const found = what === "line" ? line : line?.words.find((one) => one.said && one.start <= time && time < one.end);
    return found ? within(exposures(), Math.floor(found.start * fps) - 1, Math.ceil(found.end * fps)) : null;
  }

  const groups = {
    all: () => within(exposures(), 0, Infinity),
    range: () => range() && within(exposures(), ...range()),
    word: () => spoken("word"),
    line: () => spoken("line"),
    same: () => lead() && showing(exposures(), lead().drawing),
    before: () => within(exposures(), 0, state.frame + 1),
    after: () => within(exposures(), state.frame, Infinity),
    near: () => within(exposures(), state.frame - page.reach(), state.frame + page.reach() + 1),
  };
  const lacking = {
    range: "Set in and out first (I, O).",
    word: "There is no word at the playhead.",
    line: "There is no line at the playhead.",
    same: NONE_CHOSEN,
  };

  function chooseGroup(name) {
    const frames = groups[name]();
    if (!frames?.length) return page.say(lacking[name] ?? "There is no exposure here.");
    choose(frames, frames.includes(state.lead) ? state.lead : frames[0], false);
  }

  // Doing

  const pressed = () => (state.chosen.length ? { at: ordered() } : null);

  async function ask(verb, what) {
    if (!page.mayEdit || !what) return what ? undefined : page.say(NONE_CHOSEN);
    const done = await page.edit(verb, what);
    if (done?.notes?.length) page.say(done.notes.join(" "), undefined, "", true);
    return (done?.document || done?.others) && !done.problem;
  }

  // Ask, and choose what came of it, unless something else was chosen meanwhile.
  async function askAndChoose(verb, what, frames, lead, seek = false) {
    const asked = choices;
    if (!(await ask(verb, what)) || asked !== choices) return;
    const now = still(exposures(), frames);
    choose(now, lead ?? now.at(-1), seek);
  }

  // A drawing for the chosen exposures; with none chosen between in and out, or from the playhead on for a hold. While
  // it plays, at the playhead.
  function pick(drawing) {
    if (drawing === undefined || drawing === null) return;
    brush = drawing;
    if (transport.player.playing) return tap();
    if (!state.chosen.length) return lay(drawing);
    if (page.mayEdit && state.chosen.includes(seenOn(state.frame)?.frame)) page.mirror.expect(drawing);
    return ask("show", { at: ordered(), drawing });
  }

  function lay(drawing) {
    const [first, end] = range() ?? [state.frame, Math.min(page.frames, state.frame + page.stave().settings.hold)];
    return askAndChoose("lay", { frame: first, pieces: [[0, end - first, drawing]] }, [first]);
  }

  // The drawing that was chosen last, laid at the playhead, also while it plays.
  function tap() {
    const drawing = brush || seenOn(state.frame)?.drawing;
    if (!page.mayEdit || drawing === undefined) return;
    const frame = Math.min(state.frame, page.frames - 1);
    return ask("lay", { frame, pieces: [[0, Math.min(page.stave().settings.hold, page.frames - frame), drawing]] });
  }

  function likely(number) {
    const own = lead() ?? seenOn(state.frame);
    if (!own) return;
    pick(ranked(own)[number - 1]?.name);
  }

  // The drawings in the order they are likely for an exposure.
  function ranked(exposure) {
    const middle = Math.min(endOf(exposure) - 1, exposure.frame + Math.floor(exposure.frames / 2)) + page.stave().settings.lead;
    const shape = shapeAt(page.stave(), Math.min(middle, page.frames - 1), fps);
    return likeliest(page.map.drawings, page.shapes[shape], page.weights);
  }

  function pin() {
    const own = ordered().map(seenOn).filter(Boolean);
    if (own.length) return ask(own.every((one) => one.pinned) ? "free" : "keep", pressed());
    return page.say(NONE_CHOSEN);
  }

  function split() {
    const frame = state.frame;
    askAndChoose("split", { frame }, [frame]);
  }

  // along: "words" that are said there, or the "sound", go along.
  function slide(by, along = "") {
    const what = pressed();
    const to = state.lead + by;
    const moved = what?.at.map((frame) => frame + by);
    if (along === "sound") return askAndChoose("slide sound", what && { ...what, by }, moved, to, true);
    return askAndChoose("slide", what && { ...what, by, border: page.border(), words: along === "words" }, moved, to, true);
  }

  // The beginning or the end of the chosen exposure, so many frames later.
  function edge(which, by) {
    const own = lead();
    if (!own || !state.chosen.length) return page.say(NONE_CHOSEN);
    const frame = which === "start" ? own.frame : endOf(own);
    const begins = which === "start" ? own.frame + by : own.frame;
    transport.go(frame + by, true);
    askAndChoose("seam", { frame, to: frame + by }, [begins]);
  }

  function span(first, frames) {
    const own = lead();
    if (!own) return page.say(NONE_CHOSEN);
    askAndChoose("span", { frame: own.frame, first, frames }, [first], first, true);
  }

  function copy() {
    copied = lifted(exposures(), ordered());
    const own = ordered().map(seenOn).filter(Boolean);
    copiedFrom = own.length ? { id: page.stave().id, frames: [own[0].frame, endOf(own.at(-1))] } : null;
    page.say(copied.length ? `Copied ${copied.length} ${copied.length === 1 ? "exposure" : "exposures"}; paste at the playhead (Ctrl+V).` : lacking.same, undefined, "", copied.length > 0);
  }

  function cut() {
    copy();
    if (copied.length) remove(false);
  }

  function paste(loop = false) {
    if (!copied.length) return page.say("Copy some exposures first (Ctrl+C).");
    if (loop && !range()) return page.say(lacking.range);
    const frame = loop ? range()[0] : state.frame;
    const pieces = loop ? looped(copied, range()[1] - range()[0]) : copied;
    const words = !loop && page.along() === "words" && copiedFrom?.id === page.stave().id ? copiedFrom.frames : null;
    askAndChoose("lay", { frame, pieces, words }, pieces.map(([at]) => frame + at), frame);
  }

  function repeat(times) {
    const own = ordered().map(seenOn).filter(Boolean);
    const [first, end] = own.length ? [own[0].frame, endOf(own.at(-1))] : (range() ?? [null, null]);
    if (first === null) return page.say("Select what to repeat, or set in and out (I, O).");
    ask("repeat", { frame: first, frames: end - first, times });
  }

  function remove(hold) {
    const what = pressed();
    const first = what?.at[0];
    askAndChoose("remove", what && { ...what, hold }, [first]);
  }

  // The seams on which the chosen exposures begin, eased over some frames; 0 cuts them.
  function ease(frames) {
    ask("ease", pressed() && { ...pressed(), frames });
  }

  const doing = {
    split,
    pin,
    copy,
    cut,
    tap,
    paste: () => paste(),
    loop: () => paste(true),
    merge: () => askAndChoose("merge", pressed(), [Math.min(...state.chosen)]),
    rest: () => ask("rest", pressed()),
    nothing: () => (state.chosen.length ? pick("") : lay("")),
    remove: () => remove(false),
    hold: () => remove(true),
    "hold on": () => lead() && ask("hold on", { frame: lead().frame }),
    earlier: () => slide(-1, page.along()),
    later: () => slide(1, page.along()),
  };

  const keys = {
    b: () => beside(-1),
    n: () => beside(1),
    B: () => beside(-1, true),
    N: () => beside(1, true),
    p: pin,
    y: () => chooseGroup("same"),
    t: tap,
    e: doing.nothing,
  };
  const chosenKeys = {
    m: doing.merge,
    h: doing["hold on"],
    q: doing.rest,
    delete: doing.remove,
    backspace: doing.remove,
    "[": () => edge("start", -1),
    "]": () => edge("start", 1),
    "{": () => edge("end", -1),
    "}": () => edge("end", 1),
  };
  const withControl = { a: () => chooseGroup("all"), c: copy, x: cut, v: () => paste(), arrowleft: () => slide(-1, page.along()), arrowright: () => slide(1, page.along()) };
  const withControlAndShift = { v: () => paste(true), a: () => choose([], null, false), arrowleft: () => slide(-1, "words"), arrowright: () => slide(1, "words") };

  // What a key does to exposures; false when it does nothing.
  function key(event) {
    const name = event.key.toLowerCase();
    const control = event.ctrlKey || event.metaKey;
    const found = control ? (event.shiftKey ? withControlAndShift : withControl)[name] : keyAlone(event, name);
    if (!found || event.altKey) return false;
    found();
    return true;
  }

  function keyAlone(event, name) {
    if (/^[1-9]$/.test(name)) return () => likely(Number(name));
    if (name === "s" && !state.word) return split;
    if (name === "delete" && event.shiftKey && state.chosen.length) return () => remove(true);
    return keys[event.key] ?? (state.chosen.length ? chosenKeys[event.key] ?? chosenKeys[name] : null);
  }

  // Another mouth from the map for the chosen exposure: up more closed, down more open, left wider, right rounder.
  function neighbour(arrow) {
    if (lead()) pick(page.map.beside(lead().drawing, arrow));
  }

  // Dragging

  // spot: where the ribbon was pressed; on a seam that is dragged, on an exposure it is chosen, and slides when dragged;
  // under the ribbon, or with Shift, exposures are chosen from there to where the pointer goes.
  function hold(spot, event) {
    const own = seenOn(spot.frame);
    if (spot.seam !== undefined && page.mayEdit && !event.shiftKey) return holdSeam(spot.seam, event);
    if (!own) return;
    if (event.ctrlKey || event.metaKey) return choose(toggled(state.chosen, own.frame), own.frame, false);
    if (spot.under || event.shiftKey) return holdBox(spot, event, event.shiftKey && state.lead !== null ? state.lead : spot.frame);
    if (!state.chosen.includes(own.frame)) choose([own.frame], own.frame, false);
    else state.lead = own.frame;
    transport.go(spot.frame, false);
    if (page.mayEdit) holdBlock(spot, event);
  }

  function holdBox(spot, event, from) {
    const reach = (frame) => choose(fromTo(exposures(), from, Math.max(0, Math.min(frame, page.frames - 1))), from, false);
    reach(spot.frame);
    drag(canvas, event, (now) => reach(page.frameOf(now)), () => page.showSelection());
  }

  function holdSeam(frame, event) {
    const before = exposures();
    const moved = (now) => {
      const to = Math.max(1, Math.min(page.frames - 1, Math.round(page.placeOf(now))));
      if (state.drag?.to === to) return;
      state.drag = { mouths: withSeam(before, frame, to), to };
      transport.go(Math.min(to, page.frames - 1), true);
    };
    drag(canvas, event, moved, (whole) => {
      const to = state.drag?.to;
      state.drag = null;
      page.draw();
      if (!whole || to === undefined || to === frame) return choose([seenOn(frame).frame], seenOn(frame).frame, !whole);
      askAndChoose("seam", { frame, to }, [to]);
    });
  }

  function holdBlock(spot, event) {
    const begun = event.clientX;
    const moved = (now) => {
      if (!state.drag && Math.abs(now.clientX - begun) < 6) return;
      const by = Math.round((now.clientX - begun) / state.perFrame);
      if (state.drag?.slide === by) return;
      state.drag = { slide: by };
      transport.go(Math.max(0, Math.min(page.frames - 1, spot.frame + by)), true);
      page.draw();
    };
    drag(canvas, event, moved, (whole, last) => {
      const by = state.drag?.slide;
      const dragged = state.drag;
      state.drag = null;
      page.draw();
      if (dragged && whole && by) slide(by, page.along());
      else if (!dragged && whole && last.type === "pointerup") choose([seenOn(spot.frame).frame], seenOn(spot.frame).frame, false);
    });
  }

  return { choose, chooseGroup, kept, beside, pick, ranked, seenOn, lead, key, neighbour, hold, span, repeat, ease, doing, edge };
}
