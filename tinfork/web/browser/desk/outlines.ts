// What a verb would change is outlined, and said, as long as its control is under the pointer or has the focus.
import { targetOf } from "../lib/page.ts";
import { type Aim, toldOf } from "../lib/store/aims.ts";
import { endOf } from "../lib/store/exposures.ts";
import type { Span } from "../lib/types.ts";
import type { Choosing } from "./choosing.ts";
import type { Desk } from "./state.ts";

const WATCHED = ["pointerover", "pointerout", "focusin", "focusout"];

interface Told {
  aim(what: Aim): Span[];
  choosing: Choosing;
  hint: HTMLElement;
}

// room: where the controls are, each with the name of its aim. What comes back looks again, as something else was chosen
// (again), or the playhead moved.
export function outlinesIn(room: HTMLElement, { state, transport, canvas, draw }: Pick<Desk, "state" | "transport" | "canvas" | "draw">, { aim, choosing, hint }: Told): (again?: boolean) => void {
  let under: Element | null = null;
  canvas.dataset.outlined = "[]"; // For whoever cannot see the picture.

  const controlOf = (event: Event) => targetOf(event).closest("[data-aim]");

  // What a verb would change; or what is chosen.
  function hintNow(): string {
    const { own, range } = choosing;
    const first = state.startFrame;
    if (range && state.filling) return `a drawing fills ${range[0] + first} to ${range[1] - 1 + first}; Escape: none`;
    if (state.aim.length) return `changes ${toldOf(state.aim, first, transport.inView)}`;
    return toldOf(own.map((one): Span => [one.frame, endOf(one)]), first, transport.inView) || "none chosen";
  }

  function show(again = false): void {
    const what = under?.isConnected ? (under as HTMLElement).dataset.aim : undefined;
    const now = what ? aim(what as Aim) : [];
    const same = String(now) === String(state.aim);
    if (same && !again) return;
    state.aim = now;
    canvas.dataset.outlined = JSON.stringify(now);
    hint.textContent = hintNow();
    if (!same) draw();
  }

  for (const name of WATCHED) {
    room.addEventListener(name, (event) => {
      const leaves = name === "pointerout" || name === "focusout";
      const control = controlOf(event);
      if (leaves && control !== under) return;
      under = leaves ? null : control;
      show();
    });
  }
  return show;
}
