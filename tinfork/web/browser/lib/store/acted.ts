// What all parts of a character's face do, as the server sends it.
import type { Steps } from "../types.ts";
import { ActedLane, type LaneMaps, type Moment, type Patch, type Poses } from "./actedlane.ts";

interface Phrase {
  note?: string;
  amount?: number;
  locked?: boolean;
}

interface Wish {
  amount: number;
  rate: number;
  seed: number;
  eyes_first: number;
  temper: string;
  framing: string;
}

interface ActedHead extends Steps {
  id: number;
  version: number;
  character: string;
  characterId: number;
  wish: Wish;
  learned: Record<string, [number, number]>;
  phrases: Record<string, Phrase>;
}

// lines: [line, first frame, end]
export interface ActedDocument extends ActedHead {
  lanes: Record<string, LaneMaps>;
  lines: [number, number, number][];
  moments: Record<string, number[]>;
  editUrl: string;
  url: string;
  posesUrl: string;
  melodyUrl: string;
}

export interface ActedPatch extends ActedHead {
  lanes: Record<string, Patch>;
  whole: Record<string, LaneMaps> | null;
  moments?: Record<string, number[]>;
}

// All lanes of one character, by part.
export class Acted {
  id = 0;
  version = 0;
  character = "";
  characterId = 0;
  undo = "";
  redo = "";
  wish: Wish = { amount: 1, rate: 16, seed: 1, eyes_first: 3, temper: "even", framing: "medium" };
  learned: Record<string, [number, number]> = {};
  phrases: Record<string, Phrase> = {};
  lines: [number, number, number][] = [];
  moments: Record<string, number[]> = {};
  lanes: Record<string, ActedLane> = {};
  editUrl = "";
  url = "";
  posesUrl = "";
  melodyUrl = "";

  constructor(document: ActedDocument) {
    this.take(document);
  }

  take({ lanes, ...rest }: ActedDocument): void {
    Object.assign(this, rest);
    this.#made(lanes);
  }

  // What the server says an edit changed.
  apply({ lanes, whole, ...head }: ActedPatch): void {
    const before = this.#amounts();
    Object.assign(this, head);
    if (whole) this.#made(whole);
    else if (before !== this.#amounts()) for (const lane of Object.values(this.lanes)) lane.anew();
    for (const [part, patch] of Object.entries(lanes)) {
      this.lanes[part] ??= this.#lane({});
      this.lanes[part].apply(patch);
    }
  }

  #lane(maps: Partial<LaneMaps>): ActedLane {
    return new ActedLane(maps, (line) => this.amountOf(line));
  }

  #made(lanes: Record<string, LaneMaps>) {
    this.lanes = Object.fromEntries(Object.entries(lanes).map(([part, maps]) => [part, this.#lane(maps)]));
  }

  // How much is seen of the gestures of a phrase.
  amountOf(line: number): number {
    return this.wish.amount * (this.phrases[line]?.amount ?? 1);
  }

  #amounts(): string {
    return JSON.stringify([this.wish.amount, Object.entries(this.phrases).map(([line, { amount }]) => [line, amount])]);
  }

  lane(part: string): ActedLane {
    return this.lanes[part] ?? new ActedLane();
  }

  // What each part does on a frame.
  poses(frame: number): Poses {
    return Object.fromEntries(Object.entries(this.lanes).map(([part, lane]) => [part, lane.pose(frame)]));
  }

  // A frame, for what moves by itself while parts show what they do.
  moment(frame: number): Moment {
    return { frame, drawing: (part, at) => this.lanes[part]?.drawing(at) ?? null };
  }

  // The phrase at a frame, or the next one, or else the last.
  phraseAt(frame: number): [number, number, number] | undefined {
    return this.lines.find(([, first, end]) => first <= frame && frame < end) ?? this.lines.find(([, first]) => first > frame) ?? this.lines.at(-1);
  }
}
