// Who did what in the scene, and going back.
import type { Say } from "../lib/store/editor.ts";
import { get, type Or, post, sentenceOf } from "../lib/store/requests.ts";

export interface Step {
  step: number;
  who: string;
  person: number | null;
  when: string;
  verb: string;
  areas: string[];
  undone: boolean;
}

// A step to go back to, or to take back alone, or a person all of whose steps are taken back.
export type Asked = { step: number; alone?: boolean } | { person: number };

interface Page {
  url: string;
  backUrl: string;
  say: Say;
  changed(): void;
  // After going back.
  gone(): Promise<unknown>;
  // So that edits wait for it.
  inLine<T>(work: () => Promise<T>): Promise<T>;
}

export class History {
  readonly page: Page;
  steps: Step[] = [];

  constructor(page: Page) {
    this.page = page;
  }

  async load(): Promise<void> {
    try {
      this.steps = (await get<{ steps: Step[] }>(this.page.url)).steps;
    } catch (failed) {
      this.page.say(sentenceOf(failed));
    }
    this.page.changed();
  }

  back(asked: Asked): Promise<void> {
    return this.page.inLine(() => this.#back(asked));
  }

  async #back(asked: Asked) {
    try {
      const answer = await post<Or<{ steps: Step[] }>>(this.page.backUrl, asked);
      if (answer.problem) return this.page.say(answer.problem);
      this.steps = answer.steps ?? [];
      await this.page.gone();
    } catch (failed) {
      this.page.say(sentenceOf(failed));
    }
  }
}
