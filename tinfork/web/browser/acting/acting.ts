// The Acting view: the voice and the words above, a lane for each part of a face below, the mirror beside them.
import { drag } from "../lib/drag.ts";
import { partsOf } from "../lib/face/matrices.ts";
import { FACING } from "../lib/face/turning.ts";
import { GroupMirror, Mirror } from "../lib/face/mirror.ts";
import { $, $button, $canvas, $input, givenIn, oncePerPicture, on } from "../lib/page.ts";
import { sayDone, sayIn, showSteps } from "../lib/saying.ts";
import type { Pose } from "../lib/store/actedlane.ts";
import { frameAt } from "../lib/store/clock.ts";
import { sayWhatWasDone } from "../lib/store/editor.ts";
import { get, type Or, post, sentenceOf } from "../lib/store/requests.ts";
import { type Change, Store } from "../lib/store/store.ts";
import { Miniature } from "../lib/time/miniature.ts";
import { peaksOf } from "../lib/time/peaks.ts";
import { heardClips } from "../lib/time/player.ts";
import { timeView } from "../lib/time/ruler.ts";
import { type Jump, Transport } from "../lib/time/transport.ts";
import type { Stave } from "../lib/types.ts";
import { handsOf, isThere } from "./hands.ts";
import { keysOf } from "./keys.ts";
import { drawLanes } from "./lanes.ts";
import { panelOf } from "./panel.ts";
import { Recorder } from "./recorder.ts";
import { type Acting, type ActingDocument, type ActingState, type Chosen, type Melody, type SavedPose, withPose } from "./state.ts";

const LOOK_FRAMES = 12;
const SHOW_FRAMES = 2;
const FIRST_SECONDS = 12;

function begin(page: ActingDocument): void {
  const say = sayIn($("problem"));
  const store = new Store(page, { say, view: () => transport.inView });
  const { fps } = store;
  const canvas = $canvas("staves");
  const room = $("acting");
  const acted = () => store.actings[state.active];
  const stave = (): Stave => staveOf(acted().characterId);
  const state: ActingState = {
    ...timeView(page.scene.rate, page.scene.startFrame),
    active: 0,
    part: "",
    parts: [],
    turns: false,
    dial: "y",
    chosen: null,
    drag: null,
    together: false,
    melody: null,
    jaws: new Map(),
    peaks: new Map(),
    get frames() {
      return store.frames;
    },
    get stave() {
      return stave();
    },
    get acted() {
      return acted();
    },
  };
  const draw = oncePerPicture(render);
  const transport = new Transport(state, { width: () => canvas.clientWidth, frames: () => store.frames, draw, shown, jumps });
  const miniature = new Miniature($canvas("miniature"));
  const mirror = new Mirror($("mirror"), null, stave());
  const group = new GroupMirror($("mirror-all"));
  const recorder = new Recorder({ hand: $input("pass-hand"), frame: () => transport.player.time * fps, pads: () => navigator.getGamepads?.() ?? [] });
  sayWhatWasDone(say);

  const acting: Acting = {
    page,
    store,
    state,
    transport,
    recorder,
    canvas,
    fps,
    say,
    acted,
    stave,
    part: () => state.parts.find((part) => part.name === state.part) ?? state.parts[0],
    lane: () => acted().lane(state.part),
    span: () => transport.span,
    edit: (verb, what = {}) => store.editActing(acted(), verb, what),
    activate,
    choosePart,
    choose,
    seeAll,
    removeChosen,
    showAt,
    look,
    preview,
    posesAsked,
    showSteps: () => showSteps($button("undo"), $button("redo"), acted(), page.mayEdit),
    draw,
  };
  const panel = panelOf(acting);
  const { nudge } = handsOf(acting);

  function staveOf(character: number): Stave {
    const found = store.staves.find((one) => one.characterId === character);
    if (!found) throw new Error(`Nothing is heard of character ${character}.`);
    return found;
  }

  function activate(number: number): void {
    state.active = number;
    const { chart } = stave();
    state.parts = partsOf(chart.parts);
    state.turns = chart.pieces.some(([, , , relief]) => relief !== null);
    state.jaws = new Map(chart.drawings.map((one) => [one.name, one.jaw]));
    state.part = acting.part().name;
    if (state.dial === FACING && !state.turns) state.dial = "y";
    Object.assign(state, { chosen: null, melody: null });
    mirror.show(stave());
    if (state.together) group.show(store.staves);
    loadMelody();
    transport.show();
  }

  function choosePart(name: string): void {
    state.part = name;
    state.chosen = null;
    panel.refresh();
    draw();
  }

  function choose(chosen: Chosen | null): void {
    state.chosen = chosen;
    if (chosen) state.part = chosen.part;
    if (chosen?.kind === "key") state.dial = chosen.dial;
    panel.refresh();
    draw();
  }

  function seeAll(): void {
    state.together = !state.together;
    $("mirrors").classList.toggle("together", state.together);
    $("mirror-all").hidden = !state.together;
    if (state.together) group.show(store.staves);
    shown();
  }

  async function loadMelody(): Promise<void> {
    const own = acted();
    try {
      const found = await get<Melody>(own.melodyUrl);
      if (own === acted()) state.melody = found;
      draw();
    } catch (failed) {
      say(sentenceOf(failed));
    }
  }

  // Drawing

  function render(): void {
    if (!state.perFrame) return;
    drawLanes(canvas, state);
    miniature.draw(state, { frames: store.frames, fps, clips: stave().clips, peaks: state.peaks, shown: canvas.clientWidth, ink: "tin" });
    store.seen().catch((failed) => console.debug(failed));
  }

  function shown(playing = transport.player.playing): void {
    Object.assign(room.dataset, { frame: String(state.frame), time: state.time.toFixed(6), playing: playing ? "yes" : "no" });
    mirror.stave = stave();
    const poses = acted().poses(state.frame);
    if (state.together) group.frame(state.frame, store.staves, (one) => store.posed(one.characterId, state.frame));
    else {
      mirror.frame(state.frame);
      mirror.face.pose(poses, acted().moment(state.frame));
      if (!playing) $("cut").hidden = !mirror.face.isCut();
    }
    if (recorder.on) recording(playing);
    panel.follow();
  }

  // A pass is recorded, and seen as it is.
  function recording(playing: boolean): void {
    const trouble = playing ? recorder.tick() : "";
    if (trouble || !playing) panel.passEnds(trouble);
    const { on } = recorder;
    if (on && on.dial !== "switch") preview({ dials: { ...acting.lane().pose(state.frame).dials, [on.dial]: on.samples.at(-1)?.[1] ?? 0 } });
  }

  // What the mirror would show if the part did something else.
  function preview(pose: Partial<Pose>): void {
    mirror.face.pose(withPose(acted(), state.part, state.frame, pose), acted().moment(state.frame));
  }

  function jumps(kind: Jump): number[] {
    if (kind === "lines") return acted().lines.map(([, first]) => first);
    const words = stave().lines.flatMap((line) => line.words);
    return words.map((word) => Math.max(0, frameAt(word.start, fps))).sort((a, b) => a - b);
  }

  // Edits

  store.changed.on((change: Change) => {
    if (change.kind === "acting" && (!change.acted || change.acted === acted())) {
      if (state.chosen && !isThere(acting, state.chosen)) state.chosen = null;
      shown();
      draw();
      panel.refresh();
    } else if (change.kind === "stave") draw();
    else if (change.kind === "sound") hear();
    else if (change.kind === "elsewhere") sayDone(say, change.sentence);
    else if (change.kind === "busy") room.dataset.busy = change.busy ? "yes" : "no";
  });

  function removeChosen(): void {
    const { chosen } = state;
    if (!chosen) return say("Choose a key, a drawing or a gesture first: click it, or press B or N.");
    const { part, frame } = chosen;
    if (chosen.kind === "gesture") acting.edit("drop gestures", { part, ids: [chosen.id] });
    else if (chosen.kind === "key") acting.edit("drop keys", { part, dials: [chosen.dial], first: frame, end: frame + 1 });
    else acting.edit("remove", { part, at: [frame] });
  }

  // A drawing over the chosen exposure, in to out, or some frames from the playhead.
  function showAt(drawing: string): void {
    const { chosen, part } = state;
    const [first, end] = transport.span ?? [state.frame, state.frame + SHOW_FRAMES];
    if (chosen?.kind === "show" && chosen.part === part) acting.edit("swap", { part, at: [chosen.frame], drawing });
    else acting.edit("show", { part, frame: first, frames: end - first, drawing });
  }

  function look(x: number, y: number, head: boolean): void {
    const [first, end] = transport.span ?? [state.frame, state.frame + LOOK_FRAMES];
    acting.edit("look", { frame: first, frames: end - first, x, y, head });
  }

  async function posesAsked(what: object): Promise<void> {
    try {
      const answer = await post<Or<{ poses: SavedPose[] }>>(acted().posesUrl, what);
      if (answer.problem) say(answer.problem);
      else page.poses = answer.poses ?? [];
    } catch (failed) {
      say(sentenceOf(failed));
    }
    panel.refresh();
  }

  // A point in the group shot is looked at by who is chosen.
  function lookAt(event: MouseEvent): void {
    const own = group.faces.find(({ id }) => id === stave().id)?.face.element.getBoundingClientRect();
    if (!own || !page.mayEdit) return;
    const [x, y] = [event.clientX - (own.left + own.width / 2), event.clientY - (own.top + own.height * 0.4)];
    const far = Math.hypot(x, y) || 1;
    const reach = Math.min(1, far / (own.width / 2));
    look((x / far) * reach, (y / far) * reach, panel.headToo);
  }

  async function hear(): Promise<void> {
    try {
      const heard = heardClips(store.sound, fps);
      await Promise.all([transport.player.show(heard, store.frames / fps), peaksOf(heard.map((clip) => clip.peaks), state.peaks)]);
    } catch (failed) {
      say(sentenceOf(failed));
    }
    draw();
  }

  document.addEventListener("keydown", keysOf(acting, panel, nudge));
  document.addEventListener("keyup", (event) => recorder.on && recorder.key(event, false));
  $("miniature").addEventListener("pointerdown", (event) => {
    const to = (moved: PointerEvent) => transport.go(miniature.frameAt(moved.clientX, store.frames), false);
    to(event);
    drag($("miniature"), event, to);
  });
  on("undo", () => acting.edit("undo"));
  on("redo", () => acting.edit("redo"));
  $("mirror-all").addEventListener("click", lookAt);
  document.addEventListener("theme-switched", () => draw());
  new ResizeObserver(() => transport.zoom(1)).observe($("time"));

  transport.zoom(0);
  activate(Math.max(0, store.actings.findIndex((one) => one.lines.length)));
  transport.zoomTo(0, Math.min(store.frames, Math.round(fps * FIRST_SECONDS)));
  panel.refresh();
  store.watch();
  hear().then(() => {
    room.dataset.ready = "yes";
  });
  canvas.focus();
}

const given = givenIn<ActingDocument>("acting-document");
if (given?.actings.length) begin(given);
