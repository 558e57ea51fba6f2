// The keys of the Sound view.
import { typing } from "../lib/page.ts";
import { sayDone } from "../lib/saying.ts";
import { frameAt } from "../lib/store/clock.ts";
import type { Mark } from "../lib/types.ts";
import type { HandsPage } from "./hands.ts";
import { clipsOf } from "./state.ts";

const FAR = 10; // frames, with Shift

export interface KeysPage extends HandsPage {
  choose(track: number | null): void;
  split(): void;
  remove(): void;
}

export function keysOn(page: KeysPage): void {
  const { view, transport, live, say } = page;

  // The clip before or after the selected one, whichever track it is on; with Shift as one more.
  function besideClip(step: number, more: boolean): void {
    const clips = clipsOf(view.sound).sort((a, b) => a.start - b.start);
    const at = clips.findIndex((clip) => clip.id === [...view.selected].at(-1));
    const next = at < 0 ? (clips.find((clip) => clip.start + clip.frames > view.frame) ?? clips.at(-1)) : clips[at + step];
    if (!next) return;
    live.letGo();
    if (!more) view.selected.clear();
    view.selected.delete(next.id);
    page.select(next, true);
    transport.go(Math.max(0, next.start), false);
  }

  function besideMark(step: number): void {
    const { marks } = view.sound;
    const at = marks.findIndex((mark) => mark.id === live.chosen?.id);
    const next = at < 0 ? (marks.find((mark) => mark.end * view.fps > view.frame) ?? marks.at(0)) : (marks[at + step] as Mark | undefined);
    if (!next) return sayDone(say, marks.length ? "" : "Nobody is marked as speaking yet.");
    page.unselect();
    live.choose(next);
    transport.go(Math.max(0, frameAt(next.start, view.fps)), false);
  }

  function besideTrack(step: number): void {
    const { tracks } = view.sound;
    page.choose(tracks[tracks.findIndex((track) => track.id === view.track) + step]?.id ?? null);
  }

  // A mark a frame earlier or later; with Shift its end alone. Or the selected clips.
  function nudge(event: KeyboardEvent): void {
    const by = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
    const mark = view.sound.marks.find((one) => one.id === live.chosen?.id);
    if (by && mark && !view.selected.size) {
      const { id, start, end } = mark;
      page.edit("mark", { mark: id, start: event.shiftKey ? start : Math.max(0, start + by / view.fps), end: end + by / view.fps });
    } else if (by && view.selected.size) page.edit("slide", { clips: [...view.selected], by: by * (event.shiftKey ? FAR : 1), ripple: page.ripple() });
  }

  function unselect(): void {
    if (!view.selected.size && !live.chosen) transport.unmark();
    live.letGo();
    page.unselect();
    page.draw();
  }

  const keys: Record<string, (event: KeyboardEvent) => void> = {
    s: () => page.split(),
    delete: () => page.remove(),
    b: (event) => besideClip(-1, event.shiftKey),
    n: (event) => besideClip(1, event.shiftKey),
    m: (event) => besideMark(event.shiftKey ? -1 : 1),
    arrowup: () => besideTrack(-1),
    arrowdown: () => besideTrack(1),
    escape: unselect,
  };

  document.addEventListener("keydown", (event) => {
    if (typing(event)) return;
    const control = event.ctrlKey || event.metaKey;
    const own = !control && !event.altKey ? keys[event.key.toLowerCase()] : undefined;
    if (live.key(event)) return event.preventDefault();
    if (control && event.key.toLowerCase() === "z") page.edit(event.shiftKey ? "redo" : "undo");
    else if (own) own(event);
    else if (event.altKey && event.key.startsWith("Arrow")) nudge(event);
    else if (!transport.key(event)) return;
    event.preventDefault();
  });
  document.addEventListener("keyup", (event) => live.released(event));
}
