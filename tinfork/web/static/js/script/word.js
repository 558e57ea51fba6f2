// One word opened: what it could be, in IPA or respelled; hear it, see its mouths, keep it for here or everywhere.
import { ask } from "../lib/edits.js";
import { element } from "../lib/element.js";

export class WordWindow {
  // actions: {here(ipa), reread(affected)}; here is missing where there is no place.
  constructor(dialog, actions) {
    this.dialog = dialog;
    this.actions = actions;
    this.$ = (name) => dialog.querySelector(`[data-${name}]`);
    const on = (name, action) => this.$(name)?.addEventListener("click", action);
    on("respell", () => this.#respell());
    on("play", () => this.play());
    on("keep", () => this.#keep());
    on("here", () => this.#done(actions.here(this.ipa)));
    on("clear", () => this.#done(actions.here("")));
    on("close", () => dialog.close());
    on("reread", () => this.#done(actions.reread(this.affected)));
    this.$("respelled").addEventListener("keydown", (event) => {
      if (event.key !== "Enter") return;
      event.preventDefault();
      this.#respell();
    });
    this.$("ipa").addEventListener("change", () => this.#see());
    for (const key of dialog.querySelectorAll("[data-sign]")) key.addEventListener("click", () => this.#type(key.dataset.sign));
    dialog.addEventListener("close", () => this.#stop());
  }

  get ipa() {
    return this.$("ipa").value.trim();
  }

  async open(text, language, said = "") {
    this.text = text;
    this.language = language;
    this.$("text").textContent = text;
    this.$("respelled").value = "";
    this.$("ipa").value = said;
    this.$("affected").hidden = true;
    this.#say("");
    this.$("mouth").replaceChildren();
    this.$("sounds").textContent = "";
    this.dialog.showModal();
    await this.#candidates({ word: text, language });
  }

  async #ask(values) {
    const response = await fetch(`${this.dialog.dataset.try}?${new URLSearchParams(values)}`);
    const answer = await response.json();
    this.#say(answer.problem ?? "");
    return answer;
  }

  async #candidates(values) {
    const { candidates = [] } = await this.#ask(values);
    this.$("candidates").replaceChildren(...candidates.map((ipa) => this.#candidate(ipa)));
    if (!this.ipa && candidates.length) this.$("ipa").value = candidates[0];
    if (this.ipa) await this.#see();
  }

  #candidate(ipa) {
    const button = element("button", { type: "button", className: "btn btn-sm btn-quiet ipa", textContent: ipa });
    button.addEventListener("click", () => {
      this.$("ipa").value = ipa;
      this.play();
    });
    const item = element("li");
    item.append(button);
    return item;
  }

  async #respell() {
    const respelled = this.$("respelled").value;
    if (!respelled.trim()) return;
    this.$("ipa").value = "";
    await this.#candidates({ respelled, language: this.language });
  }

  #type(sign) {
    const field = this.$("ipa");
    field.setRangeText(sign, field.selectionStart, field.selectionEnd, "end");
    field.focus();
    this.#see();
  }

  async #see() {
    if (!this.ipa) return null;
    const seen = await this.#ask({ ipa: this.ipa });
    if (!seen.frames) return null;
    this.mouths = new Map(Object.entries(seen.pictures).map(([name, svg]) => [name, `data:image/svg+xml;utf8,${encodeURIComponent(svg)}`]));
    this.$("sounds").textContent = seen.sounds.join(" ");
    this.#picture(seen.frames[Math.floor(seen.frames.length / 2)]);
    return seen;
  }

  #picture(name) {
    let image = this.$("mouth").querySelector("img");
    if (!image) {
      image = element("img", { alt: "" });
      this.$("mouth").append(image);
    }
    image.src = this.mouths.get(name);
    this.$("mouth").dataset.drawing = name;
  }

  // The scratch voice and the mouths, as long as each other.
  async play() {
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
      this.turning = requestAnimationFrame(step);
    };
    step();
  }

  #stop() {
    cancelAnimationFrame(this.turning);
  }

  async #keep() {
    const form = new FormData();
    for (const [name, value] of Object.entries({ word: this.text, language: this.language, ipa: this.ipa })) form.append(name, value);
    let answer;
    try {
      answer = await (await ask(this.dialog.dataset.save, { headers: { Accept: "application/json" }, body: form })).json();
    } catch (failed) {
      return this.#say(failed.message);
    }
    this.#say(answer.problem ?? "");
    if (answer.problem) return;
    this.affected = answer.affected;
    const lines = answer.affected.length;
    this.$("affected-text").textContent = `Saved. ${lines} line${lines === 1 ? "" : "s"} of this production ${lines === 1 ? "says" : "say"} it.`;
    this.$("affected").hidden = false;
    this.$("reread").hidden = !lines;
    this.actions.saved?.();
  }

  async #done(working) {
    await working;
    this.dialog.close();
  }

  #say(sentence) {
    this.$("problem").textContent = sentence;
    this.$("problem").hidden = !sentence;
  }
}
