// The reading as files, out and in, and exposures of another program laid here.
import { mouthPicture } from "../../lib/face/mirror.ts";
import { fieldOf, panel } from "../../lib/page.ts";
import { sayDone } from "../../lib/saying.ts";
import { isDone } from "../../lib/store/editor.ts";
import { formOf, type Or, sendForm, sentenceOf } from "../../lib/store/requests.ts";
import type { StavePatch } from "../../lib/types.ts";
import type { DockPage } from "./page.ts";

// What a file of exposures holds: its names, each with the drawing it is taken for, and its rows.
interface Sent {
  names: { name: string; times: number; drawing: string }[];
  rows: unknown[];
  told: string;
}

interface Timing extends Sent {
  names: (Sent["names"][number] & { told: string; label: string })[];
  drawings: string[];
}

const NO_TIMING: Timing = { names: [], rows: [], drawings: [], told: "" };

export const filePanel = (page: DockPage) =>
  panel({
    read: false,
    character: "",
    files: [] as { name: string; code: string; url: string; holds: string }[],
    timing: NO_TIMING,

    get listed() {
      return this.read && !this.timing.names.length;
    },
    bring(event: Event) {
      const file = fieldOf(event).files?.[0];
      if (file) bringReading(page, file);
    },
    async lookAtTiming(event: Event) {
      const field = fieldOf(event);
      const file = field.files?.[0];
      if (!file) return;
      const answer = await timingIn(page, file);
      field.value = "";
      if (!answer) return;
      const names = answer.names.map((one) => ({ ...one, told: `${one.times} ${one.times === 1 ? "time" : "times"}`, label: `The drawing that ${one.name} stands for` }));
      this.timing = { ...answer, names, drawings: page.stave().chart.drawings.filter((one) => !one.lent).map((one) => one.name) };
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
      if (answer.notes?.length) sayDone(page.say, answer.notes.join(" "));
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
async function timingIn({ stave, say }: DockPage, file: File): Promise<Sent | null> {
  try {
    const answer = await sendForm<Or<Sent>>(stave().timingUrl, formOf({ file }));
    say(answer.problem ?? "");
    return answer.problem ? null : (answer as Sent);
  } catch (failed) {
    say(sentenceOf(failed));
    return null;
  }
}
