// The phrase at the playhead, and what is proposed for it and for the scene.
import { fieldOf, panel } from "../lib/page.ts";
import { sayDone } from "../lib/saying.ts";
import type { Acting } from "./state.ts";

interface Phrase {
  line: number;
  text: string;
  frames: string;
  note: string;
  amount: number;
  amountText: string;
  proposed: number;
  locked: boolean;
  told: string;
}

interface PhraseRow {
  line: number;
  frame: number;
  number: string;
  state: string;
  title: string;
}

// Seeds go round after so many.
const SEEDS = 1_000_000;

// The number of no phrase; 0 is the one of somebody who says nothing in the scene, and lasts as long as it.
const NONE = -1;

const NO_PHRASE: Phrase = { line: NONE, text: "", frames: "", note: "", amount: 1, amountText: "", proposed: 0, locked: false, told: "" };

// What is done to the phrase at the playhead, by buttons and by keys. onlyPart(): the part gestures are proposed for, ""
// for all.
export function phraseHands(acting: Acting, onlyPart: () => string) {
  const { state, edit, say } = acting;
  const line = () => acting.acted().phraseAt(state.frame)?.[0] ?? NONE;

  async function propose(lines: number[], another = false): Promise<void> {
    const part = onlyPart();
    const answer = await edit("propose", { lines, parts: part ? [part] : [], another });
    const { proposed, phrases } = answer as { proposed?: number; phrases?: number };
    if (proposed !== undefined) sayDone(say, `${proposed} gestures proposed for ${phrases === 1 ? "the phrase" : `${phrases} phrases`}. Accept what is right, throw away the rest.`);
  }

  return {
    proposeAll: () => propose([]),
    propose: () => line() !== NONE && propose([line()]),
    another: () => line() !== NONE && propose([line()], true),
    accept: () => edit("accept", { line: line() }),
    throwAway: () => edit("throw away", { line: line() }),
    moment() {
      const own = acting.acted().moments[line()] ?? [];
      const moments = own.includes(state.frame) ? own.filter((one) => one !== state.frame) : [...own, state.frame];
      return edit("phrase", { line: line(), moments });
    },
  };
}

export const phrasePanel = (acting: Acting, hands: ReturnType<typeof phraseHands>) =>
  panel({
    phrase: NO_PHRASE,
    phrases: [] as PhraseRow[],
    wish: { rate: 16, seed: 1, eyes_first: 3, amount: 1, temper: "even", framing: "medium" },
    learned: "",
    onlyPart: "",

    get inPhrase(): boolean {
      return this.phrase.line !== NONE;
    },
    get fixed(): boolean {
      return !acting.page.mayEdit || this.phrase.locked;
    },
    note(event: Event) {
      acting.edit("phrase", { line: this.phrase.line, note: fieldOf(event).value });
    },
    amount(event: Event) {
      acting.edit("phrase", { line: this.phrase.line, amount: Number.parseFloat(fieldOf(event).value) });
    },
    propose: () => hands.propose(),
    another: () => hands.another(),
    accept: () => hands.accept(),
    throwAway: () => hands.throwAway(),
    moment: () => hands.moment(),
    lock() {
      acting.edit("phrase", { line: this.phrase.line, locked: !this.phrase.locked });
    },
    goTo: (frame: number) => acting.transport.go(frame, false),

    proposeAll: () => hands.proposeAll(),
    async others_() {
      await acting.edit("wish", { seed: (acting.acted().wish.seed % SEEDS) + 1 });
      return hands.proposeAll();
    },
    forget: () => acting.edit("forget", {}),
    temperTo(event: Event) {
      acting.edit("wish", { temper: fieldOf(event).value });
    },
    framingTo(event: Event) {
      acting.edit("wish", { framing: fieldOf(event).value });
    },
    wishTo(name: string, event: Event) {
      const value = Number.parseFloat(fieldOf(event).value);
      if (Number.isFinite(value)) acting.edit("wish", { [name]: name === "eyes_first" ? Math.round(value) : value });
    },
  });

export function phraseNow({ state, acted, stave }: Acting): Phrase {
  const found = acted().phraseAt(state.frame);
  if (!found) return NO_PHRASE;
  const [line, first, end] = found;
  const { note = "", amount = 1, locked = false } = acted().phrases[line] ?? {};
  const gestures = Object.values(acted().lanes).flatMap((lane) => lane.gestures.filter((one) => one.line === line));
  const accepted = gestures.filter((one) => one.accepted).length;
  const proposed = gestures.length - accepted;
  return {
    line,
    text: line ? (stave().lines.find((one) => one.id === line)?.text ?? "") : "says nothing in this scene, and listens",
    frames: `${first + state.startFrame}–${end - 1 + state.startFrame}`,
    note,
    amount,
    amountText: `${Math.round(amount * 100)}%`,
    proposed,
    locked,
    told: `${proposed} proposed, ${accepted} accepted`,
  };
}

export const phraseRows = ({ acted }: Acting): PhraseRow[] =>
  acted().lines.map(([line, frame], place) => {
    const { locked, note } = acted().phrases[line] ?? {};
    return { line, frame, number: String(place + 1), state: locked ? "locked" : note ? "noted" : "", title: note || "Go there" };
  });

// What is learned of the character, in words.
export function learnedNow({ acted }: Acting): string {
  const kinds = Object.entries(acted().learned).sort(([, one], [, other]) => other[0] - one[0]);
  const told = kinds.map(([kind, [kept, dropped]]) => `${kind} ${kept} of ${kept + dropped}`);
  return told.length ? `Kept of what was proposed: ${told.join(", ")}.` : "";
}
