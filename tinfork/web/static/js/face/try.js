// A face that speaks the stock phrase, or a line of the production, with a chart that is tried.
import { shownOn } from "./lying.js";

const SVG = "http://www.w3.org/2000/svg";

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
      try {
        const spoken = await json(this.asked);
        this.put(spoken.chart);
        this.audio = new Audio(spoken.sound);
        this.audio.addEventListener("ended", () => this.stop());
        await this.audio.play();
        this.seen = new Set();
        this.follow(spoken);
      } catch (failed) {
        this.said = failed.message;
        this.stop();
      }
    },
    put(chart) {
      const svg = document.createElementNS(SVG, "svg");
      svg.setAttribute("viewBox", chart.view.join(" "));
      const mouths = chart.drawings.map((d, at) => `<g data-mouth="${at}" display="none" transform="${chart.mouth}">${d.svg}</g>`);
      svg.innerHTML = chart.head + mouths.join("") + chart.front;
      this.rows = new Map(chart.drawings.map((d, at) => [d.name, at]));
      this.mouths = [...svg.querySelectorAll("[data-mouth]")];
      this.$refs.face.replaceChildren(svg);
    },
    follow(spoken) {
      if (!this.speaking) return;
      const name = shownOn(spoken.exposures, Math.floor(this.audio.currentTime * spoken.fps));
      this.shown(name);
      this.seen.add(name);
      requestAnimationFrame(() => this.follow(spoken));
    },
    shown(name) {
      const row = this.rows.get(name);
      this.mouths.forEach((mouth, at) => mouth.setAttribute("display", at === row ? "inline" : "none"));
      this.$refs.face.dataset.drawing = name;
    },
    stop() {
      this.audio?.pause();
      this.speaking = false;
      if (this.seen?.size) this.said = `${this.seen.size} drawings were seen.`;
    },
  }));
});
