// Mouths of ours in a chosen style, shown as they would be drawn, and speaking the stock phrase.
import { component, inside } from "../lib/page.ts";
import { speak, type Track } from "../lib/spoken.ts";

const [COLUMNS, WIDTH, HEIGHT, LEFT, TOP] = [5, 150, 130, -75, -45];

component("drawing", () => ({
    sample: "",
    left: LEFT,
    top: TOP,
    speaking: false,
    halt: null as (() => void) | null,
    init() {
      this.look();
    },
    look() {
      const asked = new URLSearchParams();
      for (const [name, value] of new FormData(inside<HTMLFormElement>(this.$root, "form"))) {
        if (["style", "lip", "line", "corners", "turned"].includes(name)) asked.set(name, String(value));
      }
      this.sample = `${this.$root.dataset.styles}?${asked}`;
    },
    async speak() {
      if (this.speaking) return this.stop();
      this.speaking = true;
      try {
        const answer = await fetch("/stock.json");
        const track = (await answer.json()) as Track & { names: string[] };
        this.halt = await speak(track, (name) => this.show(track.names.indexOf(name)), () => this.stop());
        if (!this.speaking) this.halt();
      } catch (failed) {
        console.debug(failed);
        this.speaking = false;
      }
    },
    show(at: number) {
      this.left = LEFT - WIDTH * (at % COLUMNS);
      this.top = TOP - HEIGHT * Math.floor(at / COLUMNS);
    },
    stop() {
      this.speaking = false;
      this.halt?.();
    },
  }));
