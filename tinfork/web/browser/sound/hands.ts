// The pointer on the tracks: clips are chosen, slid and trimmed, marks drawn and moved, the playhead scrubbed.
import { frameAt } from "../lib/store/clock.ts";
import type { Clip } from "../lib/types.ts";
import type { LivePass } from "./livepass.ts";
import { markOf, type Room, type RoomDrag } from "./state.ts";
import { type Spot, under } from "./tracks.ts";

const LEAST_MARK = 0.08; // seconds
const SHAKES = 12; // pixels

export interface HandsPage extends Room {
  readonly canvas: HTMLCanvasElement;
  readonly live: LivePass;
  select(clip: Clip, more: boolean): void;
  unselect(): void;
  ripple(): boolean;
}

export function pointerOn(page: HandsPage): void {
  const { canvas, view, transport, given, live } = page;
  const spotOf = (event: PointerEvent) => under(view, event.offsetX, event.offsetY);

  canvas.addEventListener("pointerdown", (event) => {
    const spot = spotOf(event);
    canvas.setPointerCapture(event.pointerId);
    view.drag = begun(spot, event.shiftKey);
    if (view.drag?.kind === "scrub") transport.go(spot.frame, false);
    page.draw();
  });

  // What is taken hold of at a spot.
  function begun(spot: Spot, more: boolean): RoomDrag | null {
    const { mark, voice, clip, track, seconds, frame } = spot;
    if (mark && given.mayEdit) return { kind: "mark", mark: mark.id, part: spot.part === "start" || spot.part === "end" ? spot.part : "body", start: mark.start, end: mark.end, from: seconds, to: mark.character };
    if (voice && given.mayEdit) return { kind: "draw", who: voice, from: seconds, start: seconds, end: seconds };
    if (!clip || !track) {
      page.unselect();
      return { kind: "scrub" };
    }
    page.select(clip, more);
    if (!given.mayEdit) return null;
    const kind = spot.part === "first" || spot.part === "end" ? spot.part : "slide";
    return { kind, clips: kind === "slide" ? new Set(view.selected) : new Set([clip.id]), clip, from: frame, by: 0, track: track.id };
  }

  canvas.addEventListener("pointermove", (event) => {
    const spot = spotOf(event);
    const { drag } = view;
    if (!drag) {
      canvas.style.cursor = spot.part === "first" || spot.part === "end" || spot.part === "start" ? "ew-resize" : spot.clip ? "grab" : "default";
      return;
    }
    if (drag.kind === "scrub") {
      if (spot.frame !== view.frame) transport.go(spot.frame, true);
      return;
    }
    if (drag.kind === "draw") Object.assign(drag, { start: Math.max(0, Math.min(drag.from, spot.seconds)), end: Math.max(drag.from, spot.seconds) });
    else if (drag.kind === "mark") moveMark(drag, spot);
    else {
      drag.by = limited(drag, spot.frame - drag.from);
      if (spot.track) drag.over = spot.track.id;
    }
    page.draw();
  });

  // In another's row it is theirs, and stays where it was unless it is moved farther than a hand shakes.
  function moveMark(drag: RoomDrag & { kind: "mark" }, { seconds, voice }: Spot): void {
    const mark = markOf(view.sound, drag.mark);
    if (!mark) return;
    if (drag.part === "body") drag.to = voice?.id ?? mark.character;
    const far = (seconds - drag.from) * view.fps * view.perFrame;
    const by = drag.to !== mark.character && Math.abs(far) < SHAKES ? 0 : seconds - drag.from;
    drag.start = drag.part === "end" ? mark.start : Math.max(0, mark.start + by);
    drag.end = drag.part === "start" ? mark.end : mark.end + by;
  }

  for (const end of ["pointerup", "pointercancel"]) {
    canvas.addEventListener(end, () => {
      const { drag } = view;
      view.drag = null;
      if (end === "pointerup" && drag) dropped(drag);
      page.draw();
    });
  }

  function dropped(drag: RoomDrag): void {
    if (drag.kind === "draw") {
      if (drag.end - drag.start >= LEAST_MARK) page.edit("add-mark", { character: drag.who.id, start: drag.start, end: drag.end });
      else transport.go(frameAt(drag.from, view.fps), false);
    } else if (drag.kind === "mark") {
      const mark = markOf(view.sound, drag.mark);
      const moved = mark && (mark.start !== drag.start || mark.end !== drag.end);
      if (moved) page.edit("mark", { mark: drag.mark, start: drag.start, end: drag.end });
      if (mark && drag.to !== mark.character) page.edit("give-mark", { mark: drag.mark, character: drag.to });
      else if (mark && !moved) live.choose(mark);
    } else if (drag.kind === "slide") {
      if (drag.by) page.edit("slide", { clips: [...drag.clips], by: drag.by, ripple: page.ripple() });
      if (drag.over && drag.over !== drag.track && drag.clips.size === 1) page.edit("move", { clip: drag.clip.id, track: drag.over });
    } else if (drag.kind !== "scrub" && drag.by) {
      const { id, start, frames } = drag.clip;
      const first = drag.kind === "first" ? start + drag.by : start;
      const last = drag.kind === "end" ? start + frames + drag.by : start + frames;
      page.edit("trim", { clip: id, first, end: last });
    }
  }

  canvas.addEventListener("wheel", (event) => transport.wheel(event), { passive: false });
}

// By how many frames an edge can move: a clip keeps a frame, and shows no more than its sound has.
function limited({ kind, clip: { offset, frames, whole } }: RoomDrag & { clip: Clip }, by: number): number {
  if (kind === "first") return Math.max(-offset, Math.min(frames - 1, by));
  if (kind === "end") return Math.max(1 - frames, Math.min(whole - offset - frames, by));
  return by;
}
