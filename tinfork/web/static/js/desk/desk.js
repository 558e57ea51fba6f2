// The Reading desk: one state, drawn when it changes; every edit goes to the server, and what it changed comes back.
import { frameAt } from "../lib/clock.js";
import { ask, Editor, sayIn, sayWhatWasDone, showSteps } from "../lib/edits.js";
import { ended } from "../lib/jobs.js";
import { bare, missing, withPatch, withSlice } from "./lanes.js";
import { Mirror } from "./mirror.js";
import { MouthMap } from "./mouthmap.js";
import { colour, drawWave, fit, loadPeaks } from "../lib/peaks.js";
import { heardClips } from "../lib/player.js";
import { Reel } from "../lib/reel.js";
import { at, drawStaves, edgesOf, sameWord } from "./staves.js";
import { oncePerPicture, Transport, typing } from "../lib/transport.js";
import { dockOf } from "./dock.js";
import { allWords, doubtful, halves, wordAt } from "./words.js";

const $ = (id) => document.getElementById(id);
const given = JSON.parse($("desk-document").textContent);
const fps = given.scene.rate.numerator / given.scene.rate.denominator;
const clips = new Map(given.sound.tracks.flatMap((track) => track.clips).map((clip) => [clip.id, clip]));

const state = {
  staves: given.staves.map((stave) => withSlice(withClips(bare(stave)), stave)),
  active: Math.max(0, given.staves.findIndex((s) => s.read)),
  selected: -1,
  word: null,
  drag: null,
  peaks: new Map(),
  rate: given.scene.rate,
  startFrame: given.scene.startFrame,
};
const draw = oncePerPicture(render);
const transport = new Transport(state, {
  width: () => $("staves").clientWidth,
  frames: () => given.sound.frames,
  draw,
  shown: showFrame,
  jumps,
});
const reel = new Reel($("reel"), given.sound, fps);
const mirror = new Mirror($("mirror"), $("neighbours"));
const map = new MouthMap($("mouth-map"), pick);
const say = sayIn($("problem"));
const editor = new Editor(say);
sayWhatWasDone(say);
const panels = dockOf({
  keyboard: given.keyboard,
  formats: given.formats,
  edit,
  activate,
  open: openDock,
  bring: bringReading,
  readAgain,
  select: selectWord,
  startFrame: state.startFrame,
  go: (frame) => transport.go(frame, true),
  frame: (seconds) => frameAt(seconds, fps) + state.startFrame,
  time: () => state.frame / fps,
  range: () => (state.in === null || state.out === null ? null : [state.in / fps, (state.out + 1) / fps]),
  mayEdit: given.mayEdit,
});
const stave = () => state.staves[state.active];

function withClips(stave) {
  return { ...stave, clips: stave.clips.map((id) => clips.get(id)).filter(Boolean) };
}

function exposureAt(frame) {
  const exposures = stave().exposures;
  let low = 0;
  let high = exposures.length - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    if (exposures[middle].frame > frame) high = middle - 1;
    else if (exposures[middle].frame + exposures[middle].frames <= frame) low = middle + 1;
    else return middle;
  }
  return -1;
}

// Drawing

function render() {
  drawStaves($("staves"), state);
  miniature();
}

function showFrame(playing) {
  const desk = $("desk");
  desk.dataset.frame = String(state.frame);
  desk.dataset.time = state.time.toFixed(6);
  desk.dataset.playing = playing ? "yes" : "no";
  if (!stave()) return;
  mirror.frame(state.frame, exposureAt(state.frame));
  reel.show(state.time, playing, transport.player.speed);
  why();
}

// Frames where lines or words of the active stave begin.
function jumps(kind) {
  const { lines } = stave();
  const starts = kind === "lines" ? lines : lines.flatMap((line) => line.words);
  return starts.map((one) => Math.max(0, frameAt(one.start, fps))).sort((a, b) => a - b);
}

function showStave(other = true) {
  if (other) {
    mirror.show(stave());
    map.show(stave().chart);
  }
  mirror.stave = stave();
  $("dial-hold").value = stave().settings.hold;
  $("dial-lead").value = stave().settings.lead;
  $("dial-detail").value = stave().settings.detail;
  for (const id of ["dial-hold", "dial-lead", "dial-detail"]) $(id).disabled = !given.mayEdit;
  $("plan-anew").hidden = !stave().newChart || !given.mayEdit;
  showSelection();
  transport.show();
}

function activate(number) {
  if (number === state.active || number < 0) return;
  state.active = number;
  state.selected = -1;
  state.word = null;
  showStave();
}

function showSelection() {
  const exposure = stave().exposures[state.selected];
  const desk = $("desk");
  desk.dataset.selected = exposure ? String(exposure.frame) : "";
  map.mark(exposure?.drawing, given.mayEdit);
  $("map-hint").textContent = exposure
    ? `frames ${exposure.frame + state.startFrame} to ${exposure.frame + exposure.frames - 1 + state.startFrame}: pick another drawing and it is pinned`
    : "pick a drawing and it is pinned between in and out, or at the playhead; or select an exposure on the ribbon to change it";
  $("pin").disabled = !exposure || !given.mayEdit;
  $("pin").textContent = exposure?.pinned ? "Unpin" : "Pin";
  showSteps($("undo"), $("redo"), stave(), given.mayEdit);
  showDock();
  draw();
}

// The dock under the lanes: the mouth map, or the selected word, or the lists of words to look at.

let dock = "mouths";

// Keys after this are meant for the word, not for the tab.
function openDock(name) {
  document.activeElement?.blur();
  dock = name;
  showDock();
}

function showDock() {
  for (const id of ["map-hint", "previous", "next", "pin"]) $(id).hidden = dock !== "mouths";
  const word = state.word && wordAt(stave(), state.word)?.word;
  $("desk").dataset.word = word ? word.at.join(".") : "";
  panels.show(stave(), state.word, dock, state.staves.map((one) => one.character), state.active);
}

// A reading from elsewhere takes the place of the stave's own; it can be undone.
async function bringReading(file) {
  const form = new FormData();
  form.append("file", file);
  form.append("version", stave().version);
  const answer = await editor.send(stave().bringUrl, form, take);
  if (answer.notes?.length) say(answer.notes.join(" "));
}

function selectWord(word, sound = -1, seek = true) {
  state.word = { at: word.at, sound };
  state.selected = -1;
  if (dock === "mouths" || dock === "files") dock = "word";
  if (seek) transport.go(frameAt(word.sounds[sound]?.start ?? word.start, fps), true);
  showSelection();
}

function nextDoubt(step) {
  const rows = doubtful(stave());
  if (!rows.length) return say("No word is doubtful.", undefined, "", true);
  const place = rows.findIndex(({ word }) => sameWord(word, state.word));
  const next = place < 0 ? 0 : (place + step + rows.length) % rows.length;
  selectWord(rows[next].word);
}

// Pinning a word that was doubtful goes on to the next one.
async function approve() {
  const rows = doubtful(stave());
  const place = rows.findIndex(({ word }) => sameWord(word, state.word));
  await edit("approve", { at: state.word.at });
  const after = rows[place + 1];
  if (place >= 0 && after) selectWord(after.word);
}

// Read a word, or its line, again; the page waits and shows what came of it.
async function readAgain(word, alone) {
  const { line } = wordAt(stave(), word);
  const asked = JSON.stringify({ lines: [line.id], words: alone ? [word.at] : [] });
  const id = stave().id;
  say("");
  try {
    const queued = await (await ask(given.readUrl, { headers: { "Content-Type": "application/json" }, body: asked })).json();
    if (queued.problem) return say(queued.problem);
    $("desk").dataset.reading = "yes";
    const job = await ended(queued.job);
    await begunAnew(id);
    if (job.state !== "done") say(job.message || "The reading did not end; try again.");
  } catch (failed) {
    console.debug(failed);
    say(failed.message, () => readAgain(word, alone));
  }
  $("desk").dataset.reading = "no";
}

let explained = "";
const reasons = new Map();

// What the playhead is on, and what the exposure there is for; why a sound is not shown is asked when the playhead rests.
function why() {
  const index = exposureAt(state.frame);
  const exposure = stave().exposures[index];
  const place = `${stave().id}.${stave().version}.${exposure?.frame}`;
  const known = reasons.get(place);
  const key = `${place}.${state.frame}.${Boolean(known)}`;
  if (key === explained) return;
  explained = key;
  if (exposure && !exposure.pinned && !known && !transport.player.playing) askWhy(place);
  const lines = [soundNow(), exposure ? reasonOf(exposure, known) : ""].filter(Boolean);
  $("why").replaceChildren(...lines.map((text) => Object.assign(document.createElement("div"), { textContent: text, className: "ipa" })));
}

let asking = 0;
function askWhy(place) {
  clearTimeout(asking);
  const { whyUrl } = stave();
  const frame = state.frame;
  asking = setTimeout(async () => {
    try {
      reasons.set(place, (await (await ask(`${whyUrl}${frame}`, { method: "GET" })).json()).sounds);
      why();
    } catch (failed) {
      console.debug(failed);
    }
  }, 120);
}

function soundNow() {
  const time = (state.frame + 0.5) / fps;
  for (const line of stave().lines) {
    if (time < line.start || time > line.end) continue;
    for (const word of line.words) {
      if (word.extra.some(([start, end]) => start <= time && time < end)) return "speech that is not written";
      const sound = word.sounds.find((s) => s.start <= time && time < s.end);
      if (sound) return `“${word.text}” · /${sound.ipa}/ · ${Math.round(sound.confidence * 100)}% sure${word.guessed ? " · pronunciation guessed" : ""}`;
    }
  }
  return stave().read ? "silence" : "";
}

// sounds: pairs of IPA and why it is not simply shown, "" where it is; undefined as long as nobody knows.
function reasonOf(exposure, sounds) {
  const drawing = stave().chart.drawings.find((d) => d.name === exposure.drawing);
  const length = `${exposure.drawing} (${drawing.meaning}), held ${exposure.frames}`;
  if (exposure.pinned) return `${length}: a person pinned it.`;
  if (!sounds) return `${length}.`;
  if (!sounds.length) return `${length}: nobody speaks here.`;
  const shown = sounds.filter(([, reason]) => !reason).map(([ipa]) => `/${ipa}/`);
  const text = shown.length ? ` for ${shown.join(" ")}` : "";
  const left = [...Map.groupBy(sounds.filter(([, reason]) => reason), ([, reason]) => reason)];
  const why = left.map(([reason, own]) => ` ${own.map(([ipa]) => `/${ipa}/`).join(" ")}: ${reason[0].toLowerCase()}${reason.slice(1)}`);
  return `${length}${text}.${why.join("")}`;
}

function miniature() {
  const { context, width, height } = fit($("miniature"), 34);
  const scale = width / given.sound.frames;
  for (const clip of clips.values()) {
    const peaks = state.peaks.get(clip.peaks);
    const box = { x: clip.start * scale, y: 2, width: clip.frames * scale, height: height - 4 };
    if (peaks) drawWave(context, peaks, box, clip.offset / fps, (clip.offset + clip.frames) / fps, colour("tin-deep"));
  }
  context.strokeStyle = colour("copper");
  context.lineWidth = 1.5;
  const shown = $("staves").clientWidth / state.perFrame;
  context.strokeRect(state.left * scale + 1, 1, Math.max(6, Math.min(width - 2, shown * scale - 2)), height - 2);
  context.fillStyle = colour("copper");
  context.fillRect(state.frame * scale, 0, 2, height);
  for (const edge of ["in", "out"]) {
    if (state[edge] !== null) context.fillRect((state[edge] + (edge === "out" ? 1 : 0)) * scale - 0.5, height - 8, 2, 8);
  }
}

// Edits

function edit(verb, what = {}) {
  const { id, editUrl } = stave();
  return editor.edit(editUrl, () => state.staves.find((s) => s.id === id).version, verb, what, take);
}

// Put a stave in the place of the one it was.
function put(fresh) {
  const place = state.staves.findIndex((s) => s.id === fresh.id);
  const frame = stave().exposures[state.selected]?.frame;
  state.staves[place] = fresh;
  if (place !== state.active) return draw();
  if (frame !== undefined) state.selected = exposureAt(frame);
  showStave(false);
}

// What an edit changed; where it was refused, perhaps as somebody else changed the stave, the page makes up for that.
async function take(patch, done) {
  const own = state.staves.find((s) => s.id === patch.id);
  if (done && patch.renumbered) put(withSlice(withPatch(own, patch), await inView(own)));
  else if (done) put(withPatch(own, patch));
  else if (patch.version !== own.version) await begunAnew(patch.id);
  await seen();
  fill();
}

async function slice(stave, [first, end]) {
  const response = await ask(`${stave.url}?first=${first}&end=${end}`, { method: "GET" });
  return response.json();
}

// A slice from what is seen on.
function inView(stave) {
  const [first] = view();
  return slice(stave, [first, first + given.slice]);
}

const view = () => [Math.max(0, Math.floor(state.left)), Math.ceil(state.left + $("staves").clientWidth / state.perFrame)];

// Nothing that is known of a stave holds any more: what is in view is asked for, and the rest after it.
async function begunAnew(id) {
  const own = state.staves.find((s) => s.id === id);
  put(withSlice(withClips(bare({ ...own, clips: own.clips.map((clip) => clip.id) })), await inView(own)));
}

// Ask for one slice that is missing of a stave; whether there was one.
async function more(id, least) {
  const own = state.staves.find((s) => s.id === id);
  const next = missing(own, view(), given.slice);
  if (!next || next[0] >= least) return false;
  const fresh = await slice(own, next);
  const now = state.staves.find((s) => s.id === id);
  if (fresh.version > now.version) await begunAnew(id);
  else if (fresh.version === now.version) put(withSlice(now, fresh));
  return true;
}

// What is missing of what is in view.
const seen = () => more(stave().id, view()[1]);

// Everything else, one slice after the other.
let filling = false;
async function fill() {
  if (filling) return;
  filling = true;
  try {
    for (const { id } of state.staves) while (await more(id, Infinity)) $("desk").dataset.whole = "no";
    $("desk").dataset.whole = "yes";
  } catch (failed) {
    console.debug(failed);
    say(failed.message, fill);
  }
  filling = false;
}

// A drawing for the selected exposure; with none selected it goes between in and out, or from the playhead on for a hold.
function pick(drawing) {
  const exposure = stave().exposures[state.selected] ?? here();
  if (drawing) edit("pin", { frame: exposure.frame, frames: exposure.frames, drawing });
}

function here() {
  if (state.in !== null && state.out !== null) return { frame: state.in, frames: state.out + 1 - state.in };
  return { frame: state.frame, frames: Math.min(stave().settings.hold, given.sound.frames - state.frame) };
}

function togglePin() {
  const exposure = stave().exposures[state.selected];
  if (!exposure) return;
  if (exposure.pinned) edit("unpin", { frame: exposure.frame });
  else pick(exposure.drawing);
}

function select(index, seek = true) {
  if (index < 0 || index >= stave().exposures.length) return;
  state.selected = index;
  state.word = null;
  dock = "mouths";
  if (seek) transport.go(stave().exposures[index].frame, false);
  showSelection();
}

const beside = (step) => select((state.selected < 0 ? exposureAt(state.frame) : state.selected) + step);

function changeDials() {
  edit("settings", { hold: +$("dial-hold").value, lead: +$("dial-lead").value, detail: +$("dial-detail").value });
}

// Hands

const KEYS = { b: () => beside(-1), n: () => beside(1), p: togglePin, d: (event) => nextDoubt(event.shiftKey ? -1 : 1), w: wordHere, escape: unselect };

// What these keys do needs a selected word.
const SELECTING = { ",": () => wordBeside(-1), ".": () => wordBeside(1), "[": () => soundBeside(-1), "]": () => soundBeside(1) };
const WORD_KEYS = {
  enter: approve,
  delete: ({ at }) => edit("delete word", { at }),
  j: ({ at }) => edit("join words", { at }),
  r: (word) => readAgain(word, true),
  s: (word) => state.word.sound > 0 && edit("split word", { at: word.at, sound: state.word.sound, ...halves(word, state.word.sound) }),
};

const selectedWord = () => state.word && wordAt(stave(), state.word)?.word;

// The word at the playhead, or the next one after it.
function wordHere() {
  const time = state.frame / fps;
  const words = allWords(stave()).map(({ word }) => word);
  const found = words.find((word) => word.end > time + 0.5 / fps) ?? words.at(-1);
  if (found) selectWord(found);
  else say("There is no word here.");
}

function wordBeside(step) {
  const words = allWords(stave()).map(({ word }) => word);
  const next = words[words.findIndex((word) => sameWord(word, state.word)) + step];
  if (next) selectWord(next);
  return next;
}

// The sound before or after the selected one, in the next word where this one ends.
function soundBeside(step) {
  const word = selectedWord();
  const sound = state.word.sound < 0 && step < 0 ? -1 : state.word.sound + step;
  if (sound >= 0 && sound < word.sounds.length) return selectWord(word, sound);
  const next = wordBeside(step);
  if (next) selectWord(next, step > 0 ? 0 : next.sounds.length - 1);
}

function unselect() {
  state.word = null;
  state.selected = -1;
  showSelection();
}

// The selected word a frame earlier or later; of a selected sound its beginning, with Shift its end; with Shift the line.
function moveByKey(event, word) {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key] / fps;
  const { sound } = state.word;
  if (sound < 0) return edit(event.shiftKey ? "move line" : "move word", { at: word.at, by });
  const edge = sound + (event.shiftKey ? 1 : 0);
  return moveSeam(word, edge, edgesOf(word)[edge] + by);
}

function wordKey(event) {
  const word = selectedWord();
  if (word && SELECTING[event.key]) {
    SELECTING[event.key]();
    return true;
  }
  const action = WORD_KEYS[event.key.toLowerCase()];
  if (!word || !action || !given.mayEdit || (event.key === "Enter" && event.target.matches("button"))) return false;
  action(word);
  return true;
}

document.addEventListener("keydown", (event) => {
  if (typing(event) || !stave()) return;
  const exposure = stave().exposures[state.selected];
  const own = !event.ctrlKey && !event.metaKey && !event.altKey && KEYS[event.key.toLowerCase()];
  if (event.altKey && event.key.startsWith("Arrow")) {
    if (exposure) pick(map.beside(exposure.drawing, event.key));
    else if (selectedWord() && given.mayEdit && /Left|Right/.test(event.key)) moveByKey(event, selectedWord());
  } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
    edit(event.shiftKey ? "redo" : "undo");
  } else if (own) own(event);
  else if (!(own === undefined && wordKey(event)) && !transport.key(event)) return;
  event.preventDefault();
});

function scrubTo(event) {
  const box = $("staves").getBoundingClientRect();
  const frame = at(state, event.clientX - box.left, 0).frame;
  if (frame !== state.frame) transport.go(frame, true);
}

$("staves").addEventListener("pointerdown", (event) => {
  const box = $("staves").getBoundingClientRect();
  const spot = at(state, event.clientX - box.left, event.clientY - box.top);
  activate(spot.number);
  if (spot.lane === "ribbon" && exposureAt(spot.frame) >= 0) {
    select(exposureAt(spot.frame), false);
    transport.go(spot.frame, false);
    return;
  }
  $("staves").setPointerCapture(event.pointerId);
  if (spot.word) takeHold(spot, event);
  else {
    transport.go(spot.frame, false);
    $("staves").addEventListener("pointermove", scrubTo);
  }
});
for (const end of ["pointerup", "pointercancel"]) {
  $("staves").addEventListener(end, () => $("staves").removeEventListener("pointermove", scrubTo));
}

$("staves").addEventListener("pointermove", (event) => {
  if (event.buttons) return;
  const box = $("staves").getBoundingClientRect();
  const spot = at(state, event.clientX - box.left, event.clientY - box.top);
  $("staves").style.cursor = spot.edge !== undefined ? "col-resize" : spot.word ? "pointer" : "";
});

// A seam, a word or a line is selected when it is pressed and moved when it is dragged, with the sound under the hand.
function takeHold(spot, event) {
  const begun = event.clientX;
  const { word, line, edge } = spot;
  const times = edge !== undefined ? [edgesOf(word)[edge]] : line ? [line.start, line.end] : [word.start, word.end];
  const room = edge !== undefined ? roomOf(word, edge) : [-Infinity, Infinity];
  const move = (now) => {
    let by = (now.clientX - begun) / state.perFrame / fps;
    if (!given.mayEdit || (!state.drag && Math.abs(now.clientX - begun) < 4)) return;
    by = Math.min(room[1] - times[0], Math.max(room[0] - times[0], by));
    state.drag = { times: times.map((time) => time + by), by };
    const frame = Math.max(0, frameAt(state.drag.times[0], fps));
    if (frame !== state.frame) transport.go(frame, true);
    draw();
  };
  const done = (ending) => {
    $("staves").removeEventListener("pointermove", move);
    for (const end of ["pointerup", "pointercancel"]) $("staves").removeEventListener(end, done);
    const { drag } = state;
    state.drag = null;
    if (ending.type === "pointercancel") return draw();
    const sound = edge !== undefined ? Math.min(edge, word.sounds.length - 1) : spot.sound;
    if (!drag) return selectWord(word, spot.lane === "sounds" ? sound : -1);
    selectWord(word, spot.lane === "sounds" ? sound : -1, false);
    if (edge !== undefined) moveSeam(word, edge, drag.times[0]);
    else edit(line ? "move line" : "move word", { at: word.at, by: drag.by });
  };
  $("staves").addEventListener("pointermove", move);
  for (const end of ["pointerup", "pointercancel"]) $("staves").addEventListener(end, done);
}

async function moveSeam(word, edge, time) {
  const done = await edit("edge", { at: word.at, edge, time });
  if (!done.document || done.problem || !panels.rereads) return;
  const moved = wordAt(stave(), word)?.word;
  if (moved) readAgain(moved, true);
}

// How far an edge can go: sounds keep 10 ms, words do not run into each other.
function roomOf(word, edge) {
  const least = 0.01;
  const edges = edgesOf(word);
  const last = word.sounds.length;
  const order = allWords(stave()).map((one) => one.word).filter((one) => one.said);
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
    const high = seam(after, after?.start) ? after.end - least * after.sounds.length : (after?.start ?? given.sound.frames / fps);
    return [edges[pin] + least * (last - pin), high];
  }
  return [edges[edge - 1] + least, edges[edge + 1] - least];
}

$("staves").addEventListener("wheel", (event) => transport.wheel(event), { passive: false });
$("miniature").addEventListener("click", (event) => {
  transport.go(Math.floor((event.offsetX / $("miniature").clientWidth) * given.sound.frames), false);
});

$("plan-anew").addEventListener("click", async () => {
  const { id } = stave();
  await edit("plan with chart");
  await begunAnew(id);
});
$("previous").addEventListener("click", () => beside(-1));
$("next").addEventListener("click", () => beside(1));
$("pin").addEventListener("click", togglePin);
$("undo").addEventListener("click", () => edit("undo"));
$("redo").addEventListener("click", () => edit("redo"));
for (const id of ["dial-hold", "dial-lead", "dial-detail"]) $(id).addEventListener("change", changeDials);
window.addEventListener("resize", () => draw());
document.addEventListener("theme-switched", () => draw());

async function begin() {
  if (!state.staves.length) {
    say("This scene has no voice yet. Bring one in under Sound, give the words under Script, then press Read.");
    for (const control of document.querySelectorAll(".transport button, .transport input, .transport select, .dials input")) control.disabled = true;
    return;
  }
  state.perFrame = Math.min(24, Math.max(9, $("staves").clientWidth / given.sound.frames));
  showStave();
  fill();
  await document.fonts.ready;
  const urls = new Set([...clips.values()].map((clip) => clip.peaks));
  const loads = [...urls].map((url) => loadPeaks(url).then((levels) => state.peaks.set(url, levels)));
  try {
    await Promise.all([...loads, transport.player.show(heardClips(given.sound, fps), given.sound.frames / fps)]);
  } catch (problem) {
    say(`${problem.message} Reload the page to try again.`);
  }
  $("desk").dataset.ready = "yes";
  draw();
  if (location.hash === "#speak") speak();
}

// What was just made is heard and seen at once; a browser that wants a click first is given the button for it.
async function speak() {
  history.replaceState(null, "", location.pathname);
  $("play").focus();
  if (await transport.player.mayBeHeard()) transport.toggle();
}
begin();
