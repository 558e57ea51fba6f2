// A face that speaks the stock phrase, or a line of the production, with a chart that is tried.
import { DrawnFace } from "../lib/face/drawnface.ts";
import { component } from "../lib/page.ts";
import { speak, type Track } from "../lib/spoken.ts";
import { sentenceOf } from "../lib/store/requests.ts";
import type { FaceDocument } from "../lib/facetypes.ts";

type Spoken = Track & { chart: FaceDocument };

interface Phrases {
  lines: { line: number; text: string; who: string }[];
}

async function json<T>(address: string): Promise<T> {
  const answer = await fetch(address);
  if (!answer.ok) throw new Error("This cannot be spoken now; reload the page and try again.");
  return answer.json() as Promise<T>;
}

// What is chosen in a list; "" where there is none.
const chosenIn = (list: HTMLElement | undefined): string => (list as HTMLSelectElement | undefined)?.value ?? "";

component("tryIt", () => {
  // Not of the component: Alpine would stand before its own fields.
  let face: DrawnFace | null = null;
  return {
    lines: [] as { line: number; label: string }[],
    halt: null as (() => void) | null,
    speaking: false,
    said: "",
    listed: false,

    async init() {
      try {
        const spoken = await json<Spoken>(this.asked);
        this.put(spoken.chart);
        this.shown(spoken.exposures.at(0)?.[2] ?? "");
      } catch (failed) {
        this.said = sentenceOf(failed);
      }
    },
    async list() {
      if (this.listed) return;
      this.listed = true;
      try {
        const found = await json<Phrases>(`/productions/${this.$root.dataset.production}/phrases`);
        this.lines = found.lines.map(({ line, text, who }) => ({ line, label: `${who}: ${text}` }));
      } catch (failed) {
        this.said = sentenceOf(failed);
      }
    },

    get asked(): string {
      const { chart, character } = this.$root.dataset;
      const asked = new URLSearchParams({ line: chosenIn(this.$refs.line) });
      if (chart) asked.set("chart", chart);
      if (this.$refs.mood) asked.set("mood", chosenIn(this.$refs.mood));
      return `/characters/${chosenIn(this.$refs.character) || character}/speak?${asked}`;
    },

    async speak() {
      if (this.speaking) return this.stop();
      this.speaking = true;
      this.said = "";
      const seen = new Set<string>();
      try {
        const spoken = await json<Spoken>(this.asked);
        this.put(spoken.chart);
        const show = (name: string) => {
          this.shown(name);
          seen.add(name);
        };
        this.halt = await speak(spoken, show, () => this.ended(seen.size));
        if (!this.speaking) this.halt();
      } catch (failed) {
        this.said = sentenceOf(failed);
        this.speaking = false;
      }
    },
    put(chart: FaceDocument) {
      face = new DrawnFace(chart);
      this.$refs.face.replaceChildren(face.element);
    },
    shown(name: string) {
      face?.show(name);
      this.$refs.face.dataset.drawing = name;
    },
    stop() {
      this.speaking = false;
      this.halt?.();
    },
    ended(count: number) {
      this.speaking = false;
      this.said = `${count} drawings were seen.`;
    },
  };
});
