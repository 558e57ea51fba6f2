// What holds between in and out: a mood, settings, a stretch set apart, a copy for others.
import { panel } from "../../lib/page.ts";
import { isDone } from "../../lib/store/editor.ts";
import { shownAt } from "../../lib/store/exposures.ts";
import type { Span } from "../../lib/types.ts";
import { type DockPage, typed, typedWhole } from "./page.ts";

interface Other {
  id: number;
  name: string;
  label: string;
  to: boolean;
}

const UNBENT: [number, number, number] = [1, 1, 0];

export const rangePanel = (page: DockPage) =>
  panel({
    rangeText: "",
    range: null as Span | null,
    moods: [] as { value: string; text: string }[],
    mood: "",
    own: { hold: "2", lead: "1", step: "1", detail: "0.5" },
    bent: false,
    bend: { wide: "1", tall: "1", lean: "0", frame: 0 },
    others: [] as Other[],

    get noRange() {
      return !this.range || !page.given.mayEdit;
    },
    async inRange(verb: string, what: object = {}) {
      if (!this.range) return {};
      return page.edit(verb, { frame: this.range[0], frames: this.range[1] - this.range[0], ...what });
    },
    // A mood of the character's own drawings, or the drawings of another chart.
    async setMood() {
      const [kind, name] = [this.mood[0], this.mood.slice(1)];
      const { id } = page.stave();
      const answer = await this.inRange("mood", kind === "c" ? { mood: "", chart: Number(name) } : { mood: name });
      if (isDone(answer) && kind === "c") page.store.anew(id);
    },
    setPassage() {
      const own = { hold: typedWhole(this.own.hold), lead: typedWhole(this.own.lead), step: Number(this.own.step), detail: Number(this.own.detail) };
      if (Object.values(own).every(Number.isFinite)) this.inRange("settings of a range", own);
    },
    noPassage() {
      this.inRange("no settings of a range");
    },
    makeStretch() {
      this.inRange("stretch");
    },
    setBend() {
      const [wide, tall, lean] = [this.bend.wide, this.bend.tall, this.bend.lean].map(typed);
      if ([wide, tall, lean].every(Number.isFinite)) page.edit("bend stretch", { frame: this.bend.frame, wide, tall, lean });
    },
    dropStretch() {
      page.edit("drop stretch", { frame: this.bend.frame });
    },
    async copyTo() {
      await this.inRange("copy to", { to: this.others.filter((one) => one.to).map((one) => one.id) });
    },
  });

export type RangePanel = ReturnType<typeof rangePanel>;

export function rangeNow({ state, stave, transport }: DockPage, known: Pick<RangePanel, "others">) {
  const range = transport.span;
  const own = stave();
  const moods = new Set(own.chart.drawings.filter((one) => !one.lent).map((one) => one.mood));
  const chosen = new Map(known.others.map(({ id, to }) => [id, to]));
  return {
    range,
    rangeText: range ? `frames ${range[0] + state.startFrame} to ${range[1] - 1 + state.startFrame}` : "Set in and out first (I, O); what is done here holds between them.",
    moods: [...[...moods].map((mood) => ({ value: `m${mood}`, text: mood })), ...own.otherCharts.map(([number, name]) => ({ value: `c${number}`, text: `drawings of ${name}` }))],
    bent: stretchHere({ state, stave }) !== undefined,
    others: state.staves.filter((one) => one.id !== own.id).map((one): Other => ({ id: one.characterId, name: one.character, label: `Copy to ${one.character}`, to: chosen.get(one.characterId) ?? false })),
  };
}

// The exposure at the playhead where it is one of a stretch set apart.
function stretchHere({ state, stave }: Pick<DockPage, "state" | "stave">) {
  const here = shownAt(stave().exposures, state.frame);
  return here?.own ? here : undefined;
}

// What can be typed over, as it is.
export function rangeFields(page: DockPage) {
  const here = stretchHere(page);
  const [wide, tall, lean] = here?.bend ?? UNBENT;
  return { bend: { wide: String(wide), tall: String(tall), lean: String(lean), frame: here?.frame ?? 0 } };
}
