// Playing, stepping, looping and looking along time: what the Sound view and the Reading desk have in common.
import { frameAt } from "./clock.js";
import { goHome } from "./focus.js";
import { Player } from "./player.js";

const $ = (id) => document.getElementById(id);
const MOST_PER_FRAME = 60;

// view: the page's state; gets frame, time, left (frames), perFrame (pixels), in, out and loop.
// page: {width(): pixels of time shown, frames(): length, draw(), shown(playing): after every move, jumps(kind): frames, or a promise of them}
export class Transport {
  constructor(view, page) {
    Object.assign(view, { frame: 0, time: 0, left: 0, perFrame: 0, in: null, out: null, loop: false });
    this.view = view;
    this.page = page;
    this.fps = view.rate.numerator / view.rate.denominator;
    this.player = new Player(view.rate);
    this.back = null;
    this.#controls();
  }

  get last() {
    return Math.max(0, this.page.frames() - 1);
  }

  go(frame, heard) {
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
  async toggle(returning = false) {
    const { player } = this;
    if (player.playing || player.starting) {
      player.stop();
      if (this.back !== null) return this.go(this.back, false);
    } else {
      this.back = returning ? this.view.frame : null;
      this.#range();
      if (await player.play(player.at)) requestAnimationFrame(() => this.#tick());
    }
    this.show();
  }

  async #tick() {
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

  show() {
    const { view, player } = this;
    $("frame-number").value = String(view.frame + view.startFrame);
    $("play").textContent = player.playing ? "Pause" : "Play";
    const place = (frame) => (frame === null ? "–" : String(frame + view.startFrame));
    $("in-out").textContent = `${place(view.in)} to ${place(view.out)}`;
    $("loop").setAttribute("aria-pressed", String(view.loop));
    this.page.shown(player.playing);
    this.page.draw();
  }

  mark(edge) {
    const { view } = this;
    view[edge] = view[edge] === view.frame ? null : view.frame;
    if (view.in !== null && view.out !== null && view.out < view.in) view[edge === "in" ? "out" : "in"] = null;
    this.#range();
    this.show();
  }

  toggleLoop() {
    this.loop(!this.view.loop);
  }

  loop(over) {
    this.view.loop = over;
    this.#range();
    this.show();
  }

  async setSpeed(speed) {
    const playing = this.player.playing;
    this.player.stop();
    this.player.speed = speed;
    if (playing) await this.toggle();
  }

  async jump(kind, step) {
    const frames = await this.page.jumps(kind);
    const to = step > 0 ? frames.find((f) => f > this.view.frame) : frames.findLast((f) => f < this.view.frame);
    if (to !== undefined) this.go(to, false);
  }

  // What is dragged stays under the hand.
  follow() {
    if (this.view.drag || this.view.follow === false) return;
    const shown = this.page.width() / this.view.perFrame;
    if (this.view.frame < this.view.left || this.view.frame > this.view.left + shown - 2) {
      this.view.left = this.clamp(this.view.frame - shown * 0.1);
    }
  }

  clamp(left) {
    const shown = this.page.width() / this.view.perFrame;
    const { first, end } = this.page.extent?.() ?? { first: 0, end: this.page.frames() };
    return Math.max(first, Math.min(left, end + shown * 0.1 - shown));
  }

  // The scene's length or more fits the page; factor 0 shows the whole.
  zoom(factor, x = this.page.width() / 2) {
    const { view } = this;
    const under = view.left + x / view.perFrame;
    const whole = Math.min(MOST_PER_FRAME, this.page.width() / this.page.frames());
    view.perFrame = Math.min(MOST_PER_FRAME, Math.max(whole, view.perFrame * factor));
    view.left = this.clamp(factor ? under - x / view.perFrame : -Infinity);
    this.page.draw();
  }

  // Some frames over the whole width, with a little room.
  zoomTo(first, end) {
    const { view } = this;
    const room = Math.max(2, (end - first) * 0.05);
    const whole = Math.min(MOST_PER_FRAME, this.page.width() / this.page.frames());
    view.perFrame = Math.min(MOST_PER_FRAME, Math.max(whole, this.page.width() / (end - first + 2 * room)));
    view.left = this.clamp(first - room);
    this.page.draw();
  }

  wheel(event) {
    if (event.ctrlKey) this.zoom(event.deltaY < 0 ? 1.15 : 1 / 1.15, event.offsetX);
    else if (event.deltaX || event.shiftKey) {
      this.view.left = this.clamp(this.view.left + (event.deltaX || event.deltaY) / this.view.perFrame);
      this.page.draw();
    } else return;
    event.preventDefault();
  }

  // The key's own action here; false when it has none.
  key(event) {
    const second = Math.round(this.fps);
    const keys = {
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
      "?": () => $("keys").showModal(),
    };
    const action = keys[event.key.length === 1 ? event.key.toLowerCase() : event.key];
    if (!action || event.ctrlKey || event.metaKey || event.altKey) return false;
    if (event.key === " " && event.target.matches("button")) goHome();
    action();
    return true;
  }

  #controls() {
    const on = (id, action) => $(id).addEventListener("click", action);
    on("play", () => this.toggle());
    on("step-back", () => this.go(this.view.frame - 1, true));
    on("step-on", () => this.go(this.view.frame + 1, true));
    on("mark-in", () => this.mark("in"));
    on("mark-out", () => this.mark("out"));
    on("loop", () => this.toggleLoop());
    on("zoom-in", () => this.zoom(1.4));
    on("zoom-out", () => this.zoom(1 / 1.4));
    on("zoom-fit", () => this.zoom(0));
    on("help", () => $("keys").showModal());
    for (const kind of ["line", "word"]) {
      on(`${kind}-back`, () => this.jump(`${kind}s`, -1));
      on(`${kind}-on`, () => this.jump(`${kind}s`, 1));
    }
    $("speed").addEventListener("change", () => this.setSpeed(Number($("speed").value)));
    $("frame-number").addEventListener("change", (event) => {
      const asked = Number.parseInt(event.target.value, 10);
      if (Number.isFinite(asked)) this.go(asked - this.view.startFrame, true);
      else this.show();
      goHome();
    });
    $("frame-number").addEventListener("keydown", (event) => {
      if (event.key === "Enter" || event.key === "Escape") goHome();
    });
  }
}

// Whether a key is meant for a field and not for the page.
export const typing = (event) => event.target.matches("input:not([type=checkbox], [type=range]), textarea, select") || document.querySelector("dialog[open]");

// A function that draws on the next picture, once, however often it is called before.
export function oncePerPicture(render) {
  let wanted = false;
  return () => {
    if (wanted) return;
    wanted = true;
    requestAnimationFrame(() => {
      wanted = false;
      render();
    });
  };
}
