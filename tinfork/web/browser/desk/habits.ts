// What is corrected again and again in the active stave, and the rules there are.
import type { Say } from "../lib/store/editor.ts";
import { get, type Or, sentenceOf } from "../lib/store/requests.ts";
import type { Stave } from "../lib/types.ts";

export interface Offer {
  ipa: string;
  drawing: string;
  times: number;
}

export interface Rule {
  ipa: string;
  drawing: string;
  here: boolean;
}

// A place that a rule would change.
export interface Place {
  frame: number;
  frames: number;
  was: string;
  now: string;
}

interface Page {
  stave(): Stave;
  say: Say;
  changed(): void;
  open(): void;
}

// Some time after a correction habits are looked for.
const LOOK_MS = 1500;

export class Habits {
  readonly page: Page;
  offers: Offer[] = [];
  rules: Rule[] = [];
  shown: (Offer & { changes: Place[] }) | null = null;
  #told = new Set<string>();
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(page: Page) {
    this.page = page;
  }

  async load(): Promise<void> {
    try {
      const { offers, rules } = await get<{ offers: Offer[]; rules: Rule[] }>(this.page.stave().habitsUrl);
      Object.assign(this, { offers, rules, shown: null });
    } catch (failed) {
      this.page.say(sentenceOf(failed));
    }
    this.page.changed();
  }

  // After a correction: is there a new habit? Each is told once.
  later(): void {
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.#look(), LOOK_MS);
  }

  async #look() {
    await this.load();
    const fresh = this.offers.find((one) => !this.#told.has(`${one.ipa} ${one.drawing}`));
    if (!fresh) return;
    this.#told.add(`${fresh.ipa} ${fresh.drawing}`);
    this.page.say(`/${fresh.ipa}/ was given “${fresh.drawing}” ${fresh.times} times.`, () => this.page.open(), "See where else", true);
  }

  async preview(offer: Offer): Promise<void> {
    try {
      const answer = await get<Or<{ changes: Place[] }>>(`${this.page.stave().habitsUrl}?ipa=${encodeURIComponent(offer.ipa)}&drawing=${encodeURIComponent(offer.drawing)}`);
      if (answer.problem) this.page.say(answer.problem);
      else this.shown = { ...offer, changes: answer.changes ?? [] };
    } catch (failed) {
      this.page.say(sentenceOf(failed));
    }
    this.page.changed();
  }
}
