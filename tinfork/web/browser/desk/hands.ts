// The pointer on the canvas of staves.
import { drag } from "../lib/drag.ts";
import type { DockPage } from "./dock/page.ts";
import { type Spot, spotAt } from "./draw/spots.ts";

export function pointerOn(page: DockPage, { fold }: { fold(number: number): void }): void {
  const { canvas, state, choosing, mouths, words, transport, given } = page;

  const spotOf = (event: MouseEvent): Spot => {
    const box = canvas.getBoundingClientRect();
    return spotAt(state, canvas.parentElement?.clientHeight ?? 0, event.clientX - box.left, event.clientY - box.top);
  };

  canvas.addEventListener("pointerdown", (event) => {
    const spot = spotOf(event);
    if (spot.lane === "name") return fold(spot.number);
    page.activate(spot.number);
    if (spot.lane === "ribbon" && choosing.on(spot.frame)) return mouths.hold(spot, event);
    const { word } = spot;
    if (word) return words.hold({ ...spot, word }, event);
    transport.go(spot.frame, false);
    drag(canvas, event, (now) => {
      const frame = page.frameOf(now);
      if (frame !== state.frame) transport.go(frame, true);
    });
  });

  canvas.addEventListener("pointermove", (event) => {
    if (event.buttons) return;
    const spot = spotOf(event);
    canvas.style.cursor = spot.edge !== undefined || spot.seam !== undefined ? "col-resize" : spot.word ? "pointer" : "";
  });

  // A drawing of the map can be dragged onto an exposure.
  canvas.addEventListener("dragover", (event) => {
    const spot = spotOf(event);
    if (spot.lane !== "ribbon" || spot.number !== state.active || !given.mayEdit) return;
    event.preventDefault();
    state.over = choosing.on(spot.frame)?.frame ?? null;
    page.draw();
  });
  canvas.addEventListener("dragleave", () => {
    state.over = null;
    page.draw();
  });
  canvas.addEventListener("drop", (event) => {
    const drawing = event.dataTransfer?.getData("text/x-drawing");
    const frame = state.over;
    state.over = null;
    event.preventDefault();
    if (frame !== null && drawing !== undefined) page.edit("show", { at: [frame], drawing });
  });
  canvas.addEventListener("wheel", (event) => transport.wheel(event), { passive: false });
}
