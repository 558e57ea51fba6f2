// What the Reading desk is sent with, and what of it is chosen and shown.
import { keptTab } from "../lib/kept.ts";
import type { Say } from "../lib/store/editor.ts";
import type { Answer } from "../lib/store/editor.ts";
import type { Note } from "../lib/review.ts";
import type { SceneDocument, Store } from "../lib/store/store.ts";
import type { Levels } from "../lib/time/peaks.ts";
import { type TimeView, timeView } from "../lib/time/ruler.ts";
import type { Transport } from "../lib/time/transport.ts";
import type { Articulators, Check, Shown, Span, Stave, StavePatch, Word, WordPlace } from "../lib/types.ts";
import type { Compared } from "./takes.ts";

export interface DeskDocument extends SceneDocument {
  readUrl: string;
  historyUrl: string;
  reviewUrl: string;
  backUrl: string;
  // Whether what was set by hand stays on its frames when its word is moved, and where that is kept.
  stays: boolean;
  staysUrl: string;
  keyboard: string[][];
  shapes: Record<string, Articulators>;
  weights: Record<string, number>;
  // name, code, what it does not hold
  formats: [string, string, string][];
}

export type Tab = "mouths" | "word" | "doubts" | "range" | "checks" | "takes" | "history" | "habits" | "list" | "files" | "notes" | "lost";

// sound: its number in the word, -1 for the word as a whole
export interface ChosenWord {
  at: WordPlace;
  sound: number;
}

// What is being dragged: times of words and by how much (seconds); or a seam to a frame, with what it would look like; or
// chosen exposures by so many frames.
export interface DeskDrag {
  times?: number[];
  by?: number;
  mouths?: Shown[];
  to?: number;
  slide?: number;
}

export interface Curves {
  stave: number;
  first: number;
  jaw: number[];
  rounding: number[];
}

export interface DeskState extends TimeView {
  readonly staves: readonly Stave[];
  tab: Tab;
  active: number;
  chosen: number[];
  lead: number | null;
  anchor: number | null;
  word: ChosenWord | null;
  check: Check | null;
  folded: Set<number>;
  solo: number | null;
  curves: Curves | null;
  compared: Compared | null;
  together: boolean;
  onion: boolean;
  drag: DeskDrag | null;
  over: number | null;
  // Whether the next drawing that is picked fills in to out.
  filling: boolean;
  // What the verb under the pointer would change.
  aim: readonly Span[];
  peaks: Map<string, Levels>;
  // What was written of the scene in its rushes.
  notes: readonly Note[];
}

export const nothingChosen = () => ({ chosen: [], lead: null, anchor: null, word: null });

export function deskState(store: Store): DeskState {
  const time = timeView(store.scene.rate, store.scene.startFrame);
  const first = Math.max(0, store.staves.findIndex((one) => one.read));
  return {
    ...time,
    ...nothingChosen(),
    get staves() {
      return store.staves;
    },
    drag: null,
    tab: keptTab<Tab>("desk", "mouths", ["word", "doubts", "range", "checks", "takes", "history", "habits", "list", "files", "notes"]),
    active: first,
    check: null,
    folded: new Set(),
    solo: null,
    curves: null,
    compared: null,
    together: false,
    onion: false,
    over: null,
    filling: false,
    aim: [],
    peaks: new Map(),
    notes: [],
  };
}

// What the parts of the desk have of each other.
export interface Desk {
  readonly given: DeskDocument;
  readonly store: Store;
  readonly state: DeskState;
  readonly fps: number;
  readonly transport: Transport;
  readonly canvas: HTMLCanvasElement;
  readonly say: Say;
  stave(): Stave;
  edit(verb: string, what?: object): Promise<Answer<StavePatch>>;
  draw(): void;
  showSelection(): void;
  showDock(): void;
  open(tab: Tab): void;
  frameOf(event: MouseEvent): number;
  placeOf(event: MouseEvent): number;
}

export const sameWord = (word: Pick<Word, "at">, other: { at: WordPlace } | null | undefined): boolean => Boolean(other) && word.at[0] === other?.at[0] && word.at[1] === other?.at[1];
