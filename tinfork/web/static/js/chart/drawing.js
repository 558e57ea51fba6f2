// Mouths of ours in a chosen style, shown as they would be drawn, and speaking the stock phrase.
import { shownOn } from "../face/lying.js";

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
      const answer = await fetch("/stock.json");
      if (!answer.ok) return this.stop();
      const track = await answer.json();
      this.audio = new Audio("/stock.flac");
      this.audio.addEventListener("ended", () => this.stop());
      try {
        await this.audio.play();
        this.follow(track);
      } catch (failed) {
        console.debug(failed);
        this.stop();
      }
    },
    follow({ fps, exposures, names }) {
      if (!this.speaking) return;
      const at = names.indexOf(shownOn(exposures, Math.floor(this.audio.currentTime * fps)));
      this.left = LEFT - WIDTH * (at % COLUMNS);
      this.top = TOP - HEIGHT * Math.floor(at / COLUMNS);
      requestAnimationFrame(() => this.follow({ fps, exposures, names }));
    },
    stop() {
      this.audio?.pause();
      this.speaking = false;
    },
  }));
});
