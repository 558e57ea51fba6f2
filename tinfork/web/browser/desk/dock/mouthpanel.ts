// What is done to the chosen exposures by buttons and fields, and the exposures in view as a list.
import { goHome } from "../../lib/focus.ts";
import { panel } from "../../lib/page.ts";
import { easeOn, isDrawn } from "../../lib/store/easing.ts";
import type { Exposure } from "../../lib/types.ts";
import type { Group } from "../choosing.ts";
import { type DockPage, typedWhole } from "./page.ts";

interface SeenRow {
  frame: number;
  text: string;
  pressed: string;
}

// Over no more frames can a seam be eased: such a mouth moves all through.
const MOST_EASED = 12;

export const mouthPanel = (page: DockPage) =>
  panel({
    chosen: 0,
    pinned: false,
    first: "",
    long: "",
    ease: "",
    way: "both",
    border: "squeeze",
    along: "",
    times: "1",
    reach: "12",
    seen: [] as SeenRow[],
    filling: false,

    get fillingText() {
      return String(this.filling);
    },
    get noMouth() {
      return this.chosen === 0;
    },
    get pinText() {
      return this.pinned ? "Unpin" : "Pin";
    },
    mouth: (what: string) => page.mouths.buttons[what](),
    group: (name: Group) => page.choosing.group(name),
    again() {
      page.doing.repeat(typedWhole(this.times) || 0);
    },
    // Where the chosen exposure is to begin and how long it is held, as typed.
    putAt() {
      const [first, long] = [this.first, this.long].map(typedWhole);
      if (Number.isFinite(first) && Number.isFinite(long)) page.doing.span(first - page.state.startFrame, long);
      goHome();
    },
    setEase() {
      const frames = this.way === "through" ? MOST_EASED : typedWhole(this.ease);
      if (Number.isFinite(frames)) page.doing.ease(frames, this.way === "drawing");
      goHome();
    },
    chooseSeen: ({ frame }: SeenRow) => page.choosing.choose([frame], frame),
  });

export function mouthNow(page: DockPage) {
  const { state } = page;
  const lead = leadOf(page);
  return { filling: state.filling, chosen: state.chosen.length, pinned: Boolean(lead?.pinned), seen: state.tab === "list" ? seenRows(page) : [] };
}

const leadOf = ({ state, choosing }: DockPage): Exposure | undefined => (state.chosen.length ? choosing.lead : undefined);

// What can be typed over, as it is.
export function mouthFields(page: DockPage) {
  const lead = leadOf(page);
  if (!lead) return { first: "", long: "", ease: "" };
  const { eases } = page.stave();
  const ease = easeOn(eases, lead.frame);
  const way = ease ? { way: isDrawn(eases, lead.frame) ? "drawing" : ease === MOST_EASED ? "through" : "both" } : {};
  return { first: String(lead.frame + page.state.startFrame), long: String(lead.frames), ease: String(ease), ...way };
}

// What the ribbon shows in view, in words.
function seenRows({ state, stave, transport }: DockPage): SeenRow[] {
  const [first, end] = transport.inView;
  const kind = (one: Exposure) => (one.own ? ", set apart" : one.pinned ? ", pinned" : "");
  return stave()
    .exposures.filter((one) => one.frame < end && one.frame + one.frames > first)
    .map((one) => ({
      frame: one.frame,
      text: `${one.frame + state.startFrame}, ${one.frames} ${one.frames === 1 ? "frame" : "frames"}: ${one.drawing || "nothing"}${kind(one)}`,
      pressed: String(state.chosen.includes(one.frame)),
    }));
}
