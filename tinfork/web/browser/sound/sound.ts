// The Sound view: bring in, place, listen. One state, drawn when it changes; every edit comes back as a whole document.
import { Film } from "../lib/film.ts";
import { $, $button, $canvas, $input, $select, givenIn, inside, oncePerPicture, on } from "../lib/page.ts";
import { Reel } from "../lib/reel.ts";
import { sayDone, sayIn, showSteps } from "../lib/saying.ts";
import { fpsOf } from "../lib/store/clock.ts";
import { type Answer, Editor, sayWhatWasDone } from "../lib/store/editor.ts";
import { onceMore } from "../lib/store/queue.ts";
import { get, pause, sentenceOf } from "../lib/store/requests.ts";
import { peaksOf } from "../lib/time/peaks.ts";
import { heardClips } from "../lib/time/player.ts";
import { timeView } from "../lib/time/ruler.ts";
import { type Jump, Transport } from "../lib/time/transport.ts";
import type { Clip, Sound } from "../lib/types.ts";
import { bringingIn } from "./bringing.ts";
import { pointerOn } from "./hands.ts";
import { keysOn } from "./keys.ts";
import { LivePass } from "./livepass.ts";
import { panelsOf } from "./panels.ts";
import { Recorder } from "./recorder.ts";
import { clipsOf, type Room, type RoomDocument, type RoomView } from "./state.ts";
import { drawTracks, trackHeight, tracksTop } from "./tracks.ts";

const REEL_MS = 1000;
const BELOW = 6; // px under the last track, so that nothing scrolls where all fit
const BEING_MADE = ["waiting", "running"];

function begin(given: RoomDocument): void {
  const place = $("sound");
  const canvas = $canvas("tracks");
  const fps = fpsOf(given.scene.rate);
  const urls = place.dataset as Record<"edit" | "jumps" | "take" | "voices" | "document", string>;
  const view: RoomView = {
    ...timeView(given.scene.rate, given.scene.startFrame),
    fps,
    cast: given.cast,
    sound: given.sound,
    selected: new Set(),
    track: null,
    trackHeight: 0,
    mark: null,
    peaks: new Map(),
    tall: 1,
    drag: null,
    held: null,
    suggested: [],
  };
  const draw = oncePerPicture(() => drawTracks(canvas, view));
  const transport = new Transport(view, { width: () => canvas.clientWidth, frames: () => view.sound.frames, extent, draw, shown, jumps });
  const say = sayIn($("problem"));
  const editor = new Editor(say);
  sayWhatWasDone(say);
  const ripple = () => $input("ripple").checked;
  const room: Room & { canvas: HTMLCanvasElement } = { given, view, transport, editor, say, edit, take, draw, canvas, open: (tab) => panels.turnTo(tab) };
  const panels = panelsOf({ ...room, choose: (track) => choose(view.track === track ? null : track), go: (frame) => transport.go(frame, true), ripple });
  const recorder = new Recorder($("recorder"), room, urls.take);
  const live = new LivePass($("voices-panel"), room, urls.voices, (spans) => panels.suggest(spans));
  let reel: Reel | null = null;
  new Film($("reel"), inside(document, ".tracks-scroll"), () => draw());

  // The clips' whole reach: what lies outside the scene can be looked at too.
  function extent(): { first: number; end: number } {
    const all = clipsOf(view.sound);
    return { first: Math.min(0, ...all.map((clip) => clip.start)), end: Math.max(view.sound.frames, ...all.map((clip) => clip.start + clip.frames)) };
  }

  function shown(playing: boolean): void {
    Object.assign(place.dataset, { frame: String(view.frame), time: view.time.toFixed(4), playing: playing ? "yes" : "no" });
    reel?.show(view.time, playing, transport.player.speed);
    live.moved(playing);
  }

  function edit(verb: string, what: object = {}): Promise<Answer<Sound>> {
    return editor.edit(urls.edit, () => view.sound.version, verb, what, take);
  }

  // Where lines or words begin moves with the sound; it is asked for when somebody wants to go there.
  let begins: (Record<Jump, number[]> & { version: number }) | null = null;
  async function jumps(kind: Jump): Promise<number[]> {
    try {
      const { version } = view.sound;
      if (begins?.version !== version) begins = { ...(await get<Record<Jump, number[]>>(urls.jumps)), version };
      return begins[kind];
    } catch (failed) {
      say(sentenceOf(failed));
      return [];
    }
  }

  // A document from the server: shown at once, its sounds as soon as they have come.
  async function take(sound: Sound): Promise<void> {
    const before = view.sound.version;
    const first = !clipsOf(view.sound).length;
    view.sound = sound;
    const there = new Set(clipsOf(sound).map((clip) => clip.id));
    view.selected = new Set([...view.selected].filter((id) => there.has(id)));
    show();
    if (first) transport.zoom(0);
    if (before !== sound.version || !place.dataset.ready) await loaded();
    place.dataset.version = String(sound.version);
  }

  const tall = () => trackHeight(inside<HTMLElement>(place, ".tracks-scroll").clientHeight - tracksTop(view) - BELOW, view.sound.tracks.length);

  function show(): void {
    view.trackHeight = tall();
    panels.show();
    recorder.show();
    showSteps($button("undo"), $button("redo"), view.sound, given.mayEdit);
    $input("length").value = String(view.sound.length ?? "");
    $input("length").placeholder = String(view.sound.frames);
    $("empty").hidden = clipsOf(view.sound).length > 0;
    transport.show();
  }

  async function loaded(): Promise<void> {
    const peaks = peaksOf(clipsOf(view.sound).map((clip) => clip.peaks), view.peaks);
    try {
      await Promise.all([peaks, transport.player.show(heardClips(view.sound, fps), view.sound.frames / fps)]);
    } catch (problem) {
      say(`${sentenceOf(problem)} Reload the page to try again.`);
    }
    showReel();
    draw();
  }

  function choose(track: number | null): void {
    view.track = track;
    show();
  }

  function select(clip: Clip, more: boolean): void {
    if (!more && !view.selected.has(clip.id)) view.selected.clear();
    if (more && view.selected.has(clip.id)) view.selected.delete(clip.id);
    else view.selected.add(clip.id);
    panels.turnTo("clip");
    panels.show();
  }

  function unselect(): void {
    view.selected.clear();
    panels.show();
  }

  // What a split means: the selected clips, or all that lie under the playhead.
  function across(): number[] {
    if (view.selected.size) return [...view.selected];
    return clipsOf(view.sound).filter((c) => c.start < view.frame && view.frame < c.start + c.frames).map((c) => c.id);
  }

  function split(): void {
    edit("split", { clips: across(), frame: view.frame });
  }

  function remove(): void {
    if (view.selected.size) edit("delete", { clips: [...view.selected], ripple: ripple() });
    else live.remove();
  }

  const chosenTracks = () => (view.track ? [view.track] : null);

  async function cutOut(): Promise<void> {
    const span = transport.span;
    if (!span) return say("Set in and out first: with I and O, or the buttons above.");
    const answer = await edit("cut-out", { first: span[0], end: span[1], tracks: chosenTracks(), ripple: ripple() });
    if (answer.document && !answer.problem && !chosenTracks()) sayDone(say, "Cut out of every track; choose a track's name to mean it alone.");
  }

  function openGap(): void {
    const span = transport.span;
    edit("open-gap", { frame: view.in ?? view.frame, frames: span ? span[1] - span[0] : Math.round(fps), tracks: chosenTracks() });
  }

  const hands = { ...room, live, select, unselect, ripple };
  pointerOn(hands);
  keysOn({ ...hands, choose, split, remove });
  on("undo", () => edit("undo"));
  on("redo", () => edit("redo"));
  on("split", split);
  on("remove", remove);
  on("cut-out", cutOut);
  on("open-gap", openGap);
  $("tall").addEventListener("input", () => {
    view.tall = Number($input("tall").value);
    draw();
  });
  $("length").addEventListener("change", () => edit("length", { frames: $input("length").value ? Number($input("length").value) : null }));
  $("add-track").addEventListener("change", () => {
    const list = $select("add-track");
    const [kind, character] = list.value.split(":");
    const name = list.selectedOptions[0].dataset.name;
    list.value = "";
    if (kind) edit("add-track", { kind, name, character: character ? Number(character) : null });
  });
  bringingIn({ ...room, show });
  // A telephone's keys make the window smaller: what is being typed into is made anew only where tracks change.
  window.addEventListener("resize", () => {
    if (tall() !== view.trackHeight) show();
    draw();
  });
  document.addEventListener("theme-switched", () => draw());

  // A reference picture that is being made is shown when it is there.
  const beingMade = (sound: Sound) => Object.values(sound.sounds).some((one) => BEING_MADE.includes(one.reelState));
  const waitForReel = onceMore(async () => {
    if (!beingMade(view.sound)) return;
    let fresh = view.sound;
    while (beingMade(fresh)) {
      await pause(REEL_MS);
      fresh = await get<Sound>(urls.document);
    }
    view.sound = { ...view.sound, sounds: fresh.sounds };
    reel = new Reel($("reel"), view.sound, fps);
  });

  function showReel(): void {
    reel = new Reel($("reel"), view.sound, fps);
    waitForReel().catch((failed) => console.debug(failed));
  }

  async function ready(): Promise<void> {
    if (!given.mayEdit) for (const control of document.querySelectorAll<HTMLInputElement>(".room-do :is(button, input, select)")) control.disabled = true;
    view.perFrame = canvas.clientWidth / view.sound.frames;
    show();
    transport.zoom(0);
    await document.fonts.ready;
    await loaded();
    Object.assign(place.dataset, { version: String(view.sound.version), ready: "yes" });
  }
  ready();
}

const given = givenIn<RoomDocument>("sound-document");
if (given) begin(given);
