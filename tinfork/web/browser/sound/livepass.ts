// Who speaks when. In a live pass, holding a character's key while it plays marks them; without a script, voices can
// be grouped by how they sound.
import { whoIn } from "../lib/cast.ts";
import { inside } from "../lib/page.ts";
import { formOf } from "../lib/store/requests.ts";
import type { Mark } from "../lib/types.ts";
import type { Room, VoiceSpan } from "./state.ts";

export class LivePass {
  readonly place: HTMLElement;
  readonly page: Room;
  // Where voices are told apart.
  readonly url: string;
  // Shows what was told apart.
  readonly suggest: (spans: VoiceSpan[]) => void;
  chosen: Mark | null = null;
  on = false;
  #first = 0;
  #wasPlaying = false;
  readonly #who: HTMLSelectElement;

  constructor(place: HTMLElement, page: Room, url: string, suggest: (spans: VoiceSpan[]) => void) {
    this.place = place;
    this.page = page;
    this.url = url;
    this.suggest = suggest;
    this.#who = inside(place, "[data-who]");
    this.$("pass").addEventListener("click", () => this.toggle());
    this.$("group").addEventListener("click", () => this.#group());
    this.$("remove-mark").addEventListener("click", () => this.remove());
    this.$("mark").addEventListener("click", () => this.#mark());
    this.#who.addEventListener("change", () => this.chosen && this.page.edit("give-mark", { mark: this.chosen.id, character: Number(this.#who.value) }));
    if (!page.given.mayEdit) for (const control of place.querySelectorAll("button")) control.disabled = true;
  }

  $(name: string): HTMLElement {
    return inside(this.place, `[data-${name}]`);
  }

  async toggle(): Promise<void> {
    const { view, transport } = this.page;
    if (this.on) {
      if (transport.player.playing) await transport.toggle();
      await this.#finish();
      return;
    }
    this.on = true;
    this.#first = view.time;
    view.held = new Map();
    this.$("pass").textContent = "End the pass";
    this.$("pass").setAttribute("aria-pressed", "true");
    this.$("say").textContent = `Hold ${this.#keys()} while they speak; let go when they stop.`;
    if (!transport.player.playing) await transport.toggle();
  }

  #keys(): string {
    return this.page.view.cast.filter((one) => one.key).map((one) => `${one.key} for ${one.name}`).join(", ");
  }

  // A character's key while a pass is on: true when it was one.
  key(event: KeyboardEvent): boolean {
    const { view } = this.page;
    const one = this.#meant(event);
    if (!one || !view.held || event.ctrlKey || event.altKey || event.metaKey) return false;
    const spans = view.held.get(one.id) ?? [];
    if (spans.at(-1)?.[1] !== null) view.held.set(one.id, [...spans, [view.time, null]]);
    return true;
  }

  // In a pass, whom a key means.
  #meant({ key }: KeyboardEvent) {
    return this.on ? this.page.view.cast.find((one) => one.key && one.key === key) : undefined;
  }

  released(event: KeyboardEvent): void {
    const { view } = this.page;
    const one = this.#meant(event);
    const last = one && view.held?.get(one.id)?.at(-1);
    if (last && last[1] === null) last[1] = view.time;
  }

  // When the sound has stopped, the pass is over.
  moved(playing: boolean): void {
    if (!this.on || playing) this.#wasPlaying = playing;
    else if (this.#wasPlaying) this.#finish();
  }

  async #finish() {
    if (!this.on) return;
    const { view, edit } = this.page;
    this.on = false;
    this.#wasPlaying = false;
    const end = view.time;
    const held = view.held ?? [];
    view.held = null;
    this.$("pass").textContent = "Start a live pass";
    this.$("pass").setAttribute("aria-pressed", "false");
    this.$("say").textContent = "";
    for (const [character, spans] of held) {
      const closed = spans.map(([from, to]) => [from, to ?? end]);
      await edit("pass", { character, held: closed, first: this.#first, end });
    }
    this.page.draw();
  }

  choose(mark: Mark): void {
    this.chosen = mark;
    this.page.open("voices");
    this.page.view.mark = mark.id;
    const one = this.page.view.cast.find((c) => c.id === mark.character);
    const { fps, startFrame } = this.page.view;
    const [first, last] = [Math.round(mark.start * fps), Math.max(Math.round(mark.start * fps), Math.round(mark.end * fps) - 1)];
    this.$("say").textContent = `${one?.name ?? "Somebody"}, frame ${first + startFrame} to ${last + startFrame} (${mark.start.toFixed(2)} to ${mark.end.toFixed(2)} s). Drag its edges to correct it, or drag it to another's row to give it away.`;
    this.#who.value = String(mark.character);
    this.$("remove-mark").hidden = false;
  }

  remove(): void {
    const mark = this.chosen?.id;
    this.letGo();
    if (mark !== undefined) this.page.edit("remove-mark", { mark });
  }

  letGo(): void {
    this.chosen = null;
    this.page.view.mark = null;
    this.$("say").textContent = "";
    this.$("remove-mark").hidden = true;
  }

  // In to out, as spoken by whom the list says.
  async #mark() {
    const { view, edit, say, transport } = this.page;
    if (!transport.span) return say("Set in and out first: with I and O, or the buttons above. Or draw a mark with the mouse, beside a name.");
    const [first, end] = transport.span;
    const who = await whoIn(this.#who);
    if (who) edit("add-mark", { character: Number(who), start: first / view.fps, end: end / view.fps });
  }

  async #group() {
    const form = formOf({ count: inside<HTMLInputElement>(this.place, "[data-count]").value });
    const { voices } = await this.page.editor.send(this.url, form, () => {});
    if (voices) this.suggest(voices as VoiceSpan[]);
  }
}
