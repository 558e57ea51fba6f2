// The chosen part of the face: its dials, its drawings, where eyes look, and what of its lane is chosen.
import { fieldOf, panel } from "../lib/page.ts";
import { FACING } from "../lib/face/turning.ts";
import { scaleOf } from "./lanes.ts";
import type { Acting, Chosen, SavedPose } from "./state.ts";
import type { Gesture } from "../lib/store/actedlane.ts";
import { post, sentenceOf } from "../lib/store/requests.ts";

const WAYS: [string, string, number, number][] = [
  ["left", "←", -1, 0],
  ["right", "→", 1, 0],
  ["up", "↑", 0, -1],
  ["down", "↓", 0, 1],
  ["up left", "↖", -0.7, -0.7],
  ["up right", "↗", 0.7, -0.7],
];

interface Dial {
  name: string;
  unit: string;
  least: number;
  most: number;
  step: number;
  value: number;
  mark: string;
  label: string;
  numberLabel: string;
}

const rounded = (value: number) => Number(value.toFixed(3));
const numberIn = (event: Event) => Number.parseFloat(fieldOf(event).value);

export const partPanel = (acting: Acting, refresh: () => void) => {
  const { state, edit, say } = acting;
  return panel({
    dials: [] as Dial[],
    drawings: [] as { name: string; label: string; key: string }[],
    parts: state.parts,
    chosenText: "",
    hasKey: false,
    hasShow: false,
    hasGesture: false,
    gestureAmount: 1,
    looks: false,
    ways: WAYS.map(([name, sign, x, y]) => ({ name, sign, x, y, label: `Look ${name}` })),
    headToo: true,
    lead: 0,
    alone: false,
    others: [] as { id: number; name: string }[],
    poses: [] as (SavedPose & { title: string; away: string })[],
    poseName: "",
    poseAmount: "1",
    poseMirrored: false,

    get poseShare() {
      return `${Math.round(Number(this.poseAmount) * 100)}%`;
    },
    chooseDial(name: string) {
      state.dial = name;
      state.chosen = null;
      refresh();
      acting.draw();
    },
    turn(dial: string, event: Event) {
      state.dial = dial;
      acting.preview({ dials: { ...acting.lane().pose(state.frame).dials, [dial]: numberIn(event) } });
    },
    setDial(dial: string, event: Event) {
      state.dial = dial;
      const value = numberIn(event);
      // By how much gestures turn it beside its keys.
      const added = acting.lane().value(dial, state.frame) - acting.lane().keyed(dial, state.frame);
      if (Number.isFinite(value)) edit("key", { part: state.part, dial, frame: state.frame, value: rounded(value - added) });
    },
    show: (drawing: string) => acting.showAt(drawing),
    onShow(verb: string) {
      const at = state.chosen?.frame ?? state.frame;
      const own: Record<string, object> = { split: { frame: state.frame }, "hold on": { frame: at }, free: { at: [at] }, remove: { at: [at] } };
      edit(verb, { part: state.part, ...own[verb] });
    },
    ease(ease: string) {
      const { chosen } = state;
      if (chosen?.kind === "key") edit("ease", { part: state.part, dial: chosen.dial, frames: [chosen.frame], ease });
    },
    remove: () => acting.removeChosen(),
    onGesture(verb: string, what: object = {}) {
      const { chosen } = state;
      if (chosen?.kind === "gesture") edit(verb, { part: state.part, ids: [chosen.id], ...what });
    },
    gestureTo(event: Event) {
      this.onGesture("gestures", { amount: numberIn(event) });
    },
    gestureKept() {
      this.onGesture("gestures");
    },
    asKeys() {
      this.onGesture("as keys");
    },
    look(x: number, y: number) {
      acting.look(x, y, this.headToo);
    },
    leadTo(event: Event) {
      const frames = numberIn(event);
      if (Number.isFinite(frames)) edit("lane", { part: state.part, lead: Math.round(frames) });
    },
    aloneTo: (event: Event) => edit("lane", { part: state.part, alone: fieldOf(event).checked }),
    clearRange() {
      const span = acting.span();
      if (span) edit("drop keys", { part: state.part, first: span[0], end: span[1] });
      else say("Set in and out around what is to be cleared first (I and O).");
    },
    copyFrom(event: Event) {
      const source = Number(fieldOf(event).value);
      const span = acting.span();
      fieldOf(event).value = "";
      if (!source) return;
      if (span) edit("paste", { source, first: span[0], end: span[1], frame: span[0], parts: [] });
      else say("Set in and out around what is to be copied first (I and O).");
    },

    async keepPose() {
      if (!this.poseName.trim()) return say("Give the pose a name first.");
      await acting.posesAsked({ name: this.poseName, frame: state.frame });
      this.poseName = "";
    },
    layPose(pose: number) {
      edit("pose", { pose, frame: state.frame, amount: Number(this.poseAmount), mirrored: this.poseMirrored });
    },
    async dropPose(pose: number) {
      try {
        await post(`/poses/${pose}/delete`, {});
        acting.page.poses = acting.page.poses.filter((one) => one.id !== pose);
      } catch (failed) {
        say(sentenceOf(failed));
      }
      refresh();
    },
  });
};

export function dialsNow({ page, state, lane }: Acting): Dial[] {
  const own = Object.entries(page.dials).filter(([name]) => name !== FACING || (state.turns && state.part === "head"));
  return own.map(([name, [least, most, unit]]) => {
    const far = Math.min(most, scaleOf(name) * 2);
    return {
      name,
      unit,
      least: Math.max(least, -far),
      most: far,
      step: far > 5 ? 0.1 : 0.005,
      value: rounded(lane().value(name, state.frame)),
      mark: name === state.dial ? "dial-chosen" : "",
      label: `${state.part} ${name}`,
      numberLabel: `${state.part} ${name}, as a number`,
    };
  });
}

export function partNow(acting: Acting) {
  const { state, store, page, acted } = acting;
  const part = acting.part();
  const lane = acting.lane();
  const { chosen } = state;
  const gesture = chosen?.kind === "gesture" ? lane.gestures.find((one) => one.id === chosen.id) : undefined;
  return {
    parts: state.parts,
    drawings: part.drawings.length ? [...new Set([...part.drawings, part.rest])].map((name, i) => ({ name, label: name || "nothing", key: String(i + 1) })) : [],
    hasKey: chosen?.kind === "key",
    hasShow: part.drawings.length > 0,
    hasGesture: gesture !== undefined,
    gestureAmount: gesture?.amount ?? 1,
    looks: part.role === "eyes",
    lead: lane.maps.of.lead,
    alone: lane.maps.of.alone,
    others: store.actings.filter((one) => one !== acted()).map((one) => ({ id: one.id, name: one.character })),
    poses: page.poses.map((pose) => ({ ...pose, title: `Lay it at the playhead: ${pose.parts.join(", ")}`, away: `Delete the pose ${pose.name}` })),
    chosenText: told(chosen, gesture, state.startFrame),
  };
}

function told(chosen: Chosen | null, gesture: Gesture | undefined, startFrame: number): string {
  if (!chosen) return "none chosen";
  const at = chosen.frame + startFrame;
  if (gesture) return `${gesture.kind}, ${gesture.accepted ? "accepted" : "proposed"}, frames ${at} to ${at + gesture.frames - 1}`;
  return chosen.kind === "key" ? `key of ${chosen.dial} on frame ${at}` : `drawing from frame ${at}`;
}
