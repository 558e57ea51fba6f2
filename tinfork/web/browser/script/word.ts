// One word opened: what it could be, in IPA or respelled; hear it, see its mouths, keep it for here or everywhere.
import { element, inside } from "../lib/page.ts";
import { ask, formOf, type Or, sentenceOf } from "../lib/store/requests.ts";

// A line that says the word.
export interface Use {
  scene: number;
  line: number;
}

// here(ipa): it is said so in this place.
interface Actions {
  here(ipa: string): unknown;
  reread(affected: readonly Use[]): unknown;
  saved(): void;
}

// What a try shows: what it could be in IPA; or its sounds, and for each frame the name of a picture.
interface Tried {
  problem?: string;
  candidates?: string[];
  sounds?: string[];
  frames?: string[];
  fps?: number;
  pictures?: Record<string, string>;
}

interface Seen {
  frames: string[];
  fps: number;
}

export class WordWindow {
  readonly dialog: HTMLDialogElement;
  readonly actions: Actions;
  // The lines that say it, once it was kept.
  affected: Use[] | null = null;
  text = "";
  language = "";
  #mouths = new Map<string, string>();
  #turning = 0;
  readonly #ipa: HTMLInputElement;
  readonly #respelled: HTMLInputElement;

  constructor(dialog: HTMLDialogElement, actions: Actions) {
    this.dialog = dialog;
    this.actions = actions;
    this.#ipa = inside(dialog, "[data-ipa]");
    this.#respelled = inside(dialog, "[data-respelled]");
    const on = (name: string, action: () => unknown) => dialog.querySelector(`[data-${name}]`)?.addEventListener("click", () => action());
    on("respell", () => this.#respell());
    on("play", () => this.play());
    on("keep", () => this.#keep());
    on("here", () => this.#done(actions.here(this.ipa)));
    on("clear", () => this.#done(actions.here("")));
    on("close", () => dialog.close());
    on("reread", () => this.#done(actions.reread(this.affected ?? [])));
    this.#respelled.addEventListener("keydown", (event) => {
      if (event.key !== "Enter") return;
      event.preventDefault();
      this.#respell();
    });
    this.#ipa.addEventListener("change", () => this.#see());
    for (const key of dialog.querySelectorAll<HTMLElement>("[data-sign]")) key.addEventListener("click", () => this.#type(key.dataset.sign ?? ""));
    dialog.addEventListener("close", () => this.#stop());
  }

  $(name: string): HTMLElement {
    return inside(this.dialog, `[data-${name}]`);
  }

  get ipa(): string {
    return this.#ipa.value.trim();
  }

  async open(text: string, language: string, said = ""): Promise<void> {
    this.text = text;
    this.language = language;
    this.$("text").textContent = text;
    this.#respelled.value = "";
    this.#ipa.value = said;
    this.$("affected").hidden = true;
    this.#say("");
    this.$("mouth").replaceChildren();
    this.$("sounds").textContent = "";
    this.dialog.showModal();
    await this.#candidates({ word: text, language });
  }

  async #ask(values: Record<string, string>): Promise<Tried> {
    const response = await fetch(`${this.dialog.dataset.try}?${new URLSearchParams(values)}`);
    const answer = (await response.json()) as Tried;
    this.#say(answer.problem ?? "");
    return answer;
  }

  async #candidates(values: Record<string, string>) {
    const { candidates = [] } = await this.#ask(values);
    this.$("candidates").replaceChildren(...candidates.map((ipa) => this.#candidate(ipa)));
    if (!this.ipa && candidates.length) this.#ipa.value = candidates[0];
    if (this.ipa) await this.#see();
  }

  #candidate(ipa: string): HTMLElement {
    const button = element("button", { type: "button", className: "btn btn-sm btn-quiet ipa", textContent: ipa });
    button.addEventListener("click", () => {
      this.#ipa.value = ipa;
      this.play();
    });
    const item = element("li");
    item.append(button);
    return item;
  }

  async #respell() {
    const respelled = this.#respelled.value;
    if (!respelled.trim()) return;
    this.#ipa.value = "";
    await this.#candidates({ respelled, language: this.language });
  }

  #type(sign: string) {
    const field = this.#ipa;
    field.setRangeText(sign, field.selectionStart ?? 0, field.selectionEnd ?? 0, "end");
    field.focus();
    this.#see();
  }

  async #see(): Promise<Seen | null> {
    if (!this.ipa) return null;
    const { frames, pictures = {}, sounds = [], fps = 24 } = await this.#ask({ ipa: this.ipa });
    if (!frames) return null;
    this.#mouths = new Map(Object.entries(pictures).map(([name, svg]) => [name, `data:image/svg+xml;utf8,${encodeURIComponent(svg)}`]));
    this.$("sounds").textContent = sounds.join(" ");
    this.#picture(frames[Math.floor(frames.length / 2)]);
    return { frames, fps };
  }

  #picture(name: string) {
    const mouth = this.$("mouth");
    let image = mouth.querySelector("img");
    if (!image) {
      image = element("img", { alt: "" });
      mouth.append(image);
    }
    image.src = this.#mouths.get(name) ?? "";
    mouth.dataset.drawing = name;
  }

  // The scratch voice and the mouths, as long as each other.
  async play(): Promise<void> {
    this.#stop();
    const seen = await this.#see();
    if (!seen) return;
    const audio = new Audio(`${this.dialog.dataset.say}?${new URLSearchParams({ ipa: this.ipa })}`);
    await audio.play().catch(() => {});
    const begun = performance.now();
    const seconds = Number.isFinite(audio.duration) ? audio.duration : seen.frames.length / seen.fps;
    const step = () => {
      const frame = Math.floor(((performance.now() - begun) / 1000 / seconds) * seen.frames.length);
      if (frame >= seen.frames.length) return;
      this.#picture(seen.frames[frame]);
      this.#turning = requestAnimationFrame(step);
    };
    step();
  }

  #stop() {
    cancelAnimationFrame(this.#turning);
  }

  async #keep() {
    const form = formOf({ word: this.text, language: this.language, ipa: this.ipa });
    let answer: Or<{ affected: Use[] }>;
    try {
      answer = await (await ask(this.dialog.dataset.save ?? "", { headers: { Accept: "application/json" }, body: form })).json();
    } catch (failed) {
      return this.#say(sentenceOf(failed));
    }
    this.#say(answer.problem ?? "");
    if (answer.problem) return;
    this.affected = answer.affected ?? [];
    const lines = this.affected.length;
    this.$("affected-text").textContent = `Saved. ${lines} line${lines === 1 ? "" : "s"} of this production ${lines === 1 ? "says" : "say"} it.`;
    this.$("affected").hidden = false;
    this.$("reread").hidden = !lines;
    this.actions.saved();
  }

  async #done(working: unknown) {
    await working;
    this.dialog.close();
  }

  #say(sentence: string) {
    this.$("problem").textContent = sentence;
    this.$("problem").hidden = !sentence;
  }
}
