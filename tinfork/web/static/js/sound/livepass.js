// Who speaks when. In a live pass, holding a character's key while it plays marks them; without a script, voices can
// be grouped by how they sound.
import { whoIn } from "../lib/cast.js";

export class LivePass {
  constructor(place, page) {
    this.place = place;
    this.page = page;
    this.$ = (name) => place.querySelector(`[data-${name}]`);
    this.on = false;
    this.$("pass").addEventListener("click", () => this.toggle());
    this.$("group").addEventListener("click", () => this.#group());
    this.$("remove-mark").addEventListener("click", () => this.remove());
    this.$("mark").addEventListener("click", () => this.#mark());
    this.$("who").addEventListener("change", () => this.chosen && this.page.edit("give-mark", { mark: this.chosen.id, character: Number(this.$("who").value) }));
    if (!page.given.mayEdit) for (const control of place.querySelectorAll("button")) control.disabled = true;
  }

  async toggle() {
    const { view, transport } = this.page;
    if (this.on) {
      if (transport.player.playing) await transport.toggle();
      await this.#finish();
      return;
    }
    this.on = true;
    this.first = view.time;
    view.held = new Map();
    this.$("pass").textContent = "End the pass";
    this.$("pass").setAttribute("aria-pressed", "true");
    this.$("say").textContent = `Hold ${this.#keys()} while they speak; let go when they stop.`;
    if (!transport.player.playing) await transport.toggle();
  }

  #keys() {
    return this.page.view.cast.filter((one) => one.key).map((one) => `${one.key} for ${one.name}`).join(", ");
  }

  // A character's key while a pass is on: true when it was one.
  key(event) {
    const { view } = this.page;
    const one = this.on && view.cast.find((c) => c.key && c.key === event.key);
    if (!one || event.ctrlKey || event.altKey || event.metaKey) return false;
    const spans = view.held.get(one.id) ?? [];
    if (!spans.length || spans.at(-1)[1] !== null) view.held.set(one.id, [...spans, [view.time, null]]);
    return true;
  }

  released(event) {
    const { view } = this.page;
    const one = this.on && view.cast.find((c) => c.key && c.key === event.key);
    const last = one && view.held.get(one.id)?.at(-1);
    if (last && last[1] === null) last[1] = view.time;
  }

  // When the sound has stopped, the pass is over.
  moved(playing) {
    if (!this.on || playing) this.wasPlaying = playing;
    else if (this.wasPlaying) this.#finish();
  }

  async #finish() {
    if (!this.on) return;
    const { view, edit } = this.page;
    this.on = false;
    this.wasPlaying = false;
    const end = view.time;
    const held = view.held;
    view.held = null;
    this.$("pass").textContent = "Start a live pass";
    this.$("pass").setAttribute("aria-pressed", "false");
    this.$("say").textContent = "";
    for (const [character, spans] of held) {
      const closed = spans.map(([from, to]) => [from, to ?? end]);
      await edit("pass", { character, held: closed, first: this.first, end });
    }
    this.page.draw();
  }

  choose(mark) {
    this.chosen = mark;
    this.page.view.mark = mark.id;
    const one = this.page.view.cast.find((c) => c.id === mark.character);
    this.$("say").textContent = `${one.name}, ${mark.start.toFixed(2)} to ${mark.end.toFixed(2)} s. Drag its edges to correct it.`;
    this.$("who").value = String(mark.character);
    this.$("remove-mark").hidden = false;
  }

  remove() {
    const { id } = this.chosen;
    this.letGo();
    return this.page.edit("remove-mark", { mark: id });
  }

  letGo() {
    this.chosen = null;
    this.page.view.mark = null;
    this.$("say").textContent = "";
    this.$("remove-mark").hidden = true;
  }

  // In to out, as spoken by whom the list says.
  async #mark() {
    const { view, edit, say } = this.page;
    if (view.in === null || view.out === null) return say("Set in and out first: with I and O, or the buttons above. Or draw a mark with the mouse, beside a name.");
    const who = await whoIn(this.$("who"));
    if (who) edit("add-mark", { character: Number(who), start: view.in / view.fps, end: (view.out + 1) / view.fps });
  }

  async #group() {
    const { page } = this;
    const form = new FormData();
    form.append("count", this.$("count").value);
    const answer = await page.editor.send(page.url, form, async () => {});
    if (answer.voices) page.suggest(answer.voices);
  }
}
