// Edits go to the server one after the other, each on the version the last one left; what they changed comes back. Those
// that reach nobody wait, in sight, and are sent in their order when there is a connection.
import { Queue } from "./queue.ts";
import { ask, aWhile, NoConnection, sentenceOf } from "./requests.ts";

// What the server says to an edit. document: what it changed, or the whole; problem: why it was refused; done: what was
// undone or done again; others: whether it touched other documents than the page's own.
export interface Answer<D> {
  document?: D;
  problem?: string;
  done?: string;
  notes?: string[];
  others?: boolean;
  [more: string]: unknown;
}

export type Say = (sentence: string, again?: () => unknown, label?: string, done?: boolean) => void;
export type Take<D> = (document: D, done: boolean) => unknown;

// Another than all there were.
const newKey = () => [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");

export class Editor {
  #queue = new Queue();
  #waiting = 0;
  #offline = false;
  readonly say: Say;
  readonly pause: (times: number) => Promise<void>;
  readonly others: (done?: string) => unknown;
  readonly changed: () => void;

  // say(sentence, again, label) tells what went wrong, "" when all is well; again() does it once more. others(done) is told
  // when an edit touched more than the page's own document; changed(), that something was changed.
  constructor(say: Say, { pause = aWhile, others = reloadSaying, changed = tellOfChange } = {} as Partial<Pick<Editor, "pause" | "others" | "changed">>) {
    this.say = say;
    this.pause = pause;
    this.others = others;
    this.changed = changed;
    globalThis.addEventListener?.("beforeunload", (event) => {
      if (this.#offline) event.preventDefault();
    });
  }

  // How many edits are on their way.
  get waiting(): number {
    return this.#waiting;
  }

  get busy(): boolean {
    return this.#waiting > 0;
  }

  // Whether nobody was reached when it was tried last.
  get offline(): boolean {
    return this.#offline;
  }

  // version() is asked when the edit's turn has come; take(document, done) shows what came back, and is told whether the
  // edit was done.
  edit<D>(url: string, version: () => number, verb: string, what: object, take: Take<D>): Promise<Answer<D>> {
    const make = () => ({ body: JSON.stringify({ verb, version: version(), ...what }), headers: { "Content-Type": "application/json" } });
    return this.inLine(() => this.#ask(url, make, take, () => this.edit(url, version, verb, what, take)));
  }

  // A form with files, in the same line. It has a key: sent again as nobody knows whether it came, it counts once.
  send<D>(url: string, form: FormData, take: Take<D>): Promise<Answer<D>> {
    if (!form.has("key")) form.set("key", newKey());
    return this.inLine(() => this.#ask(url, () => ({ body: form }), take, () => this.send(url, form, take)));
  }

  // Something else that changes what edits are made on: edits that are asked for meanwhile wait for it.
  inLine<T>(work: () => Promise<T>): Promise<T> {
    this.#waiting += 1;
    if (this.#offline) this.#sayHowMany();
    return this.#queue.add(work).finally(() => {
      this.#waiting -= 1;
    });
  }

  #sayHowMany() {
    const many = this.#waiting === 1 ? "1 edit waits" : `${this.#waiting} edits wait`;
    this.say(`No connection: ${many} on this page, and will be sent in order as soon as there is one. Leave the page open.`);
  }

  // The response; where nobody is reached, it is tried again until somebody is.
  async #reached(url: string, make: () => RequestInit): Promise<Response> {
    for (let times = 0; ; times += 1) {
      try {
        const response = await ask(url, make());
        if (this.#offline) this.say("");
        this.#offline = false;
        return response;
      } catch (failed) {
        if (!(failed instanceof NoConnection)) throw failed;
        this.#offline = true;
        this.#sayHowMany();
        await this.pause(times);
      }
    }
  }

  async #ask<D>(url: string, make: () => RequestInit, take: Take<D>, again: () => unknown): Promise<Answer<D>> {
    this.say("");
    try {
      const response = await this.#reached(url, make);
      const answer = (await response.json()) as Answer<D>;
      if (answer.others) {
        await this.others(answer.done);
        return answer;
      }
      if (answer.document) await take(answer.document, !answer.problem);
      this.changed();
      if (answer.problem) this.say(answer.problem, response.status === 409 ? again : undefined, "Do it again on what is there now");
      else if (answer.done ?? answer.notes?.length) this.say(answer.done ?? answer.notes?.join(" ") ?? "", undefined, "", true);
      return answer;
    } catch (failed) {
      console.debug(failed);
      this.say(sentenceOf(failed), again);
      return {};
    }
  }
}

// Whether an edit was done, and not refused.
export const isDone = <D>(answer: Answer<D> | undefined): boolean => Boolean(answer?.document || answer?.others) && !answer?.problem;

// What comes next in the scene may be another thing now (see next_step.html).
export const tellOfChange = (): void => {
  globalThis.document?.body.dispatchEvent(new CustomEvent("scene-changed"));
};

const SAID = "said";

// An undo may touch what the page shows only beside its own: then it is made anew, and says what was done.
function reloadSaying(sentence = ""): void {
  sessionStorage.setItem(SAID, sentence);
  location.reload();
}

export function sayWhatWasDone(say: Say): void {
  const sentence = sessionStorage.getItem(SAID);
  sessionStorage.removeItem(SAID);
  if (sentence) say(sentence, undefined, "", true);
}
