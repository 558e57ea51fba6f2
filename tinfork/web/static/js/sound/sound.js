// The Sound view: bring in, place, listen. One state, drawn when it changes; every edit comes back as a whole document.
import { whoIn } from "../lib/cast.js";
import { frameAt } from "../lib/clock.js";
import { ask, Editor, sayIn, sayWhatWasDone, showSteps } from "../lib/edits.js";
import { loadPeaks } from "../lib/peaks.js";
import { LivePass } from "./livepass.js";
import { heardClips } from "../lib/player.js";
import { panelsOf } from "./panels.js";
import { Recorder } from "./recorder.js";
import { Film } from "../lib/film.js";
import { Reel } from "../lib/reel.js";
import { drawTracks, under } from "./tracks.js";
import { oncePerPicture, Transport, typing } from "../lib/transport.js";

const $ = (id) => document.getElementById(id);
const given = JSON.parse($("sound-document").textContent);
const room = $("sound");
const LEAST_MARK = 0.08;
const fps = given.scene.rate.numerator / given.scene.rate.denominator;

const view = {
  rate: given.scene.rate,
  startFrame: given.scene.startFrame,
  fps,
  cast: given.cast,
  sound: given.sound,
  selected: new Set(),
  track: null,
  peaks: new Map(),
  tall: 1,
  drag: null,
  held: null,
  suggested: [],
  jumps: null,
};
const canvas = $("tracks");
const draw = oncePerPicture(() => drawTracks(canvas, view));
const transport = new Transport(view, {
  width: () => canvas.clientWidth,
  frames: () => view.sound.frames,
  extent,
  draw,
  shown,
  jumps,
});
const say = sayIn($("problem"));
const editor = new Editor(say);
sayWhatWasDone(say);
const panels = panelsOf({
  view,
  mayEdit: given.mayEdit,
  fps,
  edit,
  choose: chooseTrack,
  go: (frame) => transport.go(frame, true),
  ripple: () => $("ripple").checked,
  draw: () => draw(),
});
const recorder = new Recorder($("recorder"), { view, given, editor, take, edit, say, transport, url: room.dataset.take });
const live = new LivePass($("voices-panel"), { view, given, transport, edit, say, draw, editor, suggest: panels.suggest, url: room.dataset.voices });
let reel = null;
new Film($("reel"), document.querySelector(".tracks-scroll"), () => draw());

// The clips' whole reach: what lies outside the scene can be looked at too.
function extent() {
  const all = view.sound.tracks.flatMap((track) => track.clips);
  return {
    first: Math.min(0, ...all.map((clip) => clip.start)),
    end: Math.max(view.sound.frames, ...all.map((clip) => clip.start + clip.frames)),
  };
}

function shown(playing) {
  room.dataset.frame = String(view.frame);
  room.dataset.time = view.time.toFixed(4);
  room.dataset.playing = playing ? "yes" : "no";
  reel?.show(view.time, playing, transport.player.speed);
  live.moved(playing);
}

function edit(verb, what = {}) {
  return editor.edit(room.dataset.edit, () => view.sound.version, verb, what, take);
}

// A document from the server: shown at once, its sounds as soon as they have come.
// Where lines or words begin moves with the sound; it is asked for when somebody wants to go there.
async function jumps(kind) {
  try {
    const { version } = view.sound;
    if (view.jumps?.version !== version) view.jumps = { version, ...(await (await ask(room.dataset.jumps, { method: "GET" })).json()) };
    return view.jumps[kind];
  } catch (failed) {
    say(failed.message);
    return [];
  }
}

async function take(sound) {
  const before = view.sound.version;
  const first = !view.sound.tracks.some((track) => track.clips.length);
  view.sound = sound;
  const there = new Set(sound.tracks.flatMap((track) => track.clips.map((clip) => clip.id)));
  view.selected = new Set([...view.selected].filter((id) => there.has(id)));
  show();
  if (first) transport.zoom(0);
  if (before !== sound.version || !room.dataset.ready) await loaded();
  room.dataset.version = String(sound.version);
}

function show() {
  panels.show();
  recorder.show();
  showSteps($("undo"), $("redo"), view.sound, given.mayEdit);
  $("length").value = view.sound.length ?? "";
  $("length").placeholder = String(view.sound.frames);
  $("empty").hidden = view.sound.tracks.some((track) => track.clips.length);
  transport.show();
}

async function loaded() {
  const clips = view.sound.tracks.flatMap((track) => track.clips);
  const missing = new Set(clips.map((clip) => clip.peaks).filter((url) => !view.peaks.has(url)));
  try {
    await Promise.all([
      ...[...missing].map((url) => loadPeaks(url).then((levels) => view.peaks.set(url, levels))),
      transport.player.show(heardClips(view.sound, fps), view.sound.frames / fps),
    ]);
  } catch (problem) {
    say(`${problem.message} Reload the page to try again.`);
  }
  showReel();
  draw();
}

function chooseTrack(id) {
  view.track = view.track === id ? null : id;
  show();
}

// Hands

function select(clip, more) {
  if (!more && !view.selected.has(clip.id)) view.selected.clear();
  if (more && view.selected.has(clip.id)) view.selected.delete(clip.id);
  else view.selected.add(clip.id);
  panels.show();
}

canvas.addEventListener("pointerdown", (event) => {
  const spot = under(view, event.offsetX, event.offsetY);
  canvas.setPointerCapture(event.pointerId);
  if (spot.mark && given.mayEdit) {
    view.drag = { mark: spot.mark.id, part: spot.part, start: spot.mark.start, end: spot.mark.end, from: spot.seconds };
    return;
  }
  if (spot.voice && given.mayEdit) {
    view.drag = { drawn: spot.voice, from: spot.seconds, start: spot.seconds, end: spot.seconds };
    return;
  }
  if (!spot.clip) {
    view.selected.clear();
    panels.show();
    view.drag = { kind: "scrub" };
    transport.go(spot.frame, false);
    return;
  }
  select(spot.clip, event.shiftKey);
  if (!given.mayEdit) return;
  const kind = spot.part === "body" ? "slide" : spot.part;
  const clips = kind === "slide" ? new Set(view.selected) : new Set([spot.clip.id]);
  view.drag = { kind, clips, clip: spot.clip, from: spot.frame, by: 0, track: spot.track.id };
  draw();
});

canvas.addEventListener("pointermove", (event) => {
  const spot = under(view, event.offsetX, event.offsetY);
  const drag = view.drag;
  if (!drag) {
    canvas.style.cursor = spot.part === "first" || spot.part === "end" || spot.part === "start" ? "ew-resize" : spot.clip ? "grab" : "default";
    return;
  }
  if (drag.kind === "scrub") {
    if (spot.frame !== view.frame) transport.go(spot.frame, true);
    return;
  }
  if (drag.drawn) {
    drag.start = Math.max(0, Math.min(drag.from, spot.seconds));
    drag.end = Math.max(drag.from, spot.seconds);
  } else if (drag.mark) moveMark(drag, spot.seconds);
  else drag.by = limited(drag, spot.frame - drag.from);
  if (spot.track) drag.over = spot.track.id;
  draw();
});

function limited(drag, by) {
  const { start, offset, frames, whole } = drag.clip;
  if (drag.kind === "first") return Math.max(-offset, Math.min(frames - 1, by));
  if (drag.kind === "end") return Math.max(1 - frames, Math.min(whole - offset - frames, by));
  return by + start > -1e6 ? by : 0;
}

function moveMark(drag, seconds) {
  const mark = view.sound.marks.find((m) => m.id === drag.mark);
  const by = seconds - drag.from;
  drag.start = drag.part === "end" ? mark.start : Math.max(0, mark.start + by);
  drag.end = drag.part === "start" ? mark.end : mark.end + by;
}

for (const end of ["pointerup", "pointercancel"]) {
  canvas.addEventListener(end, () => {
    const drag = view.drag;
    view.drag = null;
    if (end === "pointerup" && drag) dropped(drag);
    draw();
  });
}

function dropped(drag) {
  if (drag.drawn) {
    if (drag.end - drag.start >= LEAST_MARK) edit("add-mark", { character: drag.drawn.id, start: drag.start, end: drag.end });
    else transport.go(frameAt(drag.from, fps), false);
  } else if (drag.mark) {
    const mark = view.sound.marks.find((m) => m.id === drag.mark);
    if (mark.start !== drag.start || mark.end !== drag.end) edit("mark", { mark: drag.mark, start: drag.start, end: drag.end });
    else live.choose(mark);
  } else if (drag.kind === "slide") {
    if (drag.by) edit("slide", { clips: [...drag.clips], by: drag.by, ripple: $("ripple").checked });
    if (drag.over && drag.over !== drag.track && drag.clips.size === 1) edit("move", { clip: drag.clip.id, track: drag.over });
  } else if (drag.by) {
    const { id, start, frames } = drag.clip;
    const first = drag.kind === "first" ? start + drag.by : start;
    const last = drag.kind === "end" ? start + frames + drag.by : start + frames;
    edit("trim", { clip: id, first, end: last });
  }
}

canvas.addEventListener("wheel", (event) => transport.wheel(event), { passive: false });

const split = () => edit("split", { clips: across(), frame: view.frame });
function remove() {
  if (view.selected.size) edit("delete", { clips: [...view.selected], ripple: $("ripple").checked });
  else if (live.chosen) live.remove();
}
// What a split means: the selected clips, or all that lie under the playhead.
function across() {
  if (view.selected.size) return [...view.selected];
  const clips = view.sound.tracks.flatMap((track) => track.clips);
  return clips.filter((c) => c.start < view.frame && view.frame < c.start + c.frames).map((c) => c.id);
}
const chosenTracks = () => (view.track ? [view.track] : null);
const range = () => ({ first: view.in ?? 0, end: (view.out ?? transport.last) + 1 });

function cutOut() {
  if (view.in === null || view.out === null) say("Set in and out first: with I and O, or the buttons above.");
  else edit("cut-out", { ...range(), tracks: chosenTracks(), ripple: $("ripple").checked }).then((answer) => {
    if (answer.document && !answer.problem && !chosenTracks()) say("Cut out of every track; choose a track's name to mean it alone.", undefined, "", true);
  });
}

function openGap() {
  const { first, end } = range();
  const frames = view.in !== null && view.out !== null ? end - first : Math.round(fps);
  edit("open-gap", { frame: view.in ?? view.frame, frames, tracks: chosenTracks() });
}

document.addEventListener("keydown", (event) => {
  if (typing(event)) return;
  const plain = !event.ctrlKey && !event.metaKey && !event.altKey;
  if (live.key(event)) return event.preventDefault();
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") edit(event.shiftKey ? "redo" : "undo");
  else if (plain && event.key.toLowerCase() === "s") split();
  else if (plain && event.key === "Delete") remove();
  else if (plain && "bn".includes(event.key.toLowerCase())) besideClip(event.key.toLowerCase() === "n" ? 1 : -1, event.shiftKey);
  else if (plain && event.key.toLowerCase() === "m") besideMark(event.shiftKey ? -1 : 1);
  else if (plain && event.key.startsWith("Arrow") && /Up|Down/.test(event.key)) besideTrack(event.key === "ArrowDown" ? 1 : -1);
  else if (plain && event.key === "Escape") unselect();
  else if (event.altKey && event.key.startsWith("Arrow")) nudge(event);
  else if (!transport.key(event)) return;
  event.preventDefault();
});
document.addEventListener("keyup", (event) => live.released(event));

// The clip before or after the selected one, whichever track it is on; with Shift as one more.
function besideClip(step, more) {
  const clips = view.sound.tracks.flatMap((track) => track.clips).sort((a, b) => a.start - b.start);
  const at = clips.findIndex((clip) => clip.id === [...view.selected].at(-1));
  const next = at < 0 ? (clips.find((clip) => clip.start + clip.frames > view.frame) ?? clips.at(-1)) : clips[at + step];
  if (!next) return;
  live.letGo();
  if (!more) view.selected.clear();
  view.selected.delete(next.id);
  select(next, true);
  transport.go(Math.max(0, next.start), false);
}

function besideMark(step) {
  const { marks } = view.sound;
  const at = marks.findIndex((mark) => mark.id === live.chosen?.id);
  const next = at < 0 ? marks.find((mark) => mark.end * fps > view.frame) ?? marks[0] : marks[at + step];
  if (!next) return say(marks.length ? "" : "Nobody is marked as speaking yet.", undefined, "", true);
  view.selected.clear();
  panels.show();
  live.choose(next);
  transport.go(Math.max(0, frameAt(next.start, fps)), false);
}

function besideTrack(step) {
  const { tracks } = view.sound;
  const next = tracks[tracks.findIndex((track) => track.id === view.track) + step];
  view.track = next?.id ?? null;
  show();
}

function unselect() {
  view.selected.clear();
  live.letGo();
  panels.show();
  draw();
}

// A mark a frame earlier or later; with Shift its end alone.
function moveMarkByKey({ id, start, end }, by, endAlone) {
  edit("mark", { mark: id, start: endAlone ? start : Math.max(0, start + by / fps), end: end + by / fps });
}

function nudge(event) {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  const mark = view.sound.marks.find((one) => one.id === live.chosen?.id);
  if (by && mark && !view.selected.size) return moveMarkByKey(mark, by, event.shiftKey);
  if (by && view.selected.size) edit("slide", { clips: [...view.selected], by: by * (event.shiftKey ? 10 : 1), ripple: $("ripple").checked });
}

const on = (id, action) => $(id).addEventListener("click", action);
on("undo", () => edit("undo"));
on("redo", () => edit("redo"));
on("split", split);
on("remove", remove);
on("cut-out", cutOut);
on("open-gap", openGap);
$("tall").addEventListener("input", (event) => {
  view.tall = Number(event.target.value);
  draw();
});
$("length").addEventListener("change", (event) => edit("length", { frames: event.target.value ? Number(event.target.value) : null }));
$("add-track").addEventListener("change", (event) => {
  const [kind, character] = event.target.value.split(":");
  const name = event.target.selectedOptions[0].dataset.name;
  event.target.value = "";
  if (kind) edit("add-track", { kind, name, character: character ? Number(character) : null });
});

// Bringing in

function bring(files, where) {
  const most = given.mostBytes;
  const large = [...files].find((file) => file.size > most);
  if (large) return say(`${large.name} is larger than ${Math.floor(most / 2 ** 20)} MB; cut the sound into scenes first. Nothing was changed.`);
  const form = new FormData();
  for (const file of files) form.append("sound", file);
  for (const [name, value] of Object.entries(where)) if (value !== undefined && value !== null) form.append(name, value);
  room.classList.add("busy-bringing");
  return editor.send(room.dataset.bring, form, take).finally(() => room.classList.remove("busy-bringing"));
}

$("files").addEventListener("change", async (event) => {
  const files = [...event.target.files];
  event.target.value = "";
  const who = await whoIn($("bring-for"));
  if (who !== null) bring(files, who ? { character: who } : {});
});
document.addEventListener("cast-grew", ({ detail }) => {
  view.cast.push(detail.character);
  Object.assign(given.voices, detail.voices);
  scratchVoices();
  show();
});
room.addEventListener("dragover", (event) => {
  event.preventDefault();
  room.classList.add("over");
});
room.addEventListener("dragleave", () => room.classList.remove("over"));
room.addEventListener("drop", async (event) => {
  event.preventDefault();
  room.classList.remove("over");
  const files = [...event.dataTransfer.files];
  if (!files.length || !given.mayEdit) return;
  const head = event.target.closest?.("[data-track]");
  const spot = event.target === canvas ? under(view, event.offsetX, event.offsetY) : {};
  const track = head ? Number(head.dataset.track) : spot.track?.id;
  const who = event.target.closest?.("[data-character]")?.dataset.character ?? (track ? "" : await whoIn($("bring-for")));
  if (who === null) return;
  bring(files, { track, start: spot.track ? Math.max(0, spot.frame) : null, character: track ? null : who || null });
});

$("scratch").addEventListener("submit", async (event) => {
  event.preventDefault();
  if ((await whoIn($("scratch-character"))) === null) return;
  const form = new FormData(/** @type {HTMLFormElement} */ ($("scratch")));
  form.append("start", String(view.frame));
  editor.send(room.dataset.scratch, form, take);
});
$("scratch-character").addEventListener("change", scratchVoices);
$("scratch-line").addEventListener("change", () => {
  const line = given.lines.find((one) => String(one.id) === $("scratch-line").value);
  if (line?.character) $("scratch-character").value = String(line.character);
  $("scratch-words").value = line?.text ?? "";
  scratchVoices();
});
// The voices that speak the chosen line's language, or else the character's own.
function scratchVoices() {
  const line = given.lines.find((one) => String(one.id) === $("scratch-line").value);
  const who = view.cast.find((c) => String(c.id) === $("scratch-character").value);
  const language = line?.language ?? who?.language ?? "";
  $("scratch-language").value = language;
  $("scratch-voice").replaceChildren(...(given.voices[language] ?? []).map(([code, name]) => new Option(name, code)));
}

window.addEventListener("resize", () => draw());
document.addEventListener("theme-switched", () => draw());

async function begin() {
  scratchVoices();
  if (!given.mayEdit) for (const control of document.querySelectorAll(".room-do :is(button, input, select)")) control.disabled = true;
  view.perFrame = canvas.clientWidth / view.sound.frames;
  show();
  transport.zoom(0);
  await document.fonts.ready;
  await loaded();
  room.dataset.version = String(view.sound.version);
  room.dataset.ready = "yes";
}

// A reference picture that is being made is shown when it is there.
let waiting = false;
async function waitForReel() {
  const making = (sound) => Object.values(sound.sounds).some((one) => ["waiting", "running"].includes(one.reelState));
  if (waiting || !making(view.sound)) return;
  waiting = true;
  let fresh = view.sound;
  while (making(fresh)) {
    await new Promise((done) => setTimeout(done, 1000));
    const answer = await fetch(room.dataset.document);
    if (!answer.ok) break;
    fresh = await answer.json();
  }
  waiting = false;
  view.sound = { ...view.sound, sounds: fresh.sounds };
  showReel();
}

function showReel() {
  $("reel").querySelector("video")?.remove();
  reel = new Reel($("reel"), view.sound, fps);
  waitForReel();
}
begin();
