// The Reading desk: one state, drawn when it changes; every edit goes to the server, and what it changed comes back.
import { ActingShown } from "../lib/acting.js";
import { frameAt } from "../lib/clock.js";
import { drag } from "../lib/drag.js";
import { ask, aWhile, Editor, get, sayIn, sayWhatWasDone, showSteps } from "../lib/edits.js";
import { bare, missing, withPatch, withSlice } from "./lanes.js";
import { GroupMirror, Mirror } from "./mirror.js";
import { MouthMap } from "./mouthmap.js";
import { colour, drawWave, fit, loadPeaks } from "../lib/peaks.js";
import { heardClips } from "../lib/player.js";
import { Reel } from "../lib/reel.js";
import { at, drawStaves } from "./staves.js";
import { oncePerPicture, Transport, typing } from "../lib/transport.js";
import { Checks, Habits, History, lookAfter, meantSo, sameCheck, Takes, toLookAt } from "./companions.js";
import { dockOf } from "./dock.js";
import { mouthHands } from "./mouthhands.js";
import { placeAt } from "./selection.js";
import { wordHands } from "./wordhands.js";
import { wordAt } from "./words.js";

const $ = (id) => document.getElementById(id);
const given = JSON.parse($("desk-document").textContent);
const DIALS = ["dial-hold", "dial-lead", "dial-detail", "dial-step"];
const fps = given.scene.rate.numerator / given.scene.rate.denominator;
let clips = clipsOf(given.sound);

const state = {
  staves: given.staves.map((stave) => withSlice(withClips(bare(stave)), stave)),
  active: Math.max(0, given.staves.findIndex((s) => s.read)),
  chosen: [],
  lead: null,
  anchor: null,
  check: null,
  folded: new Set(),
  solo: null,
  curves: null,
  together: false,
  onion: false,
  follow: true,
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
let reel = new Reel($("reel"), given.sound, fps);
// The mirror acts as the Acting view has it.
const acting = new ActingShown(given.actingUrl, () => transport.show());
const mirror = new Mirror($("mirror"), $("neighbours"));
const other = new Mirror($("mirror-take"), null);
const group = new GroupMirror($("mirror-all"));
const map = new MouthMap($("mouth-map"), (drawing) => mouths.pick(drawing));
const say = sayIn($("problem"));
const editor = new Editor(say, aWhile, lookAgainSaying);
sayWhatWasDone(say);
const checks = new Checks({
  slice: given.slice,
  staveOf: (id) => state.staves.find((one) => one.id === id),
  put: (id, found) => {
    const place = state.staves.findIndex((one) => one.id === id);
    state.staves[place] = { ...state.staves[place], checks: found };
    if (place === state.active) showDock();
    draw();
  },
});
const takes = new Takes({ stave: () => stave(), say, changed: showTakes });
const past = new History({ url: given.historyUrl, backUrl: given.backUrl, say, changed: () => showDock(), gone: lookAgain, inLine: (work) => editor.inLine(work) });
const habits = new Habits({ stave: () => stave(), say, changed: () => showDock(), open: () => openDock("habits") });
const panels = dockOf({
  takes,
  habits,
  lookAgain,
  anew: begunAnew,
  stave: () => stave(),
  history: past,
  say,
  lookAtCheck,
  cure,
  meanIt,
  seeAll,
  onionSkin,
  fullScreen: () => (document.fullscreenElement ? document.exitFullscreen() : $("mirrors").requestFullscreen()),
  followOrNot,
  solo,
  curves,
  dialCurve,
  inView: () => (state.perFrame ? view() : [0, 0]),
  choose: (frame) => mouths.choose([frame], frame),
  zoomTo,
  loopLine,
  keyboard: given.keyboard,
  formats: given.formats,
  edit,
  activate,
  open: openDock,
  bring: bringReading,
  lookAtTiming,
  readAgain: (word, alone) => words.readAgain(word, alone),
  select: (word, sound) => words.select(word, sound),
  mouths: () => mouths,
  startFrame: state.startFrame,
  go: (frame) => transport.go(frame, true),
  frame: (seconds) => frameAt(seconds, fps) + state.startFrame,
  time: () => state.frame / fps,
  range: () => (state.in === null || state.out === null ? null : [state.in / fps, (state.out + 1) / fps]),
  mayEdit: given.mayEdit,
});
const stave = () => state.staves[state.active];

// What the hands on words and on exposures need of the desk.
const hands = {
  state,
  stave,
  fps,
  transport,
  map,
  mirror,
  say,
  edit,
  draw,
  begunAnew,
  showSelection,
  canvas: $("staves"),
  desk: $("desk"),
  get frames() {
    return given.sound.frames;
  },
  mayEdit: given.mayEdit,
  readUrl: given.readUrl,
  shapes: given.shapes,
  weights: given.weights,
  rereads: () => panels.rereads,
  border: () => panels.asked.border,
  reach: () => Number.parseInt(panels.asked.reach, 10) || 0,
  along: () => panels.asked.along,
  wordIsChosen: () => {
    if (dock === "mouths" || dock === "files") dock = "word";
  },
  mouthIsChosen: () => {
    if (state.chosen.length && dock === "word") dock = "mouths";
  },
  placeOf: (event) => state.left + (event.clientX - $("staves").getBoundingClientRect().left) / state.perFrame,
  frameOf: (event) => Math.floor(hands.placeOf(event)),
};
const words = wordHands(hands);
const mouths = mouthHands(hands);

function clipsOf(sound) {
  return new Map(sound.tracks.flatMap((track) => track.clips).map((clip) => [clip.id, clip]));
}

function withClips(stave) {
  return { ...stave, clips: stave.clips.map((id) => clips.get(id)).filter(Boolean) };
}

const exposureAt = (frame) => placeAt(stave().exposures, frame);

// Drawing

function render() {
  drawStaves($("staves"), state);
  miniature();
}

let marked = "null.null";

function showFrame(playing) {
  const desk = $("desk");
  desk.dataset.frame = String(state.frame);
  desk.dataset.time = state.time.toFixed(6);
  desk.dataset.playing = playing ? "yes" : "no";
  if (!stave()) return;
  const compared = takes.compared;
  if (state.drag?.mouths) mirror.preview(state.drag.mouths, state.frame);
  else if (takes.shown) mirror.preview(compared.exposures, state.frame);
  else mirror.frame(state.frame, exposureAt(state.frame), state.onion);
  if (compared) other.preview(compared.exposures, state.frame);
  if (state.together) group.frame(state.frame, state.staves, (one) => acting.poses(one.characterId, state.frame));
  mirror.face?.pose(acting.poses(stave().characterId, state.frame));
  if (marked !== `${state.in}.${state.out}`) {
    marked = `${state.in}.${state.out}`;
    showDock();
  }
  reel.show(state.time, playing, transport.player.speed);
  why();
}

// Frames where lines or words of the active stave begin.
function jumps(kind) {
  const { lines } = stave();
  const starts = kind === "lines" ? lines : lines.flatMap((line) => line.words);
  return starts.map((one) => Math.max(0, frameAt(one.start, fps))).sort((a, b) => a - b);
}

function showStave(another = true) {
  if (another) {
    mirror.show(stave());
    other.show(stave());
    map.show(stave().chart);
  }
  mirror.stave = stave();
  $("dial-hold").value = stave().settings.hold;
  $("dial-lead").value = stave().settings.lead;
  $("dial-detail").value = stave().settings.detail;
  $("dial-step").value = stave().settings.step;
  for (const id of DIALS) $(id).disabled = !given.mayEdit;
  $("plan-anew").hidden = !stave().newChart || !given.mayEdit;
  showSelection();
  transport.show();
}

function activate(number) {
  if (number === state.active || number < 0) return;
  state.active = number;
  Object.assign(state, { chosen: [], lead: null, anchor: null, word: null, check: null, curves: null });
  state.folded.delete(stave().id);
  if (takes.compared) takes.leave();
  if (dock === "takes") takes.load();
  if (dock === "habits") habits.load();
  showStave();
}

function showSelection() {
  const own = state.chosen.map((frame) => stave().exposures[exposureAt(frame)]).filter(Boolean);
  const lead = state.chosen.length ? mouths.lead() : null;
  const desk = $("desk");
  desk.dataset.selected = lead ? String(lead.frame) : "";
  desk.dataset.chosen = state.chosen.join(" ");
  const judged = lead ?? mouths.seenOn(state.frame);
  map.mark(lead?.drawing, given.mayEdit, judged ? mouths.ranked(judged) : []);
  $("map-hint").textContent = hintOf(own);
  for (const id of ["previous", "next"]) $(id).disabled = !stave().exposures.length;
  showSteps($("undo"), $("redo"), stave(), given.mayEdit);
  showDock();
  draw();
}

function hintOf(own) {
  if (!own.length) return "none chosen";
  const [first, end] = [own[0].frame + state.startFrame, own.at(-1).frame + own.at(-1).frames - 1 + state.startFrame];
  return own.length === 1 ? `frames ${first} to ${end}` : `${own.length} exposures, frames ${first} to ${end}`;
}

// The dock under the lanes: the mouth map, or the selected word, or the lists of words to look at.

let dock = "mouths";

// Keys after this are meant for the word, not for the tab.
function openDock(name) {
  document.activeElement?.blur();
  dock = name;
  if (name === "takes") takes.load();
  if (name === "habits") habits.load();
  if (name === "history") past.load();
  showDock();
}

function showDock() {
  for (const id of ["map-hint", "previous", "next"]) $(id).hidden = dock !== "mouths";
  const word = state.word && wordAt(stave(), state.word)?.word;
  $("desk").dataset.word = word ? word.at.join(".") : "";
  panels.show(stave(), state, dock, state.staves, state.chosen.length ? mouths.lead() : null);
}

// A reading from elsewhere takes the place of the stave's own; it can be undone.
async function bringReading(file) {
  const form = new FormData();
  form.append("file", file);
  form.append("version", stave().version);
  const answer = await editor.send(stave().bringUrl, form, take);
  if (answer.notes?.length) say(answer.notes.join(" "));
}

// What a file of another program's exposures holds, or null where it is refused.
async function lookAtTiming(file) {
  const body = new FormData();
  body.append("file", file);
  try {
    const answer = await (await ask(stave().timingUrl, { body })).json();
    say(answer.problem ?? "");
    return answer.problem ? null : answer;
  } catch (failed) {
    say(failed.message);
    return null;
  }
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
      reasons.set(place, (await get(`${whyUrl}${frame}`)).sounds);
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
  const length = `${drawing ? `${exposure.drawing} (${drawing.meaning})` : "nothing"}, held ${exposure.frames}`;
  if (exposure.own) return `${length}: a stretch of its own.`;
  if (exposure.pinned) return `${length}: a person pinned it.`;
  if (!sounds) return `${length}.`;
  if (!sounds.length) return `${length}: nobody speaks here.`;
  const shown = sounds.filter(([, reason]) => !reason).map(([ipa]) => `/${ipa}/`);
  const text = shown.length ? ` for ${shown.join(" ")}` : "";
  const left = [...Map.groupBy(sounds.filter(([, reason]) => reason), ([, reason]) => reason)];
  const why = left.map(([reason, own]) => ` ${own.map(([ipa]) => `/${ipa}/`).join(" ")}: ${reason[0].toLowerCase()}${reason.slice(1)}`);
  return `${length}${text}.${why.join("")}`;
}

// The sound of the whole scene, drawn once for as long as it is the same.
const whole = { key: "", canvas: document.createElement("canvas") };

function wholeSound(width, height) {
  const all = [...clips.values()].filter((clip) => state.peaks.has(clip.peaks));
  const ratio = window.devicePixelRatio || 1;
  const key = [width, ratio, colour("tin-deep"), given.sound.frames, ...all.map(({ peaks, start, frames, offset }) => `${peaks} ${start} ${frames} ${offset}`)].join();
  if (key === whole.key) return whole.canvas;
  whole.key = key;
  Object.assign(whole.canvas, { width: Math.round(width * ratio), height: Math.round(height * ratio) });
  const context = whole.canvas.getContext("2d");
  context.scale(ratio, ratio);
  const scale = width / given.sound.frames;
  for (const { peaks, start, frames, offset } of all)
    drawWave(context, state.peaks.get(peaks), { x: start * scale, y: 2, width: frames * scale, height: height - 4 }, offset / fps, (offset + frames) / fps, colour("tin-deep"));
  return whole.canvas;
}

function miniature() {
  const { context, width, height } = fit($("miniature"), 34);
  const scale = width / given.sound.frames;
  if (width) context.drawImage(wholeSound(width, height), 0, 0, width, height);
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
  $("desk").dataset.busy = "yes";
  return editor.edit(editUrl, () => state.staves.find((s) => s.id === id).version, verb, what, take).finally(() => {
    $("desk").dataset.busy = editor.busy ? "yes" : "no";
  });
}

// Some time after drawings were chosen by hand: is there a habit in it?
let looking = 0;
function lookForHabits() {
  clearTimeout(looking);
  looking = setTimeout(() => habits.look(), 1500);
}

// Put a stave in the place of the one it was.
function put(fresh) {
  const place = state.staves.findIndex((s) => s.id === fresh.id);
  const drawn = (stave) => stave.chart.drawings.map((one) => one.name).join();
  const another = drawn(state.staves[place]) !== drawn(fresh);
  state.staves[place] = fresh;
  if (another && state.together) group.show(state.staves);
  if (place !== state.active) return draw();
  mouths.kept();
  showStave(another);
}

// The mirrors of the track and of the take it is compared with.
function showTakes() {
  const compared = takes.compared;
  $("mirror-take").hidden = !compared;
  $("mirrors").classList.toggle("two", Boolean(compared));
  $("desk").dataset.take = compared ? compared.name : "";
  $("desk").dataset.shown = takes.shown ? "take" : "track";
  if (compared) other.show(stave());
  $("mirror").dataset.caption = "now";
  $("mirror-take").dataset.caption = compared?.name ?? "";
  state.compared = compared;
  mirror.shown = null;
  transport.show();
  showDock();
}

// All characters in the mirror, or the active one.
function seeAll() {
  state.together = !state.together;
  $("mirrors").classList.toggle("together", state.together);
  $("mirror-all").hidden = !state.together;
  if (state.together) group.show(state.staves);
  transport.show();
  showDock();
}

function onionSkin() {
  state.onion = !state.onion;
  mirror.shown = null;
  transport.show();
  showDock();
}

// A stave small, or in full again.
function fold(number) {
  const { id } = state.staves[number];
  if (!state.folded.delete(id)) state.folded.add(id);
  if (number === state.active && state.folded.has(id)) {
    const open = state.staves.findIndex((one) => !state.folded.has(one.id));
    if (open >= 0) return activate(open);
  }
  draw();
}

// Only the active character is heard, and seen in full; or all again.
async function solo() {
  state.solo = state.solo === stave().id ? null : stave().id;
  state.folded = new Set(state.solo === null ? [] : state.staves.filter((one) => one.id !== state.solo).map((one) => one.id));
  transport.player.stop();
  await hear();
  transport.show();
  showDock();
}

// The sound that is played: of all, or of the one that is heard alone.
async function hear() {
  const alone = state.staves.find((one) => one.id === state.solo);
  const own = new Set(alone?.clips.map((clip) => clip.id));
  const tracks = given.sound.tracks.map((track) => ({ ...track, clips: track.clips.filter((clip) => !alone || own.has(clip.id)) }));
  const urls = [...clips.values()].map((clip) => clip.peaks).filter((url) => !state.peaks.has(url));
  const loads = [...new Set(urls)].map((url) => loadPeaks(url).then((levels) => state.peaks.set(url, levels)));
  await Promise.all([...loads, transport.player.show(heardClips({ ...given.sound, tracks }, fps), given.sound.frames / fps)]);
}

// The scene's sound lies elsewhere, or is another.
async function soundAnew() {
  given.sound = await get(given.soundUrl);
  clips = clipsOf(given.sound);
  $("reel").replaceChildren();
  reel = new Reel($("reel"), given.sound, fps);
  transport.player.stop();
  await hear();
}

// What the mouth is asked to do, drawn over the ribbon for what is in view.
async function curves(on = state.curves === null) {
  const { id, curvesUrl } = stave();
  const [first, end] = view();
  try {
    const answer = on ? await get(`${curvesUrl}?first=${first}&end=${end}`) : null;
    state.curves = answer && { ...answer, stave: id };
  } catch (failed) {
    say(failed.message);
  }
  draw();
  showDock();
}

// What Detail does between in and out, or around the playhead.
async function dialCurve() {
  const around = Math.round(20 * fps);
  const [first, end] = state.in === null || state.out === null ? [Math.max(0, state.frame - around), state.frame + around] : [state.in, state.out + 1];
  try {
    return (await get(`${stave().dialUrl}?first=${first}&end=${Math.min(end, given.sound.frames)}`)).points;
  } catch (failed) {
    say(failed.message);
    return [];
  }
}

function followOrNot() {
  state.follow = !state.follow;
  showDock();
}

const lineHere = () => stave().lines.find((line) => line.end > (state.frame + 0.5) / fps) ?? stave().lines.at(-1);

// The line at the playhead, what is chosen, or what lies between in and out, over the whole width.
function zoomTo() {
  const own = state.chosen.map((frame) => mouths.seenOn(frame)).filter(Boolean);
  const line = lineHere();
  if (own.length) transport.zoomTo(own[0].frame, own.at(-1).frame + own.at(-1).frames);
  else if (state.in !== null && state.out !== null) transport.zoomTo(state.in, state.out + 1);
  else if (line) transport.zoomTo(frameAt(line.start, fps), frameAt(line.end, fps) + 1);
}

// The line at the playhead over and over, each time from half a second before it.
function loopLine() {
  const line = lineHere();
  if (!line) return say("There is no line here.");
  state.in = Math.max(0, frameAt(line.start - 0.5, fps));
  state.out = Math.min(given.sound.frames - 1, frameAt(line.end, fps));
  transport.loop(true);
  transport.go(state.in, false);
  if (!transport.player.playing) transport.toggle();
}

function lookAtCheck(check) {
  state.check = check;
  const own = mouths.seenOn(check.frame);
  if (own) mouths.choose([own.frame], own.frame, false);
  transport.go(check.frame, true);
  dock = "checks";
  showDock();
}

function nextCheck(step) {
  const own = toLookAt(stave());
  if (!own.length) return say(checks.pending ? "Still looking; press C again in a moment." : "Nothing looks wrong.", undefined, "", true);
  const place = own.findIndex((one) => sameCheck(one, state.check));
  const after = own.findIndex((one) => one.frame >= state.frame);
  lookAtCheck(own[place >= 0 ? (place + step + own.length) % own.length : Math.max(0, after)]);
}

async function cure(check = state.check) {
  if (!check?.fix) return say(check ? "There is no cure by one click for this; look at it." : "Go to a check first (C).");
  const done = await edit(check.fix.verb, check.fix.what);
  if (done?.document && !done.problem) state.check = null;
}

// What looks wrong is meant so, or is not after all.
function meanIt(check = state.check) {
  if (!check) return say("Go to a check first (C).");
  edit("meant so", { frame: check.frame, frames: check.frames, kind: check.kind, meant: !meantSo(stave(), check) });
}

// Others may have changed what is shown; what is theirs is asked for anew.
async function lookAgain() {
  await soundAnew();
  for (const { id } of state.staves) await begunAnew(id);
  fill();
}

async function lookAgainSaying(sentence) {
  await lookAgain();
  say(sentence, undefined, "", true);
}

async function compareVersions(versions) {
  await acting.compare(versions);
  if (editor.busy) return;
  if (versions.sound > given.sound.version) return lookAgainSaying("The sound was changed elsewhere, and lies as it does now.");
  for (const one of state.staves) {
    const version = versions[`stave ${one.id}`];
    if (version !== undefined && version > one.version && !editor.busy) {
      await begunAnew(one.id);
      say(`${one.character} was changed elsewhere, and is shown as it is now.`, undefined, "", true);
      fill();
    }
  }
}

// What an edit changed; where it was refused, perhaps as somebody else changed the stave, the page makes up for that.
async function take(patch, done) {
  const own = state.staves.find((s) => s.id === patch.id);
  if (done && patch.renumbered) put(withSlice(withPatch(own, patch), await inView(own)));
  else if (done) put(withPatch(own, patch));
  if (done && /^(another drawing|put in|pin)$/.test(patch.undo)) lookForHabits();
  if (done) for (const [first, end] of touchedBy(patch)) checks.changed(patch.id, first, end);
  else if (patch.version !== own.version) await begunAnew(patch.id);
  await seen();
  fill();
}

// Frames on which something is other than before an edit.
function touchedBy({ drawn, lines, renumbered, frames }) {
  if (renumbered) return [[0, frames]];
  return [...drawn, ...lines.map((line) => [Math.floor(line.start * fps), Math.ceil(line.end * fps)])];
}

const slice = (stave, [first, end]) => get(`${stave.url}?first=${first}&end=${end}`);

// A slice from what is seen on.
function inView(stave) {
  const [first] = view();
  return slice(stave, [first, first + given.slice]);
}

const view = () => [Math.max(0, Math.floor(state.left)), Math.ceil(state.left + $("staves").clientWidth / state.perFrame)];

// Nothing that is known of a stave holds any more: what is in view is asked for, and the rest after it.
async function begunAnew(id) {
  const own = state.staves.find((s) => s.id === id);
  const fresh = await inView(own);
  put(withSlice(withClips(bare({ ...own, clips: fresh.clips })), fresh));
  checks.changed(id, fresh.first, fresh.end);
}

// Ask for one slice that is missing of a stave; whether there was one.
async function more(id, least) {
  const own = state.staves.find((s) => s.id === id);
  const next = missing(own, view(), given.slice);
  if (!next || next[0] >= least) return false;
  const fresh = await slice(own, next);
  const now = state.staves.find((s) => s.id === id);
  if (fresh.version > now.version) await begunAnew(id);
  else if (fresh.version === now.version) {
    put(withSlice(now, fresh));
    checks.changed(id, fresh.first, fresh.end);
  }
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

function changeDials() {
  edit("settings", { hold: +$("dial-hold").value, lead: +$("dial-lead").value, detail: +$("dial-detail").value, step: +$("dial-step").value });
}

// Hands

const KEYS = {
  c: (event) => nextCheck(event.shiftKey ? -1 : 1),
  f: (event) => (event.shiftKey ? meanIt() : cure()),
  a: () => takes.toggle(),
  u: onionSkin,
  k: () => curves(),
  z: zoomTo,
  d: (event) => words.nextDoubt(event.shiftKey ? -1 : 1), w: () => words.here(), escape: unselect,
};

function unselect() {
  Object.assign(state, { word: null, chosen: [], lead: null, anchor: null });
  showSelection();
}

document.addEventListener("keydown", (event) => {
  if (typing(event) || !stave()) return;
  const control = event.ctrlKey || event.metaKey;
  const own = !control && !event.altKey && KEYS[event.key.toLowerCase()];
  if (event.key === " " && event.shiftKey) {
    transport.toggle(true);
    return event.preventDefault();
  }
  if (event.altKey && event.key.startsWith("Arrow")) {
    if (state.chosen.length) mouths.neighbour(event.key);
    else if (words.chosen() && given.mayEdit && /Left|Right/.test(event.key)) words.moveByKey(event);
  } else if (control && event.key.toLowerCase() === "z") {
    edit(event.shiftKey ? "redo" : "undo");
  } else if (own) own(event);
  else if (!(!control && !event.altKey && words.key(event)) && !mouths.key(event) && !transport.key(event)) return;
  event.preventDefault();
});

const spotOf = (event) => {
  const box = $("staves").getBoundingClientRect();
  return at(state, event.clientX - box.left, event.clientY - box.top);
};

$("staves").addEventListener("pointerdown", (event) => {
  const spot = spotOf(event);
  if (spot.lane === "name") return fold(spot.number);
  activate(spot.number);
  if (spot.lane === "ribbon" && exposureAt(spot.frame) >= 0) return mouths.hold(spot, event);
  if (spot.word) return words.hold(spot, event);
  transport.go(spot.frame, false);
  drag($("staves"), event, (now) => {
    const frame = hands.frameOf(now);
    if (frame !== state.frame) transport.go(frame, true);
  }, () => {});
});

$("staves").addEventListener("pointermove", (event) => {
  if (event.buttons) return;
  const spot = spotOf(event);
  $("staves").style.cursor = spot.edge !== undefined || spot.seam !== undefined ? "col-resize" : spot.word ? "pointer" : "";
});

// A drawing of the map can be dragged onto an exposure.
$("staves").addEventListener("dragover", (event) => {
  const spot = spotOf(event);
  if (spot.lane !== "ribbon" || spot.number !== state.active || !given.mayEdit) return;
  event.preventDefault();
  state.over = mouths.seenOn(spot.frame)?.frame ?? null;
  draw();
});
$("staves").addEventListener("dragleave", () => {
  state.over = null;
  draw();
});
$("staves").addEventListener("drop", (event) => {
  const drawing = event.dataTransfer.getData("text/x-drawing");
  const frame = state.over;
  state.over = null;
  event.preventDefault();
  if (frame !== null && frame !== undefined) edit("show", { at: [frame], drawing });
});

$("staves").addEventListener("wheel", (event) => transport.wheel(event), { passive: false });
$("miniature").addEventListener("click", (event) => {
  transport.go(Math.floor((event.offsetX / $("miniature").clientWidth) * given.sound.frames), false);
});

$("plan-anew").addEventListener("click", async () => {
  const { id } = stave();
  await edit("plan with chart");
  await begunAnew(id);
});
$("previous").addEventListener("click", () => mouths.beside(-1));
$("next").addEventListener("click", () => mouths.beside(1));
$("undo").addEventListener("click", () => edit("undo"));
$("redo").addEventListener("click", () => edit("redo"));
for (const id of DIALS) $(id).addEventListener("change", changeDials);
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
  requestAnimationFrame(() => requestAnimationFrame(() => performance.mark("first view")));
  for (const one of state.staves) checks.changed(one.id, 0, given.slice);
  fill();
  lookAfter(given.versionsUrl, compareVersions);
  acting.look();
  await document.fonts.ready;
  try {
    await hear();
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
