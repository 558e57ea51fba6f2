// A pass: what a hand does while it plays, by mouse, keys or a game pad, in frames of the sound as it is heard.
const KEY_STEP = 0.08;
const DEAD = 0.06;

type Pad = { connected: boolean; axes: readonly number[]; buttons: readonly { pressed: boolean }[] } | null;
export type Pads = readonly Pad[];

const connected = (pads: Pads) => pads.find((one) => one?.connected);

// Where a game pad's stick is, -1 to 1, up is more; null where none is plugged in.
export function stick(pads: Pads): number | null {
  const pad = connected(pads);
  if (!pad) return null;
  const [x = 0, y = 0] = pad.axes;
  const far = Math.abs(y) >= Math.abs(x) ? -y : x;
  return Math.abs(far) < DEAD ? 0 : far;
}

// The button of a game pad that is held down, from 0; -1 for none.
export const heldButton = (pads: Pads): number => connected(pads)?.buttons.findIndex((button) => button.pressed) ?? -1;

export interface PassPage {
  // The range that stands for the hand.
  hand: { value: string; focus(): void };
  // Where the sound is, not a whole number.
  frame(): number;
  pads(): Pads;
}

// dial: or "switch"; most: what a hand at its end means; from: the frame it begins on
export interface PassAsked {
  dial: string;
  with: string;
  drawings: readonly { name: string }[];
  most: number;
  from: number;
}

export interface Pass extends PassAsked {
  samples: [number, number][];
  shown: [number, string][];
}

export class Recorder {
  readonly page: PassPage;
  on: Pass | null = null;
  #held = new Set<string>();
  #last: string | null = null;

  constructor(page: PassPage) {
    this.page = page;
  }

  begin(asked: PassAsked): void {
    this.on = { ...asked, samples: [], shown: [] };
    this.#held = new Set();
    this.#last = null;
    this.page.hand.focus();
  }

  // To be asked on every picture while it plays; a sentence when it cannot go on.
  tick(): string {
    const { on } = this;
    if (!on) return "";
    const at = this.page.frame();
    if (on.with === "pad") {
      const pads = this.page.pads();
      const far = stick(pads);
      if (far === null) return "The game pad is not there (any more). Press a button on it, or choose mouse or keys; what was recorded until now is kept.";
      if (on.dial === "switch") this.#press(on, at, on.drawings[heldButton(pads)]?.name ?? "");
      else this.page.hand.value = String(far);
    }
    if (on.dial !== "switch") on.samples.push([at, Number(this.page.hand.value) * on.most]);
    return "";
  }

  #press(on: Pass, at: number, drawing: string) {
    if (this.#last === drawing) return;
    this.#last = drawing;
    on.shown.push([at, drawing]);
  }

  // Whether a key belongs to the pass that is recorded: Up and Down move the hand, 1 to 9 hold a drawing.
  key(event: KeyboardEvent, down: boolean): boolean {
    const { on } = this;
    if (on?.with !== "mouse") return false;
    const step = event.key === "ArrowUp" ? KEY_STEP : event.key === "ArrowDown" ? -KEY_STEP : 0;
    if (step && on.dial !== "switch") {
      if (down) this.page.hand.value = String(Number(this.page.hand.value) + step);
      return true;
    }
    const drawing = on.drawings[Number(event.key) - 1] as { name: string } | undefined;
    if (on.dial !== "switch" || !drawing) return false;
    if (down) this.#held.add(drawing.name);
    else this.#held.delete(drawing.name);
    this.#press(on, this.page.frame(), [...this.#held].at(-1) ?? "");
    return true;
  }

  // What was recorded; null where nothing was.
  end(): Pass | null {
    const { on } = this;
    this.on = null;
    return on && (on.samples.length || on.shown.length) ? on : null;
  }
}
