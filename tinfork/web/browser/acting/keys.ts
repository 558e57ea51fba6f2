// The keys of the Acting view.
import { targetOf, typing } from "../lib/page.ts";
import { scaleOf, signOf } from "./lanes.ts";
import type { Panel } from "./panel.ts";
import type { Acting, Chosen } from "./state.ts";

const rounded = (value: number) => Number(value.toFixed(3));
// Of a dial's scale, how much more one press is.
const STEPS = 20;

export function keysOf(acting: Acting, panel: Panel, nudge: (chosen: Chosen, by: number, up?: number) => unknown): (event: KeyboardEvent) => void {
  const { state, transport, recorder, page } = acting;

  // All that can be chosen in the chosen lane, in order.
  function choices(): Chosen[] {
    const lane = acting.lane();
    const { part, dial } = state;
    const keys = (lane.keys[dial]?.frames ?? []).map((frame): Chosen => ({ kind: "key", part, dial, frame }));
    const shows = lane.shows.map(({ frame }): Chosen => ({ kind: "show", part, frame }));
    const gestures = lane.gestures.map(({ frame, id }): Chosen => ({ kind: "gesture", part, id, frame }));
    return [...keys, ...shows, ...gestures].sort((one, other) => one.frame - other.frame);
  }

  function step(by: number): void {
    const all = choices();
    const at = all.findIndex((one) => JSON.stringify(one) === JSON.stringify(state.chosen));
    const next = at >= 0 ? all[at + by] : by > 0 ? all.find((one) => one.frame >= state.frame) : all.findLast((one) => one.frame < state.frame);
    if (!next) return;
    acting.choose(next);
    transport.go(next.frame, false);
  }

  const setKey = (more = 0) => acting.edit("key", { part: state.part, dial: state.dial, frame: state.frame, value: rounded(acting.lane().keyed(state.dial, state.frame) + more) });

  // More, or less, of the chosen dial: of the key that is chosen, or on the frame of the playhead.
  function more(sign: number): void {
    const by = (scaleOf(state.dial) / STEPS) * sign * signOf(state.dial);
    if (state.chosen?.kind === "key") nudge(state.chosen, 0, Number(by.toFixed(4)));
    else setKey(by);
  }

  function partBy(by: number): void {
    const at = state.parts.findIndex((part) => part.name === state.part);
    acting.choosePart(state.parts[Math.max(0, Math.min(state.parts.length - 1, at + by))].name);
  }

  const plain: Record<string, () => unknown> = {
    ArrowUp: () => partBy(-1),
    ArrowDown: () => partBy(1),
    b: () => step(-1),
    n: () => step(1),
    Escape: () => acting.choose(null),
  };
  const changing: Record<string, () => unknown> = {
    k: () => setKey(),
    Delete: () => acting.removeChosen(),
    s: () => acting.edit("split", { part: state.part, frame: state.frame }),
    h: () => acting.edit("hold on", { part: state.part, frame: state.frame }),
    r: () => panel.propose(),
    a: () => panel.another(),
    Enter: () => panel.accept(),
    m: () => panel.moment(),
  };

  // With Alt, arrows move what is chosen.
  function withAlt({ key }: KeyboardEvent): void {
    if (!page.mayEdit) return;
    if (key === "ArrowUp" || key === "ArrowDown") more(key === "ArrowUp" ? 1 : -1);
    else if (state.chosen) nudge(state.chosen, key === "ArrowLeft" ? -1 : 1);
  }

  // The drawing of the chosen part that a number stands for.
  const drawingOf = (key: string): string | undefined => (/^[1-9]$/.test(key) ? acting.part().drawings[Number(key) - 1] : undefined);

  return (event) => {
    if (recorder.on && recorder.key(event, true)) return event.preventDefault();
    if (typing(event)) return;
    const name = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const control = event.ctrlKey || event.metaKey;
    const target = targetOf(event);
    const drawing = drawingOf(event.key);
    const action = plain[name] ?? (page.mayEdit ? changing[name] : undefined);
    if (control && name === "z") acting.edit(event.shiftKey ? "redo" : "undo");
    else if (target.matches("input[type=range]") && event.key.startsWith("Arrow")) return;
    else if (event.altKey && event.key.startsWith("Arrow")) withAlt(event);
    else if (control || event.altKey || (target.matches("button, a, summary") && ["Enter", " "].includes(event.key))) return;
    else if (event.shiftKey && name === "Delete") page.mayEdit && panel.throwAway();
    else if (action) action();
    else if (page.mayEdit && drawing !== undefined) acting.showAt(drawing);
    else if (!transport.key(event)) return;
    event.preventDefault();
  };
}
