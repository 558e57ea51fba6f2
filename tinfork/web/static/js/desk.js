// The Reading desk: one state, drawn when it changes; every edit goes to the server and comes back as a whole stave.
import { Editor, pageHeaders, sayIn } from "./edits.js";
import { Mirror } from "./mirror.js";
import { MouthMap } from "./mouthmap.js";
import { colour, drawWave, fit, loadPeaks } from "./peaks.js";
import { heardClips } from "./player.js";
import { Reel } from "./reel.js";
import { at, drawStaves, edgesOf, sameWord } from "./staves.js";
import { oncePerPicture, Transport, typing } from "./transport.js";
import { allWords, doubtful, showDoubts, showFiles, showLost, WordPanel, wordAt } from "./words.js";

const $ = (id) => document.getElementById(id);
const given = JSON.parse($("desk-document").textContent);
const fps = given.scene.rate.numerator / given.scene.rate.denominator;
const clips = new Map(given.sound.tracks.flatMap((track) => track.clips).map((clip) => [clip.id, clip]));

const state = {
  staves: given.staves.map(withClips),
  active: Math.max(0, given.staves.findIndex((s) => s.exposures.length)),
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
const panel = new WordPanel($("dock-word"), given.keyboard, {
  edit,
  readAgain,
  select: selectWord,
  frame: (seconds) => Math.floor(seconds * fps + 1e-6) + state.startFrame,
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
  const lines = stave().reading?.lines ?? [];
  const starts = kind === "lines" ? lines : lines.flatMap((line) => line.words);
  return starts.map((one) => Math.max(0, Math.floor(one.start * fps + 1e-6))).sort((a, b) => a - b);
}

function showStave() {
  mirror.show(stave());
  map.show(stave().chart);
  $("mirror-tabs").replaceChildren(...state.staves.map(tab));
  $("dial-hold").value = stave().settings.hold;
  $("dial-lead").value = stave().settings.lead;
  $("dial-detail").value = stave().settings.detail;
  for (const id of ["dial-hold", "dial-lead", "dial-detail"]) $(id).disabled = !given.mayEdit;
  showSelection();
  transport.show();
}

function tab(one, number) {
  const button = document.createElement("button");
  button.type = "button";
  button.className = "btn btn-sm btn-quiet";
  button.textContent = one.character;
  button.setAttribute("role", "tab");
  button.setAttribute("aria-selected", String(number === state.active));
  button.addEventListener("click", () => activate(number));
  return button;
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
  map.mark(exposure?.drawing, Boolean(exposure) && given.mayEdit);
  $("map-hint").textContent = exposure
    ? `frames ${exposure.frame + state.startFrame} to ${exposure.frame + exposure.frames - 1 + state.startFrame}: pick another drawing and it is pinned`
    : "select an exposure on the ribbon to change its drawing";
  $("pin").disabled = !exposure || !given.mayEdit;
  $("pin").textContent = exposure?.pinned ? "Unpin" : "Pin";
  $("undo").disabled = !stave().undo || !given.mayEdit;
  $("redo").disabled = !stave().redo || !given.mayEdit;
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
  const counts = { doubts: doubtful(stave()).length, lost: stave().reading?.lost.length ?? 0 };
  for (const tab of document.querySelectorAll("[data-dock]")) {
    const name = tab.dataset.dock;
    tab.setAttribute("aria-selected", String(name === dock));
    if (name in counts) tab.querySelector("span").textContent = counts[name] || "";
    $(name === "mouths" ? "mouth-map" : `dock-${name}`).hidden = name !== dock;
  }
  document.querySelector("[data-dock=lost]").hidden = !counts.lost && dock !== "lost";
  for (const id of ["map-hint", "previous", "next", "pin"]) $(id).hidden = dock !== "mouths";
  const word = state.word && wordAt(stave(), state.word)?.word;
  $("desk").dataset.word = word ? word.at.join(".") : "";
  if (dock === "word") panel.show(stave(), state.word);
  if (dock === "doubts") showDoubts($("dock-doubts"), stave(), state.word, panel.page);
  if (dock === "lost") showLost($("dock-lost"), stave(), state.word, panel.page);
  if (dock === "files") showFiles($("dock-files"), stave(), given.formats, given.mayEdit && bringReading);
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
  if (seek) transport.go(Math.floor((word.sounds[sound]?.start ?? word.start) * fps + 1e-6), true);
  showSelection();
}

function nextDoubt(step) {
  const rows = doubtful(stave());
  if (!rows.length) return;
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
    const headers = { "Content-Type": "application/json", ...pageHeaders() };
    const queued = await (await fetch(given.readUrl, { method: "POST", headers, body: asked })).json();
    if (queued.problem) return say(queued.problem);
    $("desk").dataset.reading = "yes";
    const job = await ended(queued.job);
    const one = state.staves.find((s) => s.id === id);
    take(await (await fetch(one.url)).json());
    if (job.state !== "done") say(job.message || "The reading did not end; try again.");
  } catch (failed) {
    console.debug(failed);
    say("The server could not be reached; nothing was lost. Look at the connection, then do it again.");
  }
  $("desk").dataset.reading = "no";
}

async function ended(job) {
  for (;;) {
    const now = await (await fetch(job, { headers: { Accept: "application/json" } })).json();
    if (now.ended) return now;
    await new Promise((done) => setTimeout(done, 150));
  }
}

let explained = "";
function why() {
  const index = exposureAt(state.frame);
  const key = `${stave().id}.${stave().version}.${index}.${state.frame}`;
  if (key === explained) return;
  explained = key;
  const lines = [soundNow(), index < 0 ? "" : reasonOf(stave().exposures[index])].filter(Boolean);
  $("why").replaceChildren(...lines.map((text) => Object.assign(document.createElement("div"), { textContent: text, className: "ipa" })));
}

function soundNow() {
  const time = (state.frame + 0.5) / fps;
  for (const line of stave().reading?.lines ?? []) {
    if (time < line.start || time > line.end) continue;
    for (const word of line.words) {
      if (word.extra.some(([start, end]) => start <= time && time < end)) return "speech that is not written";
      const sound = word.sounds.find((s) => s.start <= time && time < s.end);
      if (sound) return `“${word.text}” · /${sound.ipa}/ · ${Math.round(sound.confidence * 100)}% sure${word.guessed ? " · pronunciation guessed" : ""}`;
    }
  }
  return stave().reading ? "silence" : "";
}

function reasonOf(exposure) {
  const ipa = stave().reading.lines.flatMap((l) => l.words.flatMap((w) => w.sounds.map((s) => s.ipa)));
  const drawing = stave().chart.drawings.find((d) => d.name === exposure.drawing);
  const length = `${exposure.drawing} (${drawing.meaning}), held ${exposure.frames}`;
  if (exposure.pinned) return `${length}: a person pinned it.`;
  if (!exposure.sounds.length) return `${length}: nobody speaks here.`;
  const missed = exposure.sounds.filter((i) => stave().leftOut[i]);
  const shown = exposure.sounds.filter((i) => !stave().leftOut[i]);
  const text = shown.length ? ` for ${shown.map((i) => `/${ipa[i]}/`).join(" ")}` : "";
  const left = missed.length ? ` Left out: ${missed.map((i) => `/${ipa[i]}/`).join(" ")}, too short to be held.` : "";
  return `${length}${text}.${left}`;
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

function take(fresh) {
  const place = state.staves.findIndex((s) => s.id === fresh.id);
  const frame = stave().exposures[state.selected]?.frame;
  state.staves[place] = withClips(fresh);
  if (place === state.active && frame !== undefined) state.selected = exposureAt(frame);
  if (place === state.active) showStave();
}

function pick(drawing) {
  const exposure = stave().exposures[state.selected];
  if (exposure && drawing) edit("pin", { frame: exposure.frame, frames: exposure.frames, drawing });
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

const KEYS = { "[": () => beside(-1), "]": () => beside(1), p: togglePin, d: (event) => nextDoubt(event.shiftKey ? -1 : 1) };

// What these keys do needs a selected word.
const WORD_KEYS = {
  enter: approve,
  delete: ({ at }) => edit("delete word", { at }),
  j: ({ at }) => edit("join words", { at }),
  r: (word) => readAgain(word, true),
  s: (word) => state.word.sound > 0 && panel.split(word, state.word.sound),
};

function wordKey(event) {
  const word = state.word && wordAt(stave(), state.word)?.word;
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
    const frame = Math.max(0, Math.floor(state.drag.times[0] * fps));
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
  if (!done.document || done.problem || !panel.reread.checked) return;
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

for (const tab of document.querySelectorAll("[data-dock]")) tab.addEventListener("click", () => openDock(tab.dataset.dock));
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
}
begin();
