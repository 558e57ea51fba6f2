// Takes of the active stave, and the one that is compared with what is there now.
import type { Say } from "../lib/store/editor.ts";
import { get, type Or, post, sentenceOf } from "../lib/store/requests.ts";
import type { Shown, Stave } from "../lib/types.ts";

// What the track would be if it were planned anew is compared like a take.
export const ANEW = "anew";

export interface Take {
  id: number;
  name: string;
  who: string;
  when: string;
  url: string;
  deleteUrl: string;
}

// frames, of: how many would change when planned anew
export interface Compared {
  id: number | typeof ANEW;
  name: string;
  stave: number;
  exposures: Shown[];
  frames?: number;
  of?: number;
}

type Sent = Omit<Compared, "exposures"> & { exposures: [number, number, string][] };

interface Page {
  stave(): Stave;
  say: Say;
  changed(): void;
}

export class Takes {
  readonly page: Page;
  rows: Take[] = [];
  compared: Compared | null = null;
  // Whether the take is seen in the mirror, and not the track.
  shown = false;

  constructor(page: Page) {
    this.page = page;
  }

  async #asked<T>(work: () => Promise<Or<T>>): Promise<T | null> {
    try {
      const answer = await work();
      if (answer.problem) this.page.say(answer.problem);
      return answer.problem ? null : (answer as T);
    } catch (failed) {
      this.page.say(sentenceOf(failed));
      return null;
    }
  }

  #row(id: number): Take | undefined {
    return this.rows.find((one) => one.id === id);
  }

  async #list(work: () => Promise<Or<{ takes: Take[] }>>): Promise<boolean> {
    const answer = await this.#asked(work);
    if (answer) this.rows = answer.takes;
    this.page.changed();
    return answer !== null;
  }

  load(): Promise<boolean> {
    return this.#list(() => get(this.page.stave().takesUrl));
  }

  keep(name: string): Promise<boolean> {
    return this.#list(() => post(this.page.stave().takesUrl, { name }));
  }

  async drop(id: number): Promise<void> {
    if (this.compared?.id === id) this.leave();
    const row = this.#row(id);
    if (row && (await this.#asked(() => post<object>(row.deleteUrl, {})))) await this.load();
  }

  async compare(id: number): Promise<void> {
    if (this.compared?.id === id) return this.leave();
    const row = this.#row(id);
    if (row) await this.#compareWith(row.url);
  }

  // Beside the track what it would be if it were planned anew.
  async compareAnew(): Promise<void> {
    if (this.compared?.id === ANEW) return this.leave();
    await this.#compareWith(this.page.stave().anewUrl, { id: ANEW, name: "planned anew" });
  }

  async #compareWith(url: string, called: Partial<Compared> = {}) {
    const answer = await this.#asked(() => get<Or<Sent>>(url));
    if (answer) this.compared = { ...answer, ...called, stave: this.page.stave().id, exposures: answer.exposures.map(([frame, frames, drawing]) => ({ frame, frames, drawing })) };
    this.page.changed();
  }

  leave(): void {
    this.compared = null;
    this.shown = false;
    this.page.changed();
  }

  // Which of both is seen in the mirror.
  toggle(): void {
    if (!this.compared) return this.page.say("Compare with a take first, under Takes.");
    this.shown = !this.shown;
    this.page.changed();
  }
}
