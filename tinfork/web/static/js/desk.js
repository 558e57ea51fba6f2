// The Reading desk: one state, drawn when it changes; every edit goes to the server and comes back as a whole stave.
import { Editor } from "./edits.js";
import { Mirror } from "./mirror.js";
import { MouthMap } from "./mouthmap.js";
import { colour, drawWave, fit, loadPeaks } from "./peaks.js";
import { heardClips } from "./player.js";
import { Reel } from "./reel.js";
import { at, drawStaves } from "./staves.js";
import { oncePerPicture, Transport, typing } from "./transport.js";

const $ = (id) => document.getElementById(id);
const given = JSON.parse($("desk-document").textContent);
const fps = given.scene.rate.numerator / given.scene.rate.denominator;
const clips = new Map(given.sound.tracks.flatMap((track) => track.clips).map((clip) => [clip.id, clip]));

const state = {
  staves: given.staves.map(withClips),
  active: Math.max(0, given.staves.findIndex((s) => s.exposures.length)),
  selected: -1,
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
const editor = new Editor(say);
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
  desk.dataset.time = state.time.toFixed(4);
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
  editor.edit(editUrl, () => state.staves.find((s) => s.id === id).version, verb, what, take);
}

function take(fresh) {
  const place = state.staves.findIndex((s) => s.id === fresh.id);
  const frame = stave().exposures[state.selected]?.frame;
  state.staves[place] = withClips(fresh);
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
  if (seek) transport.go(stave().exposures[index].frame, false);
  showSelection();
}

const beside = (step) => select((state.selected < 0 ? exposureAt(state.frame) : state.selected) + step);

function changeDials() {
  edit("settings", { hold: +$("dial-hold").value, lead: +$("dial-lead").value, detail: +$("dial-detail").value });
}

// Hands

const KEYS = { "[": () => beside(-1), "]": () => beside(1), p: togglePin };

document.addEventListener("keydown", (event) => {
  if (typing(event) || !stave()) return;
  const exposure = stave().exposures[state.selected];
  const own = !event.ctrlKey && !event.metaKey && !event.altKey && KEYS[event.key.toLowerCase()];
  if (event.altKey && event.key.startsWith("Arrow")) {
    if (exposure) pick(map.beside(exposure.drawing, event.key));
  } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
    edit(event.shiftKey ? "redo" : "undo");
  } else if (own) own();
  else if (!transport.key(event)) return;
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
  if (spot.onRibbon && exposureAt(spot.frame) >= 0) {
    select(exposureAt(spot.frame), false);
    transport.go(spot.frame, false);
    return;
  }
  transport.go(spot.frame, false);
  $("staves").setPointerCapture(event.pointerId);
  $("staves").addEventListener("pointermove", scrubTo);
});
for (const end of ["pointerup", "pointercancel"]) {
  $("staves").addEventListener(end, () => $("staves").removeEventListener("pointermove", scrubTo));
}
$("staves").addEventListener("wheel", (event) => transport.wheel(event), { passive: false });
$("miniature").addEventListener("click", (event) => {
  transport.go(Math.floor((event.offsetX / $("miniature").clientWidth) * given.sound.frames), false);
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
