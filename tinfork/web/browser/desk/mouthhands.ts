// Exposures under the hands: the keys, the buttons and the pointer.
import { drag } from "../lib/drag.ts";
import { withSeam } from "../lib/store/exposures.ts";
import type { Choosing } from "./choosing.ts";
import type { Doing } from "./doing.ts";
import type { Spot } from "./draw/spots.ts";
import type { Desk } from "./state.ts";

type Action = () => void;
const FAR = 6; // pixels, from which on an exposure that is pressed is dragged

export class MouthHands {
  readonly desk: Desk;
  readonly choosing: Choosing;
  readonly doing: Doing;
  // What the buttons do, by their names in the templates.
  readonly buttons: Record<string, Action>;
  readonly #keys: Record<string, Action>;
  readonly #verbs: Record<string, Action>;
  readonly #control: Record<string, Action>;
  readonly #controlAndShift: Record<string, Action>;

  constructor(desk: Desk, choosing: Choosing, doing: Doing) {
    this.desk = desk;
    this.choosing = choosing;
    this.doing = doing;
    this.buttons = {
      split: () => doing.split(),
      pin: () => doing.pin(),
      copy: () => doing.copy(),
      cut: () => doing.cut(),
      tap: () => doing.tap(),
      paste: () => doing.paste(),
      loop: () => doing.loop(),
      fill: () => doing.fill(),
      merge: () => doing.merge(),
      rest: () => doing.rest(),
      nothing: () => doing.nothing(),
      remove: () => doing.remove(false),
      hold: () => doing.remove(true),
      "hold on": () => doing.holdOn(),
      earlier: () => doing.slide(-1),
      later: () => doing.slide(1),
    };
    this.#keys = {
      b: () => choosing.beside(-1),
      n: () => choosing.beside(1),
      B: () => choosing.beside(-1, true),
      N: () => choosing.beside(1, true),
      p: this.buttons.pin,
      y: () => choosing.group("same"),
      t: this.buttons.tap,
      e: this.buttons.nothing,
      x: () => doing.likelier(),
    };
    this.#verbs = {
      m: this.buttons.merge,
      h: this.buttons["hold on"],
      q: this.buttons.rest,
      delete: this.buttons.remove,
      backspace: this.buttons.remove,
      "[": () => doing.edge("start", -1),
      "]": () => doing.edge("start", 1),
      "{": () => doing.edge("end", -1),
      "}": () => doing.edge("end", 1),
    };
    this.#control = { a: () => choosing.group("all"), c: this.buttons.copy, x: this.buttons.cut, v: this.buttons.paste, arrowleft: () => doing.slide(-1), arrowright: () => doing.slide(1) };
    this.#controlAndShift = { v: this.buttons.loop, a: () => choosing.choose([], null, false), arrowleft: () => doing.slide(-1, "words"), arrowright: () => doing.slide(1, "words") };
  }

  // What a key does to exposures; false when it does nothing.
  key(event: KeyboardEvent): boolean {
    const name = event.key.toLowerCase();
    const control = event.ctrlKey || event.metaKey;
    const found = control ? (event.shiftKey ? this.#controlAndShift : this.#control)[name] : this.#keyAlone(event, name);
    if (!found || event.altKey) return false;
    found();
    return true;
  }

  // Whether a drawing of the map has a key.
  claims({ key, ctrlKey, metaKey, altKey, shiftKey }: KeyboardEvent): boolean {
    return !ctrlKey && !metaKey && !altKey && !shiftKey && this.doing.hasKey(key.toLowerCase());
  }

  #keyAlone(event: KeyboardEvent, name: string): Action | undefined {
    const { state } = this.desk;
    if (this.claims(event)) return () => this.doing.pickByKey(name);
    if (name === "s" && !state.word) return this.buttons.split;
    if (name === "delete" && event.shiftKey && !state.word) return this.buttons.hold;
    return this.#keys[event.key] ?? (state.word ? undefined : (this.#verbs[event.key] ?? this.#verbs[name]));
  }

  // spot: where the ribbon was pressed; on a seam that is dragged, on an exposure it is chosen, and slides when dragged;
  // under the ribbon, or with Shift, exposures are chosen from there to where the pointer goes.
  hold(spot: Spot, event: PointerEvent): void {
    const { state, given, transport } = this.desk;
    const own = this.choosing.on(spot.frame);
    if (spot.seam !== undefined && given.mayEdit && !event.shiftKey) return this.#holdSeam(spot.seam, event);
    if (!own) return;
    if (event.ctrlKey || event.metaKey) return this.choosing.toggle(own.frame);
    if (spot.under || event.shiftKey) return this.#holdRow(spot.frame, event, event.shiftKey && state.lead !== null ? state.lead : spot.frame);
    if (!state.chosen.includes(own.frame)) this.choosing.choose([own.frame], own.frame, false);
    else state.lead = own.frame;
    transport.go(spot.frame, false);
    if (given.mayEdit) this.#holdBlock(spot, event);
  }

  #holdRow(to: number, event: PointerEvent, from: number) {
    this.choosing.reachTo(from, to);
    drag(this.desk.canvas, event, (now) => this.choosing.reachTo(from, this.desk.frameOf(now)), () => this.desk.showSelection());
  }

  #holdSeam(frame: number, event: PointerEvent) {
    const { state, store, transport } = this.desk;
    const before = this.choosing.exposures;
    const moved = (now: MouseEvent) => {
      const to = Math.max(1, Math.min(store.frames - 1, Math.round(this.desk.placeOf(now))));
      if (state.drag?.to === to) return;
      state.drag = { mouths: withSeam(before, frame, to), to };
      transport.go(Math.min(to, store.frames - 1), true);
    };
    drag(this.desk.canvas, event, moved, (whole) => {
      const to = state.drag?.to;
      state.drag = null;
      this.desk.draw();
      if (!whole || to === undefined || to === frame) this.choosing.chooseOn(frame, !whole);
      else this.doing.seam(frame, to);
    });
  }

  #holdBlock(spot: Spot, event: PointerEvent) {
    const { state, store, transport } = this.desk;
    const begun = event.clientX;
    const moved = (now: MouseEvent) => {
      if (!state.drag && Math.abs(now.clientX - begun) < FAR) return;
      const by = Math.round((now.clientX - begun) / state.perFrame);
      if (state.drag?.slide === by) return;
      state.drag = { slide: by };
      transport.go(Math.max(0, Math.min(store.frames - 1, spot.frame + by)), true);
      this.desk.draw();
    };
    drag(this.desk.canvas, event, moved, (whole, last) => {
      const dragged = state.drag;
      state.drag = null;
      this.desk.draw();
      if (dragged && whole && dragged.slide) this.doing.slide(dragged.slide);
      else if (!dragged && whole && last.type === "pointerup") this.choosing.chooseOn(spot.frame, false);
    });
  }
}
