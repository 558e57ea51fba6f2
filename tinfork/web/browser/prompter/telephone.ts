// The prompter's side of a telephone: a code is shown, then what is pressed there is done here.
import { aWhile, NoConnection, post, sentenceOf } from "../lib/store/requests.ts";

const LOOK_MS = 250;

// A code that was offered; alone: whether its address is reached from this machine alone.
interface Pairing {
  code: string;
  address: string;
  alone: boolean;
  url: string;
}

interface Exchanged {
  problem?: string;
  paired: boolean;
  presses: [number, string][];
}

export class Telephone {
  readonly url: string;
  readonly place: HTMLElement;
  readonly shown: () => object;
  readonly act: Record<string, () => unknown>;
  #pairing: Pairing | null = null;
  #since = 0;
  #told = "";

  // url: where a code is asked for; place: where it is said; shown(): what the prompter shows; act: what each press does.
  constructor(url: string, place: HTMLElement, shown: () => object, act: Record<string, () => unknown>) {
    this.url = url;
    this.place = place;
    this.shown = shown;
    this.act = act;
  }

  async offer(): Promise<void> {
    const pairing = await post<Pairing>(this.url, {});
    this.#pairing = pairing;
    this.#since = 0;
    this.#told = "";
    this.#look(pairing);
  }

  // Until another code is asked for, here or in another tab.
  async #look(pairing: Pairing) {
    try {
      await this.#exchange(pairing);
    } catch (failed) {
      console.debug(failed);
      this.#say(`The telephone is not heard: ${sentenceOf(failed)}`);
      if (!(failed instanceof NoConnection)) return;
      await aWhile();
    }
    if (pairing === this.#pairing) setTimeout(() => this.#look(pairing), LOOK_MS);
  }

  async #exchange({ code, address, alone, url }: Pairing) {
    const how = alone ? " (this address is reached from this machine alone; TINFORK_BIND opens it to telephones)" : "";
    const shown = JSON.stringify(this.shown());
    const asked = shown === this.#told ? { since: this.#since } : { since: this.#since, shown: JSON.parse(shown) };
    const answer = await post<Exchanged>(url, asked);
    if (url !== this.#pairing?.url) return;
    if (answer.problem) throw new Error(answer.problem);
    this.#told = shown;
    for (const [number, press] of answer.presses) {
      this.#since = number;
      await this.act[press]();
    }
    this.#say(answer.paired ? "A telephone is paired." : `On the telephone open ${address}${how} and type ${code}`);
  }

  #say(sentence: string) {
    this.place.hidden = false;
    if (this.place.textContent !== sentence) this.place.textContent = sentence;
  }
}
