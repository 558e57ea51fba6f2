// Words and sounds under the hands: choosing them, dragging their seams, and the keys for what is done to them.
import { frameAt } from "../lib/clock.js";
import { drag } from "../lib/drag.js";
import { post } from "../lib/edits.js";
import { ended } from "../lib/jobs.js";
import { edgesOf, sameWord } from "./staves.js";
import { allWords, doubtful, halves, wordAt } from "./words.js";

/** @param {any} page the desk: its state, the active stave, how an edit is asked for, and what shows what is chosen */
export function wordHands(page) {
  const { state, fps, transport } = page;
  const words = () => allWords(page.stave()).map(({ word }) => word);
  const chosen = () => state.word && wordAt(page.stave(), state.word)?.word;

  function select(word, sound = -1, seek = true) {
    state.word = { at: word.at, sound };
    state.chosen = [];
    page.wordIsChosen();
    if (seek) transport.go(frameAt(word.sounds[sound]?.start ?? word.start, fps), true);
    page.showSelection();
  }

  function nextDoubt(step) {
    const rows = doubtful(page.stave());
    if (!rows.length) return page.say("No word is doubtful.", undefined, "", true);
    const place = rows.findIndex(({ word }) => sameWord(word, state.word));
    select(rows[place < 0 ? 0 : (place + step + rows.length) % rows.length].word);
  }

  // Pinning a word that was doubtful goes on to the next one.
  async function approve() {
    const rows = doubtful(page.stave());
    const place = rows.findIndex(({ word }) => sameWord(word, state.word));
    await page.edit("approve", { at: state.word.at });
    const after = rows[place + 1];
    if (place >= 0 && after) select(after.word);
  }

  // Read a word, or its line, again; the page waits and shows what came of it.
  async function readAgain(word, alone) {
    const { line } = wordAt(page.stave(), word);
    const id = page.stave().id;
    page.say("");
    try {
      const queued = await post(page.readUrl, { lines: [line.id], words: alone ? [word.at] : [] });
      if (queued.problem) return page.say(queued.problem);
      page.desk.dataset.reading = "yes";
      const job = await ended(queued.job);
      await page.begunAnew(id);
      if (job.state !== "done") page.say(job.message || "The reading did not end; try again.");
    } catch (failed) {
      console.debug(failed);
      page.say(failed.message, () => readAgain(word, alone));
    }
    page.desk.dataset.reading = "no";
  }

  // The word at the playhead, or the next one after it.
  function here() {
    const time = state.frame / fps;
    const found = words().find((word) => word.end > time + 0.5 / fps) ?? words().at(-1);
    if (found) select(found);
    else page.say("There is no word here.");
  }

  function beside(step) {
    const next = words()[words().findIndex((word) => sameWord(word, state.word)) + step];
    if (next) select(next);
    return next;
  }

  // The sound before or after the selected one, in the next word where this one ends.
  function soundBeside(step) {
    const word = chosen();
    const sound = state.word.sound < 0 && step < 0 ? -1 : state.word.sound + step;
    if (sound >= 0 && sound < word.sounds.length) return select(word, sound);
    const next = beside(step);
    if (next) select(next, step > 0 ? 0 : next.sounds.length - 1);
  }

  // The selected word a frame earlier or later; of a selected sound its beginning, with Shift its end; with Shift the line.
  function moveByKey(event) {
    const word = chosen();
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key] / fps;
    const { sound } = state.word;
    if (sound < 0) return page.edit(event.shiftKey ? "move line" : "move word", { at: word.at, by });
    const edge = sound + (event.shiftKey ? 1 : 0);
    return moveSeam(word, edge, edgesOf(word)[edge] + by);
  }

  const choosing = { ",": () => beside(-1), ".": () => beside(1), "[": () => soundBeside(-1), "]": () => soundBeside(1) };
  const changing = {
    enter: approve,
    delete: ({ at }) => page.edit("delete word", { at }),
    j: ({ at }) => page.edit("join words", { at }),
    r: (word) => readAgain(word, true),
    s: (word) => state.word.sound > 0 && page.edit("split word", { at: word.at, sound: state.word.sound, ...halves(word, state.word.sound) }),
  };

  // What a key does to the selected word; false when it does nothing.
  function key(event) {
    const word = chosen();
    if (!word) return false;
    if (choosing[event.key]) {
      choosing[event.key]();
      return true;
    }
    const action = changing[event.key.toLowerCase()];
    if (!action || !page.mayEdit || (event.key === "Enter" && event.target.matches("button"))) return false;
    action(word);
    return true;
  }

  // A seam, a word or a line is selected when it is pressed and moved when it is dragged, with the sound under the hand.
  function hold(spot, event) {
    const begun = event.clientX;
    const { word, line, edge } = spot;
    const times = edge !== undefined ? [edgesOf(word)[edge]] : line ? [line.start, line.end] : [word.start, word.end];
    const room = edge !== undefined ? roomOf(word, edge) : [-Infinity, Infinity];
    const moved = (now) => {
      let by = (now.clientX - begun) / state.perFrame / fps;
      if (!page.mayEdit || (!state.drag && Math.abs(now.clientX - begun) < 4)) return;
      by = Math.min(room[1] - times[0], Math.max(room[0] - times[0], by));
      state.drag = { times: times.map((time) => time + by), by };
      const frame = Math.max(0, frameAt(state.drag.times[0], fps));
      if (frame !== state.frame) transport.go(frame, true);
      page.draw();
    };
    drag(page.canvas, event, moved, (whole) => {
      const dragged = state.drag;
      state.drag = null;
      if (!whole) return page.draw();
      const sound = edge !== undefined ? Math.min(edge, word.sounds.length - 1) : spot.sound;
      select(word, spot.lane === "sounds" ? sound : -1, !dragged);
      if (!dragged) return;
      if (edge !== undefined) moveSeam(word, edge, dragged.times[0]);
      else page.edit(line ? "move line" : "move word", { at: word.at, by: dragged.by });
    });
  }

  async function moveSeam(word, edge, time) {
    const done = await page.edit("edge", { at: word.at, edge, time });
    if (!done.document || done.problem || !page.rereads()) return;
    const moved = wordAt(page.stave(), word)?.word;
    if (moved) readAgain(moved, true);
  }

  // How far an edge can go: sounds keep 10 ms, words do not run into each other.
  function roomOf(word, edge) {
    const least = 0.01;
    const edges = edgesOf(word);
    const last = word.sounds.length;
    const order = words().filter((one) => one.said);
    const place = order.findIndex((one) => sameWord(one, word));
    const seam = (other, theirs) => other && Math.abs(theirs - edges[edge]) < 1e-4;
    const inside = (k, others) => others.filter((pin) => (edge === 0 ? pin > 0 : pin < last)).reduce((a, pin) => (edge === 0 ? Math.min(a, pin) : Math.max(a, pin)), k);
    if (edge === 0) {
      const before = order[place - 1];
      const pin = inside(last, word.pinned);
      const low = seam(before, before?.end) ? before.start + least * before.sounds.length : (before?.end ?? 0);
      return [low, edges[pin] - least * pin];
    }
    if (edge === last) {
      const after = order[place + 1];
      const pin = inside(0, word.pinned);
      const high = seam(after, after?.start) ? after.end - least * after.sounds.length : (after?.start ?? page.frames / fps);
      return [edges[pin] + least * (last - pin), high];
    }
    return [edges[edge - 1] + least, edges[edge + 1] - least];
  }

  return { select, nextDoubt, readAgain, here, chosen, moveByKey, key, hold };
}
