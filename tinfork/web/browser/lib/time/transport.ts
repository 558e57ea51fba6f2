// Playing, stepping, looping and looking along time: what the views of time have in common.
import { goHome } from "../focus.ts";
import { KeyWindow } from "../keywindow.ts";
import { $, $dialog, $input, $select, targetOf } from "../page.ts";
import { fpsOf, frameAt } from "../store/clock.ts";
import { Player } from "./player.ts";
import { inToOut, type TimeView } from "./ruler.ts";

const MOST_PER_FRAME = 60;

export type Jump = "lines" | "words";

// What the transport asks of its page. extent: what can be looked at, where that is more than the scene.
export interface TransportPage {
  width(): number;
  frames(): number;
  draw(): void;
  // After every move.
  shown(playing: boolean): void;
  jumps(kind: Jump): number[] | Promise<number[]>;
  extent?(): { first: number; end: number };
  // Whether a key is kept for something that was decided elsewhere, whatever it does usually.
  claims?(event: KeyboardEvent): boolean;
}

// The controls a transport is worked with: what transport.html has.
export interface Controls {
  frameNumber: HTMLInputElement;
  speed: HTMLSelectElement;
  play: HTMLElement;
  inOut: HTMLElement;
  loop: HTMLElement;
  keys: HTMLDialogElement;
  pressed(name: string, action: () => unknown): void;
}

export const controlsOfPage = (): Controls => ({
  frameNumber: $input("frame-number"),
  speed: $select("speed"),
  play: $("play"),
  inOut: $("in-out"),
  loop: $("loop"),
  keys: $dialog("keys"),
  pressed: (name, action) => $(name).addEventListener("click", () => action()),
});

export class Transport {
  readonly view: TimeView;
  readonly page: TransportPage;
  readonly fps: number;
  readonly player: Player;
  readonly controls: Controls;
  // Where it goes back to when it is paused.
  #back: number | null = null;

  constructor(view: TimeView, page: TransportPage, controls = controlsOfPage()) {
    this.view = view;
    this.page = page;
    this.controls = controls;
    this.fps = fpsOf(view.rate);
    this.player = new Player(view.rate);
    this.#listen();
  }

  get last(): number {
    return Math.max(0, this.page.frames() - 1);
  }

  // The frames in view.
  get inView(): [number, number] {
    const { left, perFrame } = this.view;
    return perFrame ? [Math.max(0, Math.floor(left)), Math.ceil(left + this.page.width() / perFrame)] : [0, 0];
  }

  go(frame: number, heard: boolean): void {
    const { view, player } = this;
    view.frame = Math.min(this.last, Math.max(0, frame));
    view.time = view.frame / this.fps;
    if (heard) player.scrub(view.time);
    else {
      player.stop();
      player.at = view.time;
    }
    this.follow();
    this.show();
  }

  // returning: when it is paused the playhead goes back to where it began.
  async toggle(returning = false): Promise<void> {
    const { player } = this;
    if (player.playing || player.starting) {
      player.stop();
      if (this.#back !== null) return this.go(this.#back, false);
    } else {
      this.#back = returning ? this.view.frame : null;
      this.#range();
      if (await player.play(player.at)) requestAnimationFrame(() => this.#tick());
    }
    this.show();
  }

  async #tick(): Promise<void> {
    const { view, player } = this;
    if (!player.playing) return this.show();
    await player.turn();
    view.time = player.time;
    view.frame = Math.min(this.last, frameAt(view.time, this.fps));
    this.follow();
    this.show();
    requestAnimationFrame(() => this.#tick());
  }

  #range() {
    const { view, player } = this;
    const [start, end] = [view.in ?? 0, (view.out ?? this.last) + 1];
    player.range = view.loop && end > start ? { start: start / this.fps, end: Math.min(end / this.fps, player.seconds) } : null;
  }

  show(): void {
    const { view, player, controls } = this;
    controls.frameNumber.value = String(view.frame + view.startFrame);
    controls.play.textContent = player.playing ? "Pause" : "Play";
    const place = (frame: number | null) => (frame === null ? "–" : String(frame + view.startFrame));
    controls.inOut.textContent = `${place(view.in)} to ${place(view.out)}`;
    controls.loop.setAttribute("aria-pressed", String(view.loop));
    this.page.shown(player.playing);
    this.page.draw();
  }

  mark(edge: "in" | "out"): void {
    const { view } = this;
    view[edge] = view.frame;
    if (view.in !== null && view.out !== null && view.out < view.in) view[edge === "in" ? "out" : "in"] = null;
    this.#range();
    this.show();
  }

  unmark(): void {
    this.view.in = null;
    this.view.out = null;
    this.#range();
    this.show();
  }

  toggleLoop(): void {
    this.loop(!this.view.loop);
  }

  loop(over: boolean): void {
    this.view.loop = over;
    this.#range();
    this.show();
  }

  async setSpeed(speed: number): Promise<void> {
    const playing = this.player.playing;
    this.player.stop();
    this.player.speed = speed;
    if (playing) await this.toggle();
  }

  async jump(kind: Jump, step: number): Promise<void> {
    const frames = await this.page.jumps(kind);
    const to = step > 0 ? frames.find((f) => f > this.view.frame) : frames.findLast((f) => f < this.view.frame);
    if (to !== undefined) this.go(to, false);
  }

  // What is dragged stays under the hand.
  follow(): void {
    if (this.view.drag || !this.view.follow) return;
    const shown = this.page.width() / this.view.perFrame;
    if (this.view.frame < this.view.left || this.view.frame > this.view.left + shown - 2) {
      this.view.left = this.clamp(this.view.frame - shown * 0.1);
    }
  }

  clamp(left: number): number {
    const shown = this.page.width() / this.view.perFrame;
    const { first, end } = this.page.extent?.() ?? { first: 0, end: this.page.frames() };
    return Math.max(first, Math.min(left, end + shown * 0.1 - shown));
  }

  // The scene's length or more fits the page; factor 0 shows the whole.
  zoom(factor: number, x = this.page.width() / 2): void {
    const { view } = this;
    const under = view.left + x / view.perFrame;
    view.perFrame = this.#sized(view.perFrame * factor);
    view.left = this.clamp(factor ? under - x / view.perFrame : -Infinity);
    this.page.draw();
  }

  // Some frames over the whole width, with a little room.
  zoomTo(first: number, end: number): void {
    const { view } = this;
    const room = Math.max(2, (end - first) * 0.05);
    view.perFrame = this.#sized(this.page.width() / (end - first + 2 * room));
    view.left = this.clamp(first - room);
    this.page.draw();
  }

  #sized(perFrame: number): number {
    const whole = Math.min(MOST_PER_FRAME, this.page.width() / this.page.frames());
    return Math.min(MOST_PER_FRAME, Math.max(whole, perFrame));
  }

  wheel(event: WheelEvent): void {
    if (event.ctrlKey) this.zoom(event.deltaY < 0 ? 1.15 : 1 / 1.15, event.offsetX);
    else if (event.deltaX || event.shiftKey) {
      this.view.left = this.clamp(this.view.left + (event.deltaX || event.deltaY) / this.view.perFrame);
      this.page.draw();
    } else return;
    event.preventDefault();
  }

  // The key's own action here; false when it has none.
  key(event: KeyboardEvent): boolean {
    const second = Math.round(this.fps);
    const keys: Record<string, () => unknown> = {
      " ": () => this.toggle(),
      ArrowLeft: () => this.go(this.view.frame - (event.shiftKey ? second : 1), true),
      ArrowRight: () => this.go(this.view.frame + (event.shiftKey ? second : 1), true),
      Home: () => this.go(0, false),
      End: () => this.go(this.last, false),
      i: () => this.mark("in"),
      o: () => this.mark("out"),
      l: () => this.toggleLoop(),
      ",": () => this.jump("words", -1),
      ".": () => this.jump("words", 1),
      "<": () => this.jump("lines", -1),
      ">": () => this.jump("lines", 1),
      "+": () => this.zoom(1.4),
      "=": () => this.zoom(1.4),
      "-": () => this.zoom(1 / 1.4),
      0: () => this.zoom(0),
      "?": () => this.controls.keys.showModal(),
    };
    const action = keys[event.key.length === 1 ? event.key.toLowerCase() : event.key];
    if (!action || event.ctrlKey || event.metaKey || event.altKey) return false;
    if (event.key === " " && targetOf(event).matches("button")) goHome();
    action();
    return true;
  }

  // From in to out, in frames; null where both are not set.
  get span(): [number, number] | null {
    return inToOut(this.view);
  }

  #listen() {
    const { pressed, speed, frameNumber, keys } = this.controls;
    new KeyWindow(keys, this.page.claims);
    pressed("play", () => this.toggle());
    pressed("step-back", () => this.go(this.view.frame - 1, true));
    pressed("step-on", () => this.go(this.view.frame + 1, true));
    pressed("mark-in", () => this.mark("in"));
    pressed("mark-out", () => this.mark("out"));
    pressed("in-out", () => this.unmark());
    pressed("loop", () => this.toggleLoop());
    pressed("zoom-in", () => this.zoom(1.4));
    pressed("zoom-out", () => this.zoom(1 / 1.4));
    pressed("zoom-fit", () => this.zoom(0));
    pressed("help", () => keys.showModal());
    for (const kind of ["line", "word"] as const) {
      pressed(`${kind}-back`, () => this.jump(`${kind}s`, -1));
      pressed(`${kind}-on`, () => this.jump(`${kind}s`, 1));
    }
    speed.addEventListener("change", () => this.setSpeed(Number(speed.value)));
    frameNumber.addEventListener("change", () => {
      const asked = Number.parseInt(frameNumber.value, 10);
      if (Number.isFinite(asked)) this.go(asked - this.view.startFrame, true);
      else this.show();
      goHome();
    });
    frameNumber.addEventListener("keydown", (event) => {
      if (event.key === "Enter" || event.key === "Escape") goHome();
    });
  }
}
