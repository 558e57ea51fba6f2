// What is seen and heard of the scene: of whom, how large, and how it is played.
import { $ } from "../lib/page.ts";
import { frameAt } from "../lib/store/clock.ts";
import { get, sentenceOf } from "../lib/store/requests.ts";
import { peaksOf } from "../lib/time/peaks.ts";
import { heardClips } from "../lib/time/player.ts";
import type { Line } from "../lib/types.ts";
import type { Choosing } from "./choosing.ts";
import { foldedToFit } from "./draw/layout.ts";
import type { Looks } from "./dock/page.ts";
import type { Mirrors } from "./mirrors.ts";
import type { Curves, Desk } from "./state.ts";

export interface LooksWith {
  choosing: Choosing;
  mirrors: Mirrors;
  activate(number: number): void;
}

// Before a line that is heard over and over, in seconds.
const RUN_UP = 0.5;

export function looksOf(desk: Desk, others: LooksWith): Looks & { hear(): Promise<void>; fold(number: number): void; fit(): void } {
  const { state, store, fps, transport, say } = desk;
  // Whether a person said which staves are folded.
  let byHand = false;

  function seeAll(): void {
    state.together = !state.together;
    $("mirrors").classList.toggle("together", state.together);
    $("mirror-all").hidden = !state.together;
    if (state.together) others.mirrors.group.show(store.staves);
    transport.show();
    desk.showDock();
  }

  function onionSkin(): void {
    state.onion = !state.onion;
    others.mirrors.own.again();
    transport.show();
    desk.showDock();
  }

  function fullScreen(): void {
    if (document.fullscreenElement) document.exitFullscreen();
    else $("mirrors").requestFullscreen();
  }

  function followOrNot(): void {
    state.follow = !state.follow;
    desk.showDock();
  }

  // All in sight, unless a person said what is; the active one is open in any case.
  function fit(): void {
    if (byHand || state.solo !== null) state.folded.delete(desk.stave().id);
    else state.folded = foldedToFit(store.staves, state.active, desk.canvas.parentElement?.clientHeight ?? 0);
    desk.draw();
  }

  // A stave small, or in full again.
  function fold(number: number): void {
    const { id } = store.staves[number];
    byHand = true;
    if (!state.folded.delete(id)) state.folded.add(id);
    if (number === state.active && state.folded.has(id)) {
      const open = store.staves.findIndex((one) => !state.folded.has(one.id));
      if (open >= 0) return others.activate(open);
    }
    desk.draw();
  }

  // Only the active character is heard, and seen in full; or all again.
  async function solo(): Promise<void> {
    const { id } = desk.stave();
    state.solo = state.solo === id ? null : id;
    if (state.solo === null) {
      state.folded = new Set();
      fit();
    } else state.folded = new Set(store.staves.filter((one) => one.id !== id).map((one) => one.id));
    transport.player.stop();
    await hear();
    transport.show();
    desk.showDock();
  }

  // The sound that is played: of all, or of the one that is heard alone.
  async function hear(): Promise<void> {
    const alone = store.staves.find((one) => one.id === state.solo);
    const own = new Set(alone?.clips.map((clip) => clip.id));
    const tracks = store.sound.tracks.map((track) => ({ ...track, clips: track.clips.filter((clip) => !alone || own.has(clip.id)) }));
    const peaks = peaksOf([...store.clips.values()].map((clip) => clip.peaks), state.peaks);
    await Promise.all([peaks, transport.player.show(heardClips({ tracks }, fps), store.frames / fps)]);
  }

  // What the mouth is asked to do, drawn over the ribbon for what is in view.
  async function curves(): Promise<void> {
    const { id, curvesUrl } = desk.stave();
    const [first, end] = transport.inView;
    try {
      state.curves = state.curves ? null : { ...(await get<Omit<Curves, "stave">>(`${curvesUrl}?first=${first}&end=${end}`)), stave: id };
    } catch (failed) {
      say(sentenceOf(failed));
    }
    desk.draw();
    desk.showDock();
  }

  const lineHere = (): Line | undefined => desk.stave().lines.find((line) => line.end > (state.frame + 0.5) / fps) ?? desk.stave().lines.at(-1);

  // The line at the playhead, what is chosen, or what lies between in and out, over the whole width.
  function zoomTo(): void {
    const { own } = others.choosing;
    const last = own.at(-1);
    const line = lineHere();
    if (last) transport.zoomTo(own[0].frame, last.frame + last.frames);
    else if (transport.span) transport.zoomTo(...transport.span);
    else if (line) transport.zoomTo(frameAt(line.start, fps), frameAt(line.end, fps) + 1);
  }

  // The line at the playhead over and over.
  function loopLine(): void {
    const line = lineHere();
    if (!line) return say("There is no line here.");
    const first = Math.max(0, frameAt(line.start - RUN_UP, fps));
    Object.assign(state, { in: first, out: Math.min(store.frames - 1, frameAt(line.end, fps)) });
    transport.loop(true);
    transport.go(first, false);
    if (!transport.player.playing) transport.toggle();
  }

  return { seeAll, onionSkin, fullScreen, followOrNot, fit, fold, solo, hear, curves, zoomTo, loopLine };
}
