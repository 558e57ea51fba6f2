// The Acting view: the voice and the words above, a lane for each part of a face below, the mirror beside them.
import { lookAfter } from "../desk/companions.js";
import { GroupMirror, Mirror } from "../desk/mirror.js";
import { placeAt } from "../desk/selection.js";
import { Slices } from "../desk/slices.js";
import { Acted, partsOf } from "../lib/acting.js";
import { frameAt } from "../lib/clock.js";
import { drag } from "../lib/drag.js";
import { aWhile, Editor, get, post, sayIn, sayWhatWasDone, showSteps } from "../lib/edits.js";
import { colour, drawWave, fit, loadPeaks } from "../lib/peaks.js";
import { heardClips } from "../lib/player.js";
import { oncePerPicture, Transport, typing } from "../lib/transport.js";
import { drawLanes, laneHeight, placeAtY, scaleOf, topOf, yOf } from "./lanes.js";
import { panelOf } from "./panel.js";
import { Recorder } from "./recorder.js";

const $ = (id) => document.getElementById(id);
const given = JSON.parse($("acting-document")?.textContent ?? "null");
const NEAR = 8;
const LOOK_FRAMES = 12;

/** @param {any} page */
function begin(page) {
  const fps = page.scene.rate.numerator / page.scene.rate.denominator;
  const clips = new Map(page.sound.tracks.flatMap((track) => track.clips).map((clip) => [clip.id, clip]));
  const charts = new Map(page.staves.map((stave) => [stave.characterId, stave.chart]));
  const slices = new Slices(page.staves.map((stave) => ({ ...stave, clips: stave.clips.map((id) => clips.get(id)).filter(Boolean) })), page.slice, () => draw());
  const actings = page.actings.map((document) => new Acted(document));
  const say = sayIn($("problem"));
  /** @type {any} */
  const state = {
    active: 0,
    part: "",
    dial: "y",
    chosen: null,
    drag: null,
    together: false,
    melody: null,
    peaks: new Map(),
    rate: page.scene.rate,
    startFrame: page.scene.startFrame,
    frames: page.sound.frames,
  };
  const draw = oncePerPicture(render);
  const transport = new Transport(state, { width: () => $("staves").clientWidth, frames: () => page.sound.frames, draw, shown, jumps });
  const mirror = new Mirror($("mirror"), null);
  const group = new GroupMirror($("mirror-all"));
  const editor = new Editor(say, aWhile, lookAgain);
  const acted = () => actings[state.active];
  const stave = () => slices.all.find((one) => one.characterId === acted().characterId);
  const recorder = new Recorder({ hand: $("pass-hand"), frame: () => transport.player.time * fps, pads: () => navigator.getGamepads?.() ?? [] });
  sayWhatWasDone(say);

  const here = {
    page,
    state,
    transport,
    recorder,
    say,
    fps,
    acted,
    actings,
    part: () => state.parts.find((part) => part.name === state.part),
    lane: () => acted().lane(state.part),
    edit,
    activate,
    choosePart,
    choose,
    seeAll,
    removeChosen,
    showAt,
    posesAsked,
    draw,
    shown,
    phraseAt: (frame) => {
      const lines = acted().lines;
      return lines.find(([, first, end]) => first <= frame && frame < end) ?? lines.find(([, first]) => first > frame) ?? lines.at(-1);
    },
    textOf: (line) => stave().lines.find((one) => one.id === line)?.text ?? "",
    span: () => (state.in !== null && state.out !== null ? [state.in, state.out + 1] : null),
    look,
  };
  const panel = panelOf(here);

  function activate(number) {
    state.active = number;
    const chart = charts.get(acted().characterId);
    state.parts = partsOf(chart.parts);
    state.jaws = new Map(chart.drawings.map((one) => [one.name, one.jaw]));
    state.part = state.parts.some((part) => part.name === state.part) ? state.part : state.parts[0].name;
    Object.assign(state, { chosen: null, melody: null });
    mirror.show(stave());
    if (state.together) group.show(slices.all);
    loadMelody();
    transport.show();
  }

  function choosePart(name) {
    state.part = name;
    state.chosen = null;
    panel.refresh();
    draw();
  }

  function choose(chosen) {
    state.chosen = chosen;
    if (chosen?.part) state.part = chosen.part;
    if (chosen?.dial) state.dial = chosen.dial;
    panel.refresh();
    draw();
  }

  function seeAll() {
    state.together = !state.together;
    $("mirrors").classList.toggle("together", state.together);
    $("mirror-all").hidden = !state.together;
    if (state.together) group.show(slices.all);
    shown();
  }

  async function loadMelody() {
    const own = acted();
    try {
      const found = await get(own.melodyUrl);
      if (own === acted()) state.melody = found;
      draw();
    } catch (failed) {
      say(failed.message);
    }
  }

  // Drawing

  function render() {
    if (!state.perFrame) return;
    state.stave = stave();
    state.acted = acted();
    drawLanes($("staves"), state);
    miniature();
    wanted();
  }

  function miniature() {
    const { context, width, height } = fit($("miniature"), 34);
    if (!width) return;
    context.drawImage(whole(width, height), 0, 0, width, height);
    const scale = width / page.sound.frames;
    context.strokeStyle = colour("copper");
    context.lineWidth = 1.5;
    context.strokeRect(state.left * scale + 1, 1, Math.max(6, ($("staves").clientWidth / state.perFrame) * scale - 2), height - 2);
    context.fillStyle = colour("copper");
    context.fillRect(state.frame * scale, 0, 2, height);
  }

  // The scene's sound, drawn once for a width, a character and a theme.
  let kept = { key: "", canvas: null };
  function whole(width, height) {
    const key = `${width} ${state.active} ${state.peaks.size} ${document.documentElement.dataset.bsTheme}`;
    if (kept.key === key) return kept.canvas;
    const canvas = document.createElement("canvas");
    Object.assign(canvas, { width: width * (devicePixelRatio || 1), height: height * (devicePixelRatio || 1) });
    const context = canvas.getContext("2d");
    context.scale(devicePixelRatio || 1, devicePixelRatio || 1);
    for (const clip of stave().clips) {
      const peaks = state.peaks.get(clip.peaks);
      const box = { x: (clip.start / page.sound.frames) * width, y: 0, width: (clip.frames / page.sound.frames) * width, height };
      if (peaks) drawWave(context, peaks, box, clip.offset / fps, (clip.offset + clip.frames) / fps, colour("tin"));
    }
    kept = { key, canvas };
    return canvas;
  }

  let asked = false;
  function wanted() {
    if (asked) return;
    asked = true;
    const end = Math.min(page.sound.frames, Math.ceil(state.left + $("staves").clientWidth / state.perFrame));
    slices
      .more(Math.max(0, Math.floor(state.left)), end)
      .catch((failed) => console.debug(failed))
      .finally(() => {
        asked = false;
      });
  }

  function shown(playing = transport.player.playing) {
    const view = $("acting");
    view.dataset.frame = String(state.frame);
    view.dataset.time = state.time.toFixed(6);
    view.dataset.playing = playing ? "yes" : "no";
    mirror.stave = stave();
    const poses = state.drag?.poses ?? acted().poses(state.frame);
    if (state.together) {
      group.frame(state.frame, slices.all, (one) => (one.characterId === acted().characterId ? poses : actings.find((other) => other.characterId === one.characterId)?.poses(state.frame)));
    } else {
      mirror.frame(state.frame, placeAt(stave().exposures, state.frame));
      mirror.face.pose(poses);
      if (!playing) $("cut").hidden = !mirror.face.isCut();
    }
    if (recorder.on) {
      const trouble = playing ? recorder.tick() : "over";
      if (trouble) panel.passEnds(trouble === "over" ? "" : trouble);
      if (recorder.on && recorder.on.dial !== "switch") preview({ dials: { ...acted().lane(state.part).pose(state.frame).dials, [recorder.on.dial]: recorder.on.samples.at(-1)?.[1] ?? 0 } });
    }
    panel.follow();
  }

  // What the mirror would show if the part did something else.
  function preview(pose) {
    mirror.face?.pose({ ...acted().poses(state.frame), [state.part]: { ...acted().lane(state.part).pose(state.frame), ...pose } });
  }
  here.preview = preview;

  function jumps(kind) {
    if (kind === "lines") return acted().lines.map(([, first]) => first);
    return stave().lines.flatMap((line) => line.words).map((word) => Math.max(0, frameAt(word.start, fps))).sort((a, b) => a - b);
  }

  // Edits

  function edit(verb, what = {}, own = acted()) {
    $("acting").dataset.busy = "yes";
    const take = (document) => {
      own.apply(document);
      if (own === acted()) {
        if (state.chosen && !still(state.chosen)) state.chosen = null;
        shown();
        draw();
        panel.refresh();
      }
    };
    return editor.edit(own.editUrl, () => own.version, verb, what, take).finally(() => {
      $("acting").dataset.busy = editor.busy ? "yes" : "no";
    });
  }

  const still = (chosen) => {
    const lane = acted().lane(chosen.part);
    if (chosen.kind === "gesture") return lane.gestures.some((one) => one.id === chosen.id);
    if (chosen.kind === "key") return lane.keys[chosen.dial]?.frames.includes(chosen.frame);
    return lane.runs(chosen.frame, chosen.frame + 1).length > 0;
  };

  async function again(own) {
    own.take(await get(own.url));
    if (own === acted()) {
      shown();
      draw();
      panel.refresh();
    }
  }

  // An undo may have touched what other documents hold: all that is shown is asked for again.
  async function lookAgain(sentence) {
    for (const own of actings) await again(own);
    for (const { id } of slices.all) await slices.anew(id, state.frame);
    say(sentence, undefined, "", true);
  }

  function removeChosen() {
    const { chosen } = state;
    if (!chosen) return say("Choose a key, a drawing or a gesture first: click it, or press B or N.");
    if (chosen.kind === "gesture") return edit("drop gestures", { part: chosen.part, ids: [chosen.id] });
    if (chosen.kind === "key") return edit("drop keys", { part: chosen.part, dials: [chosen.dial], first: chosen.frame, end: chosen.frame + 1 });
    return edit("remove", { part: chosen.part, at: [chosen.frame] });
  }

  // A drawing over the chosen exposure, in to out, or two frames from the playhead.
  function showAt(drawing) {
    const { chosen } = state;
    const part = state.part;
    if (chosen?.kind === "show" && chosen.part === part) return edit("swap", { part, at: [chosen.frame], drawing });
    const [first, end] = here.span() ?? [state.frame, state.frame + 2];
    return edit("show", { part, frame: first, frames: end - first, drawing });
  }

  function look(x, y, head) {
    const [first, end] = here.span() ?? [state.frame, state.frame + LOOK_FRAMES];
    return edit("look", { frame: first, frames: end - first, x, y, head });
  }

  async function posesAsked(what) {
    try {
      const answer = await post(acted().posesUrl, what);
      if (answer.problem) say(answer.problem);
      else page.poses = answer.poses;
    } catch (failed) {
      say(failed.message);
    }
    panel.refresh();
  }

  // Hands on the lanes

  // All that can be chosen in the chosen lane, in order.
  function choices() {
    const lane = here.lane();
    const part = state.part;
    const keys = (lane.keys[state.dial]?.frames ?? []).map((frame) => ({ kind: "key", part, dial: state.dial, frame }));
    const shows = lane.shows.map(({ frame }) => ({ kind: "show", part, frame }));
    const gestures = lane.gestures.map(({ frame, id }) => ({ kind: "gesture", part, id, frame }));
    return [...keys, ...shows, ...gestures].sort((one, other) => one.frame - other.frame);
  }

  function step(by) {
    const all = choices();
    const at = all.findIndex((one) => JSON.stringify(one) === JSON.stringify(state.chosen));
    const next = at >= 0 ? all[at + by] : by > 0 ? all.find((one) => one.frame >= state.frame) : all.findLast((one) => one.frame < state.frame);
    if (!next) return;
    choose(next);
    transport.go(next.frame, false);
  }

  const frameOf = (event) => Math.floor(state.left + (event.clientX - $("staves").getBoundingClientRect().left) / state.perFrame);

  // What lies under the pointer in a lane.
  function under(event) {
    const box = $("staves").getBoundingClientRect();
    const high = laneHeight($("staves"), state.parts.length);
    const place = placeAtY(event.clientY - box.top, high);
    const part = state.parts[place];
    if (event.clientY - box.top < topOf(0, high) || !part) return null;
    const lane = acted().lane(part.name);
    const x = event.clientX - box.left;
    const y = event.clientY - box.top;
    const at = (frame) => (frame - state.left) * state.perFrame;
    const dials = part.name === state.part ? [state.dial] : [];
    for (const dial of dials) {
      const own = lane.keys[dial];
      const found = own?.frames.find((frame) => Math.abs(at(frame + 0.5) - x) < NEAR && Math.abs(yOf(lane.dense(dial, state.frames)[frame], dial, topOf(place, high), high) - y) < NEAR);
      if (found !== undefined) return { kind: "key", part: part.name, dial, frame: found };
    }
    const frame = frameOf(event);
    const low = y > topOf(place, high) + high - 16;
    if (low && part.drawings.length) {
      const run = lane.runs(frame, frame + 1).at(-1);
      if (run?.[4]) return { kind: "show", part: part.name, frame: run[0] };
    }
    const gesture = lane.near(frame).sort((one, other) => one.frames - other.frames)[0];
    if (gesture) return { kind: "gesture", part: part.name, id: gesture.id, frame: gesture.frame };
    return { kind: "lane", part: part.name };
  }

  function grab(event) {
    if (event.button !== 0) return;
    const found = under(event);
    if (!found) {
      transport.go(frameOf(event), true);
      return drag($("staves"), event, (moved) => transport.go(frameOf(moved), true), () => {});
    }
    if (found.kind === "lane") {
      choosePart(found.part);
      return transport.go(frameOf(event), true);
    }
    choose(found);
    if (page.mayEdit) dragChosen(event, found);
  }

  function dragChosen(event, found) {
    const [x, y] = [event.clientX, event.clientY];
    const high = laneHeight($("staves"), state.parts.length);
    let [by, up] = [0, 0];
    const moved = (now) => {
      by = Math.round((now.clientX - x) / state.perFrame);
      up = 0;
      if (found.kind === "key") {
        const share = ((y - now.clientY) / (high / 2 - 5)) * (found.dial === "y" ? -1 : 1);
        up = Math.abs(now.clientY - y) < 4 ? 0 : Math.round(share * scaleOf(found.dial) * 1000) / 1000;
      }
      state.drag = { told: `${by > 0 ? "+" : ""}${by}${up ? ` · ${up > 0 ? "+" : ""}${up.toFixed(2)}` : ""}` };
      draw();
    };
    const done = (kept_) => {
      state.drag = null;
      if (kept_ && (by || up)) nudge(found, by, up);
      draw();
    };
    drag($("staves"), event, moved, done);
  }

  // What is chosen, elsewhere in time, or more of it.
  async function nudge(chosen, by, up = 0) {
    const { part } = chosen;
    const to = { ...chosen, frame: chosen.frame + by };
    if (chosen.kind === "key") await edit("move keys", { part, dial: chosen.dial, frames: [chosen.frame], by, up });
    else if (chosen.kind === "gesture") await edit("gestures", { part, ids: [chosen.id], by });
    else await edit("slide", { part, at: [chosen.frame], by });
    if (still(to)) choose(to);
  }

  function setKey() {
    return edit("key", { part: state.part, dial: state.dial, frame: state.frame, value: Number(here.lane().keyed(state.dial, state.frame).toFixed(3)) });
  }

  function more(sign) {
    const by = (scaleOf(state.dial) / 20) * sign * (state.dial === "y" ? -1 : 1);
    const { chosen } = state;
    if (chosen?.kind === "key") return nudge(chosen, 0, Number(by.toFixed(4)));
    return edit("key", { part: state.part, dial: state.dial, frame: state.frame, value: Number((here.lane().keyed(state.dial, state.frame) + by).toFixed(3)) });
  }

  function partBy(by) {
    const at = state.parts.findIndex((part) => part.name === state.part);
    choosePart(state.parts[Math.max(0, Math.min(state.parts.length - 1, at + by))].name);
  }

  const plain = {
    ArrowUp: () => partBy(-1),
    ArrowDown: () => partBy(1),
    b: () => step(-1),
    n: () => step(1),
    Escape: () => choose(null),
  };
  const changing = {
    k: setKey,
    Delete: removeChosen,
    s: () => edit("split", { part: state.part, frame: state.frame }),
    h: () => edit("hold on", { part: state.part, frame: state.frame }),
    r: () => panel.propose(),
    Enter: () => panel.accept(),
    m: () => panel.moment(),
  };

  function key(event) {
    if (recorder.on && recorder.key(event, true)) return event.preventDefault();
    if (typing(event)) return;
    const name = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    if ((event.ctrlKey || event.metaKey) && name === "z") {
      edit(event.shiftKey ? "redo" : "undo");
      return event.preventDefault();
    }
    if (event.target.matches("input[type=range]") && event.key.startsWith("Arrow")) return;
    if (event.altKey && event.key.startsWith("Arrow")) {
      event.preventDefault();
      if (!page.mayEdit) return;
      const side = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (!side) return more(event.key === "ArrowUp" ? 1 : -1);
      return state.chosen && nudge(state.chosen, side);
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const onControl = event.target.matches("button, a, summary") && ["Enter", " "].includes(event.key);
    if (onControl) return;
    if (event.shiftKey && name === "Delete") {
      event.preventDefault();
      return page.mayEdit && panel.throwAway();
    }
    const digit = Number(event.key);
    const action = plain[name] ?? (page.mayEdit ? changing[name] : undefined);
    if (action) action();
    else if (page.mayEdit && digit >= 1 && here.part()?.drawings[digit - 1] !== undefined) showAt(here.part().drawings[digit - 1]);
    else if (!transport.key(event)) return;
    event.preventDefault();
  }

  document.addEventListener("keydown", key);
  document.addEventListener("keyup", (event) => recorder.on && recorder.key(event, false));
  $("staves").addEventListener("pointerdown", grab);
  $("staves").addEventListener("wheel", (event) => transport.wheel(event), { passive: false });
  $("miniature").addEventListener("pointerdown", (event) => {
    const to = (moved) => transport.go(Math.floor(((moved.clientX - $("miniature").getBoundingClientRect().left) / $("miniature").clientWidth) * page.sound.frames), false);
    to(event);
    drag($("miniature"), event, to, () => {});
  });
  $("undo").addEventListener("click", () => edit("undo"));
  $("redo").addEventListener("click", () => edit("redo"));
  // A point in the group shot is looked at by who is chosen.
  $("mirror-all").addEventListener("click", (event) => {
    const own = group.faces.find(({ id }) => id === stave().id)?.face.element.getBoundingClientRect();
    if (!own || !page.mayEdit) return;
    const far = Math.hypot(event.clientX - (own.left + own.width / 2), event.clientY - (own.top + own.height * 0.4)) || 1;
    const reach = Math.min(1, far / (own.width / 2));
    look(((event.clientX - (own.left + own.width / 2)) / far) * reach, ((event.clientY - (own.top + own.height * 0.4)) / far) * reach, panel.headToo);
  });
  new MutationObserver(draw).observe(document.documentElement, { attributes: true, attributeFilter: ["data-bs-theme"] });
  new ResizeObserver(() => transport.zoom(1)).observe($("time"));
  here.steps = () => showSteps($("undo"), $("redo"), acted(), page.mayEdit);

  const begin_ = () => {
    transport.zoom(0);
    const first = actings.findIndex((one) => one.lines.length);
    activate(Math.max(0, first));
    transport.zoomTo(0, Math.min(page.sound.frames, Math.round(fps * 12)));
    panel.refresh();
  };
  state.parts = partsOf(charts.get(acted().characterId).parts);
  state.part = state.parts[0].name;
  begin_();
  lookAfter(page.versionsUrl, async (versions) => {
    for (const { id } of slices.older(versions)) await slices.anew(id, Math.max(0, Math.floor(state.left)));
    for (const own of actings) if ((versions[`acting ${own.id}`] ?? 0) > own.version && !editor.busy) await again(own);
  });
  const heard = heardClips(page.sound, fps);
  Promise.all([transport.player.show(heard, page.sound.frames / fps), ...heard.map(async ({ peaks }) => state.peaks.set(peaks, await loadPeaks(peaks)))])
    .catch((failed) => say(failed.message))
    .finally(() => {
      draw();
      $("acting").dataset.ready = "yes";
    });
  $("staves").focus();
}

if (given) begin(given);
