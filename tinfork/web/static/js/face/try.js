// A face that speaks the stock phrase, or a line of the production, with a chart that is tried.
import { DrawnFace } from "../lib/drawnface.js";
import { speak } from "../lib/spoken.js";

async function json(address) {
  const answer = await fetch(address);
  if (!answer.ok) throw new Error("This cannot be spoken now; reload the page and try again.");
  return answer.json();
}

document.addEventListener("alpine:init", () => {
  window.Alpine.data("tryIt", () => ({
    lines: [],
    speaking: false,
    said: "",
    listed: false,

    async init() {
      try {
        const spoken = await json(this.asked);
        this.put(spoken.chart);
        this.shown(spoken.exposures[0]?.[2]);
      } catch (failed) {
        this.said = failed.message;
      }
    },
    async list() {
      if (this.listed) return;
      this.listed = true;
      try {
        const found = await json(`/productions/${this.$root.dataset.production}/phrases`);
        this.lines = found.lines.map(({ line, text, who }) => ({ line, label: `${who}: ${text}` }));
      } catch (failed) {
        this.said = failed.message;
      }
    },

    get asked() {
      const { chart, character } = this.$root.dataset;
      const asked = new URLSearchParams({ line: this.$refs.line.value });
      if (chart) asked.set("chart", chart);
      if (this.$refs.mood) asked.set("mood", this.$refs.mood.value);
      return `/characters/${this.$refs.character?.value || character}/speak?${asked}`;
    },

    async speak() {
      if (this.speaking) return this.stop();
      this.speaking = true;
      this.said = "";
      const seen = new Set();
      try {
        const spoken = await json(this.asked);
        this.put(spoken.chart);
        const show = (name) => {
          this.shown(name);
          seen.add(name);
        };
        this.halt = await speak(spoken, show, () => this.ended(seen.size));
        if (!this.speaking) this.halt();
      } catch (failed) {
        this.said = failed.message;
        this.speaking = false;
      }
    },
    put(chart) {
      this.face = new DrawnFace(chart);
      this.$refs.face.replaceChildren(this.face.element);
    },
    shown(name) {
      this.face.show(name);
      this.$refs.face.dataset.drawing = name;
    },
    stop() {
      this.speaking = false;
      this.halt?.();
    },
    ended(count) {
      this.speaking = false;
      this.said = `${count} drawings were seen.`;
    },
  }));
});
