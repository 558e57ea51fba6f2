// The reading as files, out and in, and exposures of another program laid here.
import { mouthPicture } from "../../lib/face/mirror.ts";
import { fieldOf, panel } from "../../lib/page.ts";
import { isDone } from "../../lib/store/editor.ts";
import { formOf, type Or, sendForm, sentenceOf } from "../../lib/store/requests.ts";
import type { StavePatch } from "../../lib/types.ts";
import type { DockPage } from "./page.ts";

// What a file of exposures holds: its names, each with the drawing it is taken for, and its rows.
interface Sent {
  names: { name: string; times: number; drawing: string }[];
  rows: unknown[];
  told: string;
  // The number its frames are counted from, those it might be, and the frame on which the first would lie.
  base: number;
  bases: number[];
  first: number | null;
}

interface Timing extends Sent {
  names: (Sent["names"][number] & { told: string; label: string })[];
  drawings: string[];
  counts: { base: string; text: string }[];
  lands: string;
}

const NO_TIMING: Timing = { names: [], rows: [], drawings: [], told: "", base: 0, bases: [], first: null, counts: [], lands: "" };

export const filePanel = (page: DockPage) =>
  panel({
    read: false,
    character: "",
    files: [] as { name: string; code: string; url: string; holds: string }[],
    timing: NO_TIMING,
    timingFile: null as File | null,
    timingBase: "0",

    get listed() {
      return this.read && !this.timing.names.length;
    },
    bring(event: Event) {
      const file = fieldOf(event).files?.[0];
      if (file) bringReading(page, file);
    },
    async lookAtTiming(event: Event) {
      const field = fieldOf(event);
      this.timingFile = field.files?.[0] ?? null;
      await this.lookAgain();
      field.value = "";
    },
    // base: the number that was chosen for its frames to be counted from.
    async lookAgain(base?: string) {
      if (!this.timingFile) return;
      const answer = await timingIn(page, this.timingFile, base);
      if (!answer) return;
      const { startFrame } = page.state;
      const names = answer.names.map((one) => ({ ...one, told: `${one.times} ${one.times === 1 ? "time" : "times"}`, label: `The drawing that ${one.name} stands for` }));
      const counts = answer.bases.map((one) => ({ base: String(one), text: one === startFrame ? `${one}, as the scene's` : String(one) }));
      const lands = answer.first === null ? "" : `the first lies on frame ${answer.first}`;
      this.timing = { ...answer, names, counts, lands, drawings: page.stave().chart.drawings.filter((one) => !one.lent).map((one) => one.name) };
      this.timingBase = String(answer.base);
    },
    countFrom() {
      this.lookAgain(this.timingBase);
    },
    // What a name was matched to, to be seen.
    pictured(name: string) {
      const drawing = page.stave().chart.drawings.find((one) => one.name === name);
      this.$el.replaceChildren(...(drawing ? [mouthPicture(drawing)] : []));
    },
    async layTiming() {
      const names = Object.fromEntries(this.timing.names.map((one) => [one.name, one.drawing]));
      const answer = await page.edit("lay timing", { rows: this.timing.rows, names });
      if (isDone(answer)) this.leaveTiming();
    },
    leaveTiming() {
      this.timing = NO_TIMING;
    },
  });

export function fileNow({ given, stave }: DockPage) {
  const own = stave();
  return {
    read: own.read,
    character: own.character,
    files: given.formats.map(([name, code, loses]) => ({ name, code, url: own.outUrl.replace("KIND", code), holds: loses ? `does not hold ${loses}` : "holds everything, pins too" })),
  };
}

// A reading from elsewhere takes the place of the stave's own; it can be undone.
async function bringReading({ store, stave, say }: DockPage, file: File): Promise<void> {
  const form = formOf({ file, version: stave().version });
  const answer = await store.editor.send<StavePatch>(stave().bringUrl, form, store.take);
  if (answer.notes?.length) say(answer.notes.join(" "));
}

// What a file of another program's exposures holds, or null where it is refused.
async function timingIn({ stave, say }: DockPage, file: File, base?: string): Promise<Sent | null> {
  try {
    const answer = await sendForm<Or<Sent>>(stave().timingUrl, formOf(base === undefined ? { file } : { file, base }));
    say(answer.problem ?? "");
    return answer.problem ? null : (answer as Sent);
  } catch (failed) {
    say(sentenceOf(failed));
    return null;
  }
}
