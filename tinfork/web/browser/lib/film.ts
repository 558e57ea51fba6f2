// The frame of the reference picture: moved by its handle or by arrow keys, sized, and docked beside what it would cover.
import { element, targetOf } from "./page.ts";

const STEP = 16;
const KEPT = "film";
const [WIDTH, RIGHT, BOTTOM] = [260, 12, 330];

// How the frame lies, as this browser keeps it.
interface Lying {
  docked?: boolean;
  width?: number;
  right?: number;
  bottom?: number;
}

export class Film {
  readonly place: HTMLElement;
  readonly dock: Element;
  readonly home: HTMLElement;
  readonly moved: () => void;
  readonly handle: HTMLElement;
  readonly docking: HTMLElement;
  readonly kept = JSON.parse(localStorage.getItem(KEPT) ?? "{}") as Lying;

  // place: floats in its parent; dock: where it goes when it is docked; moved(): its room has changed.
  constructor(place: HTMLElement, dock: Element, moved: () => void) {
    this.place = place;
    this.dock = dock;
    this.home = place.parentElement ?? document.body;
    this.moved = moved;
    this.handle = element("div", { className: "film-handle", tabIndex: 0, title: "Drag, or move with the arrow keys" });
    this.handle.setAttribute("role", "group");
    this.handle.setAttribute("aria-label", "Film");
    this.docking = this.#button("dock", "Beside the tracks, or over them", () => this.#set({ docked: !this.kept.docked }));
    this.handle.append(
      element("span", { textContent: "Film" }),
      this.#button("−", "Smaller", () => this.#size(-STEP * 2)),
      this.#button("+", "Larger", () => this.#size(STEP * 2)),
      this.docking,
    );
    place.prepend(this.handle);
    this.handle.addEventListener("pointerdown", (event) => this.#drag(event));
    this.handle.addEventListener("keydown", (event) => this.#key(event));
    this.#show();
  }

  #button(textContent: string, title: string, action: () => void): HTMLButtonElement {
    const button = element("button", { type: "button", className: "btn btn-sm btn-quiet", textContent, title });
    button.addEventListener("click", action);
    return button;
  }

  #set(changed: Lying) {
    Object.assign(this.kept, changed);
    localStorage.setItem(KEPT, JSON.stringify(this.kept));
    this.#show();
  }

  #show() {
    const { docked = false, width = WIDTH, right = RIGHT, bottom = BOTTOM } = this.kept;
    const room = docked ? this.dock : this.home;
    if (this.place.parentElement !== room) room.append(this.place);
    this.place.classList.toggle("docked", docked);
    this.docking.textContent = docked ? "float" : "dock";
    Object.assign(this.place.style, { width: `${width}px`, right: docked ? "" : `${right}px`, bottom: docked ? "" : `${bottom}px` });
    this.moved();
  }

  #size(by: number) {
    this.#set({ width: Math.min(640, Math.max(160, (this.kept.width ?? WIDTH) + by)) });
  }

  #move(x: number, y: number) {
    if (this.kept.docked) return;
    const room = this.home.getBoundingClientRect();
    const box = this.place.getBoundingClientRect();
    const within = (value: number, most: number) => Math.min(Math.max(0, value), Math.max(0, most));
    this.#set({
      right: within((this.kept.right ?? RIGHT) - x, room.width - box.width),
      bottom: within((this.kept.bottom ?? BOTTOM) - y, room.height - box.height),
    });
  }

  #key(event: KeyboardEvent) {
    const steps: Record<string, [number, number]> = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] };
    const step = steps[event.key];
    if (!step || event.target !== this.handle) return;
    event.preventDefault();
    event.stopPropagation();
    this.#move(step[0], step[1]);
  }

  #drag(event: PointerEvent) {
    if (targetOf(event).closest("button")) return;
    this.handle.setPointerCapture(event.pointerId);
    const follow = (moved: PointerEvent) => this.#move(moved.movementX, moved.movementY);
    this.handle.addEventListener("pointermove", follow);
    this.handle.addEventListener("lostpointercapture", () => this.handle.removeEventListener("pointermove", follow), { once: true });
  }
}
