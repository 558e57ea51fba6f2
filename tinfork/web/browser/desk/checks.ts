// Checks of staves: asked for where a stave is known, some time after it was changed there.
import { get } from "../lib/store/requests.ts";
import type { Store } from "../lib/store/store.ts";
import type { Check, Span, Stave } from "../lib/types.ts";

const WAIT_MS = 500;
// What is changed may be to look at so many frames beside.
const BESIDE = 48;

// What a person means so is not to be looked at.
export const meantSo = (stave: Stave, check: Check): boolean => stave.meant.some(([frame, frames, kind]) => kind === check.kind && frame <= check.frame && check.frame < frame + frames);
export const sameCheck = (one: Check | null, other: Check | null): boolean => one?.kind === other?.kind && one?.frame === other?.frame;
export const toLookAt = (stave: Stave): Check[] => stave.checks.filter((check) => !meantSo(stave, check));

export class Checks {
  readonly store: Store;
  #due = new Map<number, Span[]>();
  #timer: ReturnType<typeof setTimeout> | undefined;
  #looking = false;

  constructor(store: Store) {
    this.store = store;
    store.changed.on((change) => {
      if (change.kind === "touched") this.changed(change.id, change.frames);
    });
  }

  // Whether something is still to be looked at.
  get pending(): boolean {
    return this.#due.size > 0 || this.#looking;
  }

  // Frames of a stave are other ones now.
  changed(id: number, [first, end]: Span): void {
    this.#later(id, [Math.max(0, first - BESIDE), end + BESIDE]);
  }

  #later(id: number, frames: Span) {
    this.#due.set(id, [...(this.#due.get(id) ?? []), frames]);
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.#look(), WAIT_MS);
  }

  async #look() {
    const due = this.#due;
    this.#due = new Map();
    this.#looking = true;
    for (const [id, ranges] of due) {
      const first = Math.min(...ranges.map(([a]) => a));
      const last = Math.min(this.store.stave(id).frames, Math.max(...ranges.map(([, b]) => b)));
      for (let from = first; from < last; from += this.store.size) await this.#lookAt(id, [from, Math.min(last, from + this.store.size)]);
    }
    this.#looking = false;
  }

  async #lookAt(id: number, [first, end]: Span) {
    try {
      const answer = await get<{ version: number; checks: Check[] }>(`${this.store.stave(id).checksUrl}?first=${first}&end=${end}`);
      const now = this.store.stave(id);
      // It was changed meanwhile, perhaps elsewhere: this is still to be looked at.
      if (answer.version !== now.version) return this.#later(id, [first, end]);
      const others = now.checks.filter((one) => one.frame < first || one.frame >= end);
      this.store.put({ ...now, checks: [...others, ...answer.checks].sort((a, b) => a.frame - b.frame) });
    } catch (failed) {
      console.debug(failed);
    }
  }
}
