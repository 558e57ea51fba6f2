// What the desk asks for beside its slices: checks, takes, the history, and whether others changed something.
import { get, post } from "../lib/edits.js";

const LOOK_MS = 2000;
const CHECK_MS = 500;

// Checks of a stave: asked for where it is known, some time after it was changed there.
export class Checks {
  #due = new Map();
  #timer = 0;
  #looking = false;

  // page: {staveOf(id), put(id, checks), slice: frames asked for at a time}
  constructor(page) {
    this.page = page;
  }

  // Whether something is still to be looked at.
  get pending() {
    return this.#due.size > 0 || this.#looking;
  }

  // Frames of a stave are other ones now.
  changed(id, first, end) {
    this.#later(id, Math.max(0, first - 48), end + 48);
  }

  #later(id, first, end) {
    const due = this.#due.get(id) ?? [];
    this.#due.set(id, [...due, [first, end]]);
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.#look(), CHECK_MS);
  }

  async #look() {
    const due = this.#due;
    this.#due = new Map();
    this.#looking = true;
    for (const [id, ranges] of due) {
      const stave = this.page.staveOf(id);
      const first = Math.min(...ranges.map(([a]) => a));
      const last = Math.min(stave.frames, Math.max(...ranges.map(([, b]) => b)));
      for (let from = first; from < last; from += this.page.slice) {
        const end = Math.min(last, from + this.page.slice);
        try {
          const answer = await get(`${stave.checksUrl}?first=${from}&end=${end}`);
          const now = this.page.staveOf(id);
          if (answer.version !== now.version) {
            // It was changed meanwhile, perhaps elsewhere: this is still to be looked at.
            this.#later(id, from, end);
            continue;
          }
          const others = now.checks.filter((one) => one.frame < from || one.frame >= end);
          this.page.put(id, [...others, ...answer.checks].sort((a, b) => a.frame - b.frame));
        } catch (failed) {
          console.debug(failed);
        }
      }
    }
    this.#looking = false;
  }
}

// What looks wrong in a stave: what is to be looked at, and what a person means so.
export const meantSo = (stave, check) => stave.meant.some(([frame, frames, kind]) => kind === check.kind && frame <= check.frame && check.frame < frame + frames);
export const sameCheck = (one, other) => one?.kind === other?.kind && one?.frame === other?.frame;
export const toLookAt = (stave) => stave.checks.filter((check) => !meantSo(stave, check));

export const ANEW = "anew";

// Takes of the active stave, and the one that is compared with what is there now.
export class Takes {
  rows = [];
  compared = null;
  shown = false;

  // page: {stave(), say, changed()}
  constructor(page) {
    this.page = page;
  }

  async #asked(work) {
    try {
      const answer = await work();
      if (answer.problem) this.page.say(answer.problem);
      return answer.problem ? null : answer;
    } catch (failed) {
      this.page.say(failed.message);
      return null;
    }
  }

  #row(id) {
    return this.rows.find((one) => one.id === id);
  }

  async load() {
    const answer = await this.#asked(() => get(this.page.stave().takesUrl));
    if (answer) this.rows = answer.takes;
    this.page.changed();
  }

  async keep(name) {
    const answer = await this.#asked(() => post(this.page.stave().takesUrl, { name }));
    if (answer) this.rows = answer.takes;
    this.page.changed();
    return Boolean(answer);
  }

  async drop(id) {
    if (this.compared?.id === id) this.leave();
    if (await this.#asked(() => post(this.#row(id).deleteUrl, {}))) await this.load();
  }

  async compare(id) {
    if (this.compared?.id === id) return this.leave();
    await this.#compareWith(this.#row(id).url);
  }

  // Beside the track what it would be if it were planned anew.
  async compareAnew() {
    if (this.compared?.id === ANEW) return this.leave();
    await this.#compareWith(this.page.stave().anewUrl, { id: ANEW, name: "planned anew" });
  }

  async #compareWith(url, called = {}) {
    const answer = await this.#asked(() => get(url));
    if (answer) this.compared = { ...answer, ...called, stave: this.page.stave().id, exposures: answer.exposures.map(([frame, frames, drawing]) => ({ frame, frames, drawing })) };
    this.page.changed();
  }

  leave() {
    this.compared = null;
    this.shown = false;
    this.page.changed();
  }

  // Which of both is seen in the mirror.
  toggle() {
    if (!this.compared) return this.page.say("Compare with a take first, under Takes.");
    this.shown = !this.shown;
    this.page.changed();
  }
}

// What is corrected again and again in the active stave, and the rules there are.
export class Habits {
  offers = [];
  rules = [];
  shown = null;
  told = new Set();

  // page: {stave(), say, changed(), open()}
  constructor(page) {
    this.page = page;
  }

  async load() {
    try {
      const { offers, rules } = await get(this.page.stave().habitsUrl);
      Object.assign(this, { offers, rules, shown: null });
    } catch (failed) {
      this.page.say(failed.message);
    }
    this.page.changed();
  }

  // After a correction: is there a new habit? Each is told once.
  async look() {
    await this.load();
    const fresh = this.offers.find((one) => !this.told.has(`${one.ipa} ${one.drawing}`));
    if (!fresh) return;
    this.told.add(`${fresh.ipa} ${fresh.drawing}`);
    this.page.say(`/${fresh.ipa}/ was given “${fresh.drawing}” ${fresh.times} times.`, () => this.page.open(), "See where else", true);
  }

  async preview(offer) {
    try {
      const answer = await get(`${this.page.stave().habitsUrl}?ipa=${encodeURIComponent(offer.ipa)}&drawing=${encodeURIComponent(offer.drawing)}`);
      if (answer.problem) this.page.say(answer.problem);
      else this.shown = { ...offer, changes: answer.changes };
    } catch (failed) {
      this.page.say(failed.message);
    }
    this.page.changed();
  }
}

export class History {
  steps = [];

  // page: {url, backUrl, say, changed(), gone(): after going back, inLine(work): so that edits wait for it}
  constructor(page) {
    this.page = page;
  }

  async load() {
    try {
      this.steps = (await get(this.page.url)).steps;
    } catch (failed) {
      this.page.say(failed.message);
    }
    this.page.changed();
  }

  // asked: {step} to go back to, {step, alone: true} to take back alone, or {person} all of whose steps are taken back
  back(asked) {
    return this.page.inLine(() => this.#back(asked));
  }

  async #back(asked) {
    try {
      const answer = await post(this.page.backUrl, asked);
      if (answer.problem) return this.page.say(answer.problem);
      this.steps = answer.steps;
      await this.page.gone();
    } catch (failed) {
      this.page.say(failed.message);
    }
  }
}

// Ask now and then whether others changed the scene, as long as the page is looked at.
export function lookAfter(url, changed) {
  const look = async () => {
    if (document.visibilityState === "visible") {
      try {
        await changed((await get(url)).versions);
      } catch (failed) {
        console.debug(failed);
      }
    }
    setTimeout(look, LOOK_MS);
  };
  setTimeout(look, LOOK_MS);
}
