// The pointer on the lanes: choosing what lies there, and moving it.
import { drag } from "../lib/drag.ts";
import { laneHeight, placeAtY, scaleOf, signOf, topOf, yOf } from "./lanes.ts";
import type { Acting, Chosen } from "./state.ts";

const NEAR = 8; // pixels, in which a key is meant
const STILL = 4; // pixels up or down, up to which a key only moves in time
const DRAWINGS = 16; // pixels at the foot of a lane, where its drawings are

type Found = Chosen | { kind: "lane"; part: string };

export function handsOf(acting: Acting) {
  const { state, transport, canvas, page } = acting;
  const frameOf = (event: MouseEvent) => Math.floor(state.left + (event.clientX - canvas.getBoundingClientRect().left) / state.perFrame);

  // What lies under the pointer in a lane.
  function under(event: MouseEvent): Found | null {
    const box = canvas.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    const high = laneHeight(canvas, state.parts.length);
    const place = placeAtY(y, high);
    const top = topOf(place, high);
    if (y < topOf(0, high) || !state.parts[place]) return null;
    const { name: part, drawings } = state.parts[place];
    const lane = acting.acted().lane(part);
    const frame = frameOf(event);
    const key = part === state.part ? keyNear(x, y, top, high) : undefined;
    if (key !== undefined) return { kind: "key", part, dial: state.dial, frame: key };
    const run = y > top + high - DRAWINGS && drawings.length ? lane.runs(frame, frame + 1).at(-1) : undefined;
    if (run?.set) return { kind: "show", part, frame: run.first };
    const gesture = lane.near(frame).sort((one, other) => one.frames - other.frames).at(0);
    if (gesture) return { kind: "gesture", part, id: gesture.id, frame: gesture.frame };
    return { kind: "lane", part };
  }

  // The key of the chosen dial at a point.
  function keyNear(x: number, y: number, top: number, high: number): number | undefined {
    const lane = acting.lane();
    const at = (frame: number) => (frame + 0.5 - state.left) * state.perFrame;
    const up = (frame: number) => yOf(lane.dense(state.dial, state.frames)[frame], state.dial, top, high);
    return lane.keys[state.dial]?.frames.find((frame) => Math.abs(at(frame) - x) < NEAR && Math.abs(up(frame) - y) < NEAR);
  }

  function grab(event: PointerEvent): void {
    if (event.button !== 0) return;
    const found = under(event);
    if (!found) {
      transport.go(frameOf(event), true);
      return drag(canvas, event, (moved) => transport.go(frameOf(moved), true));
    }
    if (found.kind === "lane") {
      acting.choosePart(found.part);
      return transport.go(frameOf(event), true);
    }
    acting.choose(found);
    if (page.mayEdit) dragChosen(event, found);
  }

  function dragChosen(event: PointerEvent, found: Chosen): void {
    const high = laneHeight(canvas, state.parts.length);
    let [by, up] = [0, 0];
    const moved = (now: PointerEvent) => {
      const far = event.clientY - now.clientY;
      by = Math.round((now.clientX - event.clientX) / state.perFrame);
      up = found.kind === "key" && Math.abs(far) >= STILL ? Math.round((far / (high / 2 - 5)) * signOf(found.dial) * scaleOf(found.dial) * 1000) / 1000 : 0;
      state.drag = { told: `${by > 0 ? "+" : ""}${by}${up ? ` · ${up > 0 ? "+" : ""}${up.toFixed(2)}` : ""}` };
      acting.draw();
    };
    drag(canvas, event, moved, (whole) => {
      state.drag = null;
      if (whole && (by || up)) nudge(found, by, up);
      acting.draw();
    });
  }

  // What is chosen, elsewhere in time, or more of it.
  async function nudge(chosen: Chosen, by: number, up = 0): Promise<void> {
    const { part } = chosen;
    if (chosen.kind === "key") await acting.edit("move keys", { part, dial: chosen.dial, frames: [chosen.frame], by, up });
    else if (chosen.kind === "gesture") await acting.edit("gestures", { part, ids: [chosen.id], by });
    else await acting.edit("slide", { part, at: [chosen.frame], by });
    const to = { ...chosen, frame: chosen.frame + by };
    if (isThere(acting, to)) acting.choose(to);
  }

  canvas.addEventListener("pointerdown", grab);
  canvas.addEventListener("wheel", (event) => transport.wheel(event), { passive: false });
  return { nudge };
}

// Whether something that was chosen is still there.
export function isThere(acting: Pick<Acting, "acted">, chosen: Chosen): boolean {
  const lane = acting.acted().lane(chosen.part);
  if (chosen.kind === "gesture") return lane.gestures.some((one) => one.id === chosen.id);
  if (chosen.kind === "key") return lane.keys[chosen.dial]?.frames.includes(chosen.frame) ?? false;
  return lane.runs(chosen.frame, chosen.frame + 1).length > 0;
}
