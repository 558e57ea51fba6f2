// The prompter's side of a telephone: a code is shown, then what is pressed there is done here.
import { aWhile, NoConnection, post } from "../lib/edits.js";

const LOOK_MS = 250;

export class Telephone {
  // url: where a code is asked for; place: where it is said; shown(): what the prompter shows; act: what each press does.
  constructor(url, place, shown, act) {
    this.url = url;
    this.place = place;
    this.shown = shown;
    this.act = act;
    this.pairing = null;
    this.since = 0;
    this.told = "";
  }

  async offer() {
    const pairing = await post(this.url, {});
    Object.assign(this, { pairing, since: 0, told: "" });
    this.#look(pairing);
  }

  // Until another code is asked for, here or in another tab.
  async #look(pairing) {
    try {
      await this.#exchange(pairing);
    } catch (failed) {
      console.debug(failed);
      this.#say(`The telephone is not heard: ${failed.message}`);
      if (!(failed instanceof NoConnection)) return;
      await aWhile();
    }
    if (pairing === this.pairing) setTimeout(() => this.#look(pairing), LOOK_MS);
  }

  async #exchange({ code, address, alone, url }) {
    const how = alone ? " (this address is reached from this machine alone; TINFORK_BIND opens it to telephones)" : "";
    const shown = JSON.stringify(this.shown());
    const asked = shown === this.told ? { since: this.since } : { since: this.since, shown: JSON.parse(shown) };
    const answer = await post(url, asked);
    if (url !== this.pairing.url) return;
    if (answer.problem) throw new Error(answer.problem);
    this.told = shown;
    for (const [number, press] of answer.presses) {
      this.since = number;
      await this.act[press]();
    }
    this.#say(answer.paired ? "A telephone is paired." : `On the telephone open ${address}${how} and type ${code}`);
  }

  #say(sentence) {
    this.place.hidden = false;
    if (this.place.textContent !== sentence) this.place.textContent = sentence;
  }
}
