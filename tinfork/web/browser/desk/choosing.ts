// Which exposures of the active stave are chosen.
import { fromTo, placeAt, seenOn, showing, shownAt, still, toggled, within } from "../lib/store/exposures.ts";
import { inToOut } from "../lib/time/ruler.ts";
import type { Exposure, Span } from "../lib/types.ts";
import type { Desk } from "./state.ts";

export const NONE_CHOSEN = "Select an exposure first (B, N, or press one on the ribbon).";
export const NO_RANGE = "Set in and out first (I, O).";

export type Group = "all" | "range" | "word" | "line" | "same" | "before" | "after" | "near";

const LACKING: Partial<Record<Group, string>> = {
  range: NO_RANGE,
  word: "There is no word at the playhead.",
  line: "There is no line at the playhead.",
  same: NONE_CHOSEN,
};

export class Choosing {
  readonly desk: Desk;
  readonly reach: () => number;
  // How often something was chosen: what came of an edit is chosen only when nothing else was meanwhile.
  times = 0;

  // reach(): frames around the playhead that are near.
  constructor(desk: Desk, reach: () => number) {
    this.desk = desk;
    this.reach = reach;
  }

  get exposures(): Exposure[] {
    return this.desk.stave().exposures;
  }

  get range(): Span | null {
    return inToOut(this.desk.state);
  }

  on(frame: number | null): Exposure | undefined {
    return frame === null ? undefined : shownAt(this.exposures, frame);
  }

  // The exposure that was chosen last.
  get lead(): Exposure | undefined {
    return this.on(this.desk.state.lead);
  }

  // What a drawing is for: that, or what is seen at the playhead.
  get judged(): Exposure | undefined {
    const { chosen, frame } = this.desk.state;
    return (chosen.length ? this.lead : undefined) ?? this.on(frame);
  }

  get ordered(): number[] {
    return this.desk.state.chosen.toSorted((a, b) => a - b);
  }

  // The chosen exposures, in their order.
  get own(): Exposure[] {
    return seenOn(this.exposures, this.ordered);
  }

  // What a verb means: the chosen exposures, else the one at the playhead.
  get meant(): Exposure[] {
    const here = this.on(this.desk.state.frame);
    return this.desk.state.chosen.length ? this.own : here ? [here] : [];
  }

  // anchor: where a row of them that is made longer or shorter begins.
  choose(frames: number[], lead: number | null = frames.at(-1) ?? null, seek = true, anchor: number | null = null): void {
    const { state, transport } = this.desk;
    this.times += 1;
    Object.assign(state, { chosen: frames, lead, anchor });
    if (frames.length) {
      state.word = null;
      if (state.tab === "word") state.tab = "mouths";
    }
    if (seek && lead !== null) transport.go(lead, false);
    this.desk.showSelection();
  }

  chooseOn(frame: number, seek = true): void {
    const own = this.on(frame);
    if (own) this.choose([own.frame], own.frame, seek);
  }

  // What was chosen, in the exposures as they are now.
  kept(): void {
    const { state } = this.desk;
    state.chosen = still(this.exposures, state.chosen);
    state.lead = this.lead?.frame ?? null;
  }

  toggle(frame: number): void {
    this.choose(toggled(this.desk.state.chosen, frame), frame, false);
  }

  // All from one frame to another.
  reachTo(from: number, to: number): void {
    this.choose(fromTo(this.exposures, from, Math.max(0, Math.min(to, this.desk.store.frames - 1))), from, false);
  }

  beside(step: number, more = false): void {
    const { state } = this.desk;
    const from = state.chosen.length && state.lead !== null ? state.lead : state.frame;
    const next = this.exposures[placeAt(this.exposures, from) + step] as Exposure | undefined;
    if (!next) return;
    if (!more) return this.choose([next.frame]);
    const anchor = state.anchor ?? from;
    this.choose(fromTo(this.exposures, anchor, next.frame), next.frame, true, anchor);
  }

  // The exposures of the word or the line at the playhead, from a frame before it on.
  #spoken(what: "word" | "line"): number[] | null {
    const { state, fps } = this.desk;
    const time = (state.frame + 0.5) / fps;
    const line = this.desk.stave().lines.find((one) => one.start <= time && time < one.end);
    const found = what === "line" ? line : line?.words.find((one) => one.said && one.start <= time && time < one.end);
    return found ? within(this.exposures, Math.floor(found.start * fps) - 1, Math.ceil(found.end * fps)) : null;
  }

  #group(name: Group): number[] | null {
    const { frame } = this.desk.state;
    const { range, judged, exposures } = this;
    if (name === "word" || name === "line") return this.#spoken(name);
    if (name === "range") return range && within(exposures, ...range);
    if (name === "same") return judged ? showing(exposures, judged.drawing) : null;
    if (name === "before") return within(exposures, 0, frame + 1);
    if (name === "after") return within(exposures, frame, Infinity);
    if (name === "near") return within(exposures, frame - this.reach(), frame + this.reach() + 1);
    return within(exposures, 0, Infinity);
  }

  group(name: Group): void {
    const frames = this.#group(name);
    if (!frames?.length) return this.desk.say(LACKING[name] ?? "There is no exposure here.");
    const { lead } = this.desk.state;
    this.choose(frames, lead !== null && frames.includes(lead) ? lead : frames[0], false);
  }
}
