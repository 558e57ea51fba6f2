// Mouths of ours in a chosen style, shown as they would be drawn, and speaking the stock phrase.
import { speak } from "../lib/spoken.js";

const [COLUMNS, WIDTH, HEIGHT, LEFT, TOP] = [5, 150, 130, -75, -45];

document.addEventListener("alpine:init", () => {
  window.Alpine.data("drawing", () => ({
    sample: "",
    left: LEFT,
    top: TOP,
    speaking: false,
    init() {
      this.look();
    },
    look() {
      const asked = new URLSearchParams();
      for (const [name, value] of new FormData(this.$root.querySelector("form"))) {
        if (["style", "lip", "line", "corners", "turned"].includes(name)) asked.set(name, String(value));
      }
      this.sample = `${this.$root.dataset.styles}?${asked}`;
    },
    async speak() {
      if (this.speaking) return this.stop();
      this.speaking = true;
      try {
        const answer = await fetch("/stock.json");
        const track = await answer.json();
        this.halt = await speak(track, (name) => this.show(track.names.indexOf(name)), () => this.stop());
        if (!this.speaking) this.halt();
      } catch (failed) {
        console.debug(failed);
        this.speaking = false;
      }
    },
    show(at) {
      this.left = LEFT - WIDTH * (at % COLUMNS);
      this.top = TOP - HEIGHT * Math.floor(at / COLUMNS);
    },
    stop() {
      this.speaking = false;
      this.halt?.();
    },
  }));
});
