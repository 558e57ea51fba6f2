// What the playhead is on, and what the exposure there is for; why a sound is not shown is asked when the playhead rests.
import { element } from "../lib/page.ts";
import { shownAt } from "../lib/store/exposures.ts";
import { get } from "../lib/store/requests.ts";
import type { ChartDocument } from "../lib/facetypes.ts";
import type { Exposure } from "../lib/types.ts";
import type { Desk } from "./state.ts";

const REST_MS = 120;

// IPA, and why it is not simply shown, "" where it is
export type Reason = [string, string];

export class Why {
  readonly desk: Desk;
  readonly place: HTMLElement;
  #explained = "";
  #known = new Map<string, Reason[]>();
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(desk: Desk, place: HTMLElement) {
    this.desk = desk;
    this.place = place;
  }

  show(): void {
    const { state, stave, transport } = this.desk;
    const { id, version, exposures, chart } = stave();
    const exposure = shownAt(exposures, state.frame);
    const place = `${id}.${version}.${exposure?.frame}`;
    const reasons = this.#known.get(place);
    const key = `${place}.${state.frame}.${Boolean(reasons)}`;
    if (key === this.#explained) return;
    this.#explained = key;
    if (exposure && !exposure.pinned && !reasons && !transport.player.playing) this.#askFor(place);
    const lines = [this.#sound(), exposure ? reasonOf(exposure, chart, reasons) : ""].filter(Boolean);
    this.place.replaceChildren(...lines.map((textContent) => element("div", { textContent, className: "ipa" })));
  }

  #askFor(place: string) {
    clearTimeout(this.#timer);
    const url = `${this.desk.stave().whyUrl}${this.desk.state.frame}`;
    this.#timer = setTimeout(async () => {
      try {
        this.#known.set(place, (await get<{ sounds: Reason[] }>(url)).sounds);
        this.show();
      } catch (failed) {
        console.debug(failed);
      }
    }, REST_MS);
  }

  // What is heard at the playhead.
  #sound(): string {
    const time = (this.desk.state.frame + 0.5) / this.desk.fps;
    const { lines, read } = this.desk.stave();
    for (const word of lines.filter((line) => line.start <= time && time <= line.end).flatMap((line) => line.words)) {
      if (word.extra.some(([start, end]) => start <= time && time < end)) return "speech that is not written";
      const sound = word.sounds.find((s) => s.start <= time && time < s.end);
      if (sound) return `“${word.text}” · /${sound.ipa}/ · ${Math.round(sound.confidence * 100)}% sure${word.guessed ? " · pronunciation guessed" : ""}`;
    }
    return read ? "silence" : "";
  }
}

// What an exposure is there for; sounds: undefined as long as nobody knows.
export function reasonOf(exposure: Exposure, chart: Pick<ChartDocument, "drawings">, sounds: readonly Reason[] | undefined): string {
  const drawing = chart.drawings.find((d) => d.name === exposure.drawing);
  const length = `${drawing ? `${exposure.drawing} (${drawing.meaning})` : "nothing"}, held ${exposure.frames}`;
  if (exposure.own) return `${length}: set apart from the plan.`;
  if (exposure.pinned) return `${length}: a person pinned it.`;
  if (!sounds) return `${length}.`;
  if (!sounds.length) return `${length}: nobody speaks here.`;
  const slashed = (own: readonly Reason[]) => own.map(([ipa]) => `/${ipa}/`).join(" ");
  const shown = sounds.filter(([, reason]) => !reason);
  const reasons = [...new Set(sounds.map(([, reason]) => reason))].filter(Boolean);
  const why = reasons.map((reason) => ` ${slashed(sounds.filter(([, own]) => own === reason))}: ${reason[0].toLowerCase()}${reason.slice(1)}`);
  return `${length}${shown.length ? ` for ${slashed(shown)}` : ""}.${why.join("")}`;
}
