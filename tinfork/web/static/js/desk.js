// The Reading desk: one state, drawn when it changes; every edit goes to the server and comes back as a whole stave.
import { Mirror } from "./mirror.js";
import { MouthMap } from "./mouthmap.js";
import { colour, drawWave, fit, loadPeaks } from "./peaks.js";
import { Player } from "./player.js";
import { at, drawStaves } from "./staves.js";

const $ = (id) => document.getElementById(id);
const given = JSON.parse($("desk-document").textContent);
const fps = given.scene.rate.numerator / given.scene.rate.denominator;

const state = {
  staves: given.staves,
  active: Math.max(0, given.staves.findIndex((s) => s.exposures.length)),
  selected: -1,
  frame: 0,
  time: 0,
  left: 0,
  perFrame: 0,
  peaks: new Map(),
  rate: given.scene.rate,
  startFrame: given.scene.startFrame,
};
const player = new Player(given.scene.rate);
const mirror = new Mirror($("mirror"), $("neighbours"));
const map = new MouthMap($("mouth-map"), pick);
const stave = () => state.staves[state.active];
const last = () => Math.max(1, ...state.staves.map((s) => s.frames || Math.ceil((s.sound?.seconds ?? 0) * fps))) - 1;

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

let wanted = false;
function draw() {
  if (wanted) return;
  wanted = true;
  requestAnimationFrame(() => {
    wanted = false;
    render();
  });
}

function render() {
  drawStaves($("staves"), state);
  miniature();
  showFrame();
}

function showFrame() {
  $("frame-number").textContent = String(state.frame + state.startFrame);
  const desk = $("desk");
  desk.dataset.frame = String(state.frame);
  desk.dataset.time = state.time.toFixed(4);
  desk.dataset.playing = player.playing ? "yes" : "no";
  mirror.frame(state.frame, exposureAt(state.frame));
  why();
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
  draw();
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
  const frames = last() + 1;
  for (const one of state.staves) {
    const peaks = state.peaks.get(one.id);
    if (peaks) drawWave(context, peaks, { x: 0, y: 2, width, height: height - 4 }, 0, frames / fps, colour("tin-deep"));
  }
  const scale = width / frames;
  context.strokeStyle = colour("copper");
  context.lineWidth = 1.5;
  const shown = $("staves").clientWidth / state.perFrame;
  context.strokeRect(state.left * scale + 1, 1, Math.max(6, Math.min(width - 2, shown * scale - 2)), height - 2);
  context.fillStyle = colour("copper");
  context.fillRect(state.frame * scale, 0, 2, height);
}

// Time

function go(frame, heard) {
  state.frame = Math.min(last(), Math.max(0, frame));
  const time = state.frame / fps + 1e-6;
  state.time = time;
  if (heard) player.scrub(time);
  else {
    player.stop();
    player.at = time;
  }
  showPlaying();
  follow();
  draw();
}

function follow() {
  const shown = $("staves").clientWidth / state.perFrame;
  if (state.frame < state.left || state.frame > state.left + shown - 2) {
    state.left = clampLeft(state.frame - shown * 0.1);
  }
}

function clampLeft(left) {
  const shown = $("staves").clientWidth / state.perFrame;
  return Math.max(0, Math.min(left, last() + 1 + shown * 0.1 - shown));
}

async function togglePlay() {
  if (player.playing) player.stop();
  else {
    await player.play(player.at);
    requestAnimationFrame(tick);
  }
  showPlaying();
  draw();
}

function showPlaying() {
  $("play").textContent = player.playing ? "Pause" : "Play";
  $("desk").dataset.playing = player.playing ? "yes" : "no";
}

function tick() {
  if (!player.playing) return;
  const time = player.time;
  if (time >= player.seconds) {
    player.stop();
    player.at = player.seconds;
    showPlaying();
  }
  state.time = time;
  state.frame = Math.min(last(), Math.floor(time * fps + 1e-6));
  follow();
  render();
  if (player.playing) requestAnimationFrame(tick);
}

function zoom(factor, x = $("staves").clientWidth / 2) {
  const under = state.left + x / state.perFrame;
  const whole = $("staves").clientWidth / (last() + 1);
  state.perFrame = Math.min(60, Math.max(Math.min(whole, 60), state.perFrame * factor));
  state.left = clampLeft(under - x / state.perFrame);
  draw();
}

// Edits

// One after the other, so that each is made on the version the last one left.
let editing = Promise.resolve();
function edit(verb, what = {}) {
  const id = stave().id;
  editing = editing.then(() => send(id, verb, what));
}

async function send(id, verb, what) {
  const one = state.staves.find((s) => s.id === id);
  const headers = { "Content-Type": "application/json", ...JSON.parse(document.body.getAttribute("hx-headers")) };
  say("");
  try {
    const body = JSON.stringify({ verb, version: one.version, ...what });
    const response = await fetch(one.editUrl, { method: "POST", headers, body });
    const answer = await response.json();
    if (answer.stave) take(answer.stave);
    if (answer.problem) say(answer.problem);
  } catch {
    say("The change did not reach the server; nothing was lost. Look at the connection, then do it again.");
  }
}

function take(fresh) {
  const place = state.staves.findIndex((s) => s.id === fresh.id);
  const frame = stave().exposures[state.selected]?.frame;
  state.staves[place] = fresh;
  if (place === state.active && frame !== undefined) state.selected = exposureAt(frame);
  if (place === state.active) showStave();
}

function say(sentence) {
  $("problem").textContent = sentence;
  $("problem").hidden = !sentence;
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
  if (seek) go(stave().exposures[index].frame, false);
  showSelection();
}

const beside = (step) => select((state.selected < 0 ? exposureAt(state.frame) : state.selected) + step);

function changeDials() {
  edit("settings", { hold: +$("dial-hold").value, lead: +$("dial-lead").value, detail: +$("dial-detail").value });
}

// Hands

const KEYS = {
  " ": togglePlay,
  ArrowLeft: (e) => go(state.frame - (e.shiftKey ? Math.round(fps) : 1), true),
  ArrowRight: (e) => go(state.frame + (e.shiftKey ? Math.round(fps) : 1), true),
  Home: () => go(0, false),
  End: () => go(last(), false),
  "[": () => beside(-1),
  "]": () => beside(1),
  p: togglePin,
  "+": () => zoom(1.4),
  "=": () => zoom(1.4),
  "-": () => zoom(1 / 1.4),
  0: () => zoom(0),
  "?": () => $("keys").showModal(),
};

document.addEventListener("keydown", (event) => {
  if (event.target.matches("input, textarea, select") || $("keys").open) return;
  const exposure = stave()?.exposures[state.selected];
  if (event.altKey && event.key.startsWith("Arrow")) {
    if (exposure) pick(map.beside(exposure.drawing, event.key));
  } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
    edit(event.shiftKey ? "redo" : "undo");
  } else if (!event.ctrlKey && !event.metaKey && !event.altKey && KEYS[event.key.length === 1 ? event.key.toLowerCase() : event.key]) {
    if (event.key === " " && event.target.matches("button")) event.target.blur();
    KEYS[event.key.length === 1 ? event.key.toLowerCase() : event.key](event);
  } else return;
  event.preventDefault();
});

function scrubTo(event) {
  const box = $("staves").getBoundingClientRect();
  const frame = at(state, event.clientX - box.left, 0).frame;
  if (frame !== state.frame) go(frame, true);
}

$("staves").addEventListener("pointerdown", (event) => {
  const box = $("staves").getBoundingClientRect();
  const spot = at(state, event.clientX - box.left, event.clientY - box.top);
  activate(spot.number);
  if (spot.onRibbon && exposureAt(spot.frame) >= 0) {
    select(exposureAt(spot.frame), false);
    go(spot.frame, false);
    return;
  }
  go(spot.frame, false);
  $("staves").setPointerCapture(event.pointerId);
  $("staves").addEventListener("pointermove", scrubTo);
});
for (const end of ["pointerup", "pointercancel"]) {
  $("staves").addEventListener(end, () => $("staves").removeEventListener("pointermove", scrubTo));
}
$("staves").addEventListener(
  "wheel",
  (event) => {
    if (event.ctrlKey) zoom(event.deltaY < 0 ? 1.15 : 1 / 1.15, event.offsetX);
    else if (event.deltaX || event.shiftKey) state.left = clampLeft(state.left + (event.deltaX || event.deltaY) / state.perFrame);
    else return;
    event.preventDefault();
    draw();
  },
  { passive: false },
);
$("miniature").addEventListener("click", (event) => {
  go(Math.floor((event.offsetX / $("miniature").clientWidth) * (last() + 1)), false);
});

$("play").addEventListener("click", togglePlay);
$("step-back").addEventListener("click", () => go(state.frame - 1, true));
$("step-on").addEventListener("click", () => go(state.frame + 1, true));
$("previous").addEventListener("click", () => beside(-1));
$("next").addEventListener("click", () => beside(1));
$("pin").addEventListener("click", togglePin);
$("undo").addEventListener("click", () => edit("undo"));
$("redo").addEventListener("click", () => edit("redo"));
$("zoom-in").addEventListener("click", () => zoom(1.4));
$("zoom-out").addEventListener("click", () => zoom(1 / 1.4));
$("zoom-fit").addEventListener("click", () => zoom(0));
$("help").addEventListener("click", () => $("keys").showModal());
for (const id of ["dial-hold", "dial-lead", "dial-detail"]) $(id).addEventListener("change", changeDials);
window.addEventListener("resize", () => draw());
document.addEventListener("theme-switched", () => draw());

async function begin() {
  if (!state.staves.length) {
    say("This scene has no sound yet. Bring one in under Sound & Script.");
    for (const control of document.querySelectorAll(".transport button, .dials input")) control.disabled = true;
    return;
  }
  state.perFrame = Math.min(24, Math.max(9, $("staves").clientWidth / (last() + 1)));
  showStave();
  await document.fonts.ready;
  const loads = state.staves.flatMap((one) => [
    loadPeaks(one.sound.peaks).then((levels) => state.peaks.set(one.id, levels)),
    player.load(one.sound.listen),
  ]);
  try {
    await Promise.all(loads);
  } catch (problem) {
    say(`${problem.message} Reload the page to try again.`);
  }
  $("desk").dataset.ready = "yes";
  draw();
}
begin();
