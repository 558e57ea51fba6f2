// A pass: what a hand does while it plays, by mouse, keys or a game pad, in frames of the sound as it is heard.
const KEY_STEP = 0.08;
const DEAD = 0.06;

// Where a game pad's stick is, -1 to 1, up is more; null where none is plugged in.
export function stick(pads) {
  const pad = [...pads].find((one) => one?.connected);
  if (!pad) return null;
  const [x = 0, y = 0] = pad.axes;
  const far = Math.abs(y) >= Math.abs(x) ? -y : x;
  return Math.abs(far) < DEAD ? 0 : far;
}

// The button of a game pad that is held down, from 0; -1 for none.
export const heldButton = (pads) => [...pads].find((one) => one?.connected)?.buttons.findIndex((button) => button.pressed) ?? -1;

export class Recorder {
  // page: {hand: the range that stands for the hand, frame(): where the sound is, not a whole number, pads()}
  constructor(page) {
    this.page = page;
    this.on = null;
  }

  // asked: {dial or "switch", with: "mouse" or "pad", drawings, most: what a hand at its end means}
  begin(asked) {
    this.on = { ...asked, samples: [], shown: [], held: new Set(), unplugged: false, last: null };
    this.page.hand.focus();
  }

  // To be asked on every picture while it plays; a sentence when it cannot go on.
  tick() {
    const { on } = this;
    if (!on) return "";
    const at = this.page.frame();
    if (on.with === "pad") {
      const pads = this.page.pads();
      const far = stick(pads);
      if (far === null) {
        on.unplugged = true;
        return "The game pad is not there (any more). Press a button on it, or choose mouse or keys; what was recorded until now is kept.";
      }
      if (on.dial === "switch") this.#press(at, on.drawings[heldButton(pads)]?.name ?? "");
      else this.page.hand.value = String(far);
    }
    if (on.dial !== "switch") on.samples.push([at, Number(this.page.hand.value) * on.most]);
    return "";
  }

  #press(at, drawing) {
    const { on } = this;
    if (on.last === drawing) return;
    on.last = drawing;
    on.shown.push([at, drawing]);
  }

  // Whether a key belongs to the pass that is recorded: Up and Down move the hand, 1 to 9 hold a drawing.
  key(event, down) {
    const { on } = this;
    if (on?.with !== "mouse") return false;
    const step = { ArrowUp: KEY_STEP, ArrowDown: -KEY_STEP }[event.key];
    if (step && on.dial !== "switch") {
      if (down) this.page.hand.value = String(Number(this.page.hand.value) + step);
      return true;
    }
    const drawing = on.drawings[Number(event.key) - 1];
    if (on.dial !== "switch" || !drawing) return false;
    if (down) on.held.add(drawing.name);
    else on.held.delete(drawing.name);
    this.#press(this.page.frame(), [...on.held].at(-1) ?? "");
    return true;
  }

  // What was recorded; null where nothing was.
  end() {
    const { on } = this;
    this.on = null;
    return on && (on.samples.length || on.shown.length) ? on : null;
  }
}
