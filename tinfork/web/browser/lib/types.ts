// What the server sends, as its documents say: web/sound/document.py, web/desk/document.py, web/acting/document.py and
// charts. Frames are the scene's, from 0; times are in seconds of the scene; addresses are paths on the same server.

import type { ChartDocument } from "./facetypes.ts";

export type Span = [number, number]; // first, end

export interface Rate {
  text: string;
  numerator: number;
  denominator: number;
}

export interface TimeBase {
  id: number;
  name: string;
  rate: Rate;
  startFrame: number;
}

// What undoing and redoing would do; "" where there is nothing to.
export interface Steps {
  undo: string;
  redo: string;
}

// Sound

export interface Clip {
  id: number;
  sound: number;
  source: number; // which of the scene's sounds it is a piece of
  start: number;
  offset: number;
  frames: number;
  whole: number;
  gain: number;
  channel: number;
  name: string;
  listen: string;
  peaks: string;
}

export interface SoundTrack {
  id: number;
  kind: "dialogue" | "shared" | "effects" | "music";
  name: string;
  character: number | null;
  muted: boolean;
  solo: boolean;
  gain: number;
  clips: Clip[];
}

export interface Finding {
  kind: string;
  text: string;
  grave: boolean;
  places: Span[];
}

export interface SoundFile {
  name: string;
  seconds: number;
  rate: number;
  channels: number;
  notes: string[];
  findings: Finding[];
  original: string;
  reel: string | null;
  reelState: string;
}

export interface Mark {
  id: number;
  character: number;
  start: number;
  end: number;
}

export interface RecordedTake {
  id: number;
  character: string;
  characterId: number;
  seconds: number;
  // The frame the playhead was on when it was recorded, where that is known.
  at: number | null;
  kept: boolean;
  grave: boolean;
  listen: string;
  peaks: string;
}

export interface Sound extends Steps {
  version: number;
  frames: number;
  length: number | null;
  tracks: SoundTrack[];
  sounds: Record<string, SoundFile>;
  marks: Mark[];
  overlaps: Span[];
  takes: RecordedTake[];
}

export interface CastMember {
  id: number;
  name: string;
  key: string;
  colour: string;
  language: string;
}

// Words and mouths

export interface SpokenSound {
  ipa: string;
  start: number;
  end: number;
  confidence: number;
}

// Where a word is in its stave's reading: its line's place, and its own in it.
export type WordPlace = [number, number];

export interface WordBody {
  text: string;
  start: number;
  end: number;
  confidence: number;
  guessed: boolean;
  said: boolean;
  extra: Span[];
  pinned: number[];
  decided: boolean;
  // Whether beside an edge a person set there is less room than its sounds need.
  tight: boolean;
  at: WordPlace;
}

export interface Word extends WordBody {
  sounds: SpokenSound[];
}

interface LineBody {
  place: number;
  id: number;
  text: string;
  start: number;
  end: number;
}

export interface Line extends LineBody {
  words: Word[];
}

// As it is sent: sounds as [ipa, start, end, confidence].
export interface PackedLine extends LineBody {
  words: (WordBody & { sounds: [string, number, number, number][] })[];
}

// wide, tall, lean
export type Bend = [number, number, number];

// What is seen on some frames; drawing "" is nothing at all.
export interface Shown {
  frame: number;
  frames: number;
  drawing: string;
  bend?: Bend;
}

export interface Exposure extends Shown {
  pinned: boolean;
  mood?: string;
  own?: boolean;
}

export interface Articulators {
  jaw: number;
  width: number;
  rounding: number;
  [articulator: string]: number;
}
// Seams on frames from the first, so many, that are eased over some frames; and whether by a drawing between.
export type Ease = [number, number, number, boolean?];

export interface Check {
  frame: number;
  frames: number;
  kind: string;
  text: string;
  fix: { label: string; verb: string; what: Record<string, unknown> } | null;
}

export interface PinAway {
  drawing: string;
  frame: number | null;
  frames: number;
  why: string;
}

interface StaveHead extends Steps {
  id: number;
  version: number;
  read: boolean;
  frames: number;
  lost: { text: string; ipa: string }[];
  pinsAway: PinAway[];
  settings: { hold: number; lead: number; detail: number; step: number };
  passages: [number, number, Record<string, number>][];
  meant: [number, number, string][];
  eases: Ease[];
  moods: [number, number, string][];
}

type StaveUrl = "url" | "checksUrl" | "curvesUrl" | "habitsUrl" | "dialUrl" | "anewUrl" | "takesUrl" | "whyUrl" | "outUrl" | "bringUrl" | "timingUrl" | "editUrl";

interface StaveFixed extends Record<StaveUrl, string> {
  character: string;
  characterId: number;
  chart: ChartDocument;
  otherCharts: [number, string][];
  // By a line's id and a word's number there: what is said instead, and how the line is written.
  otherwise: Record<string, [string, string]>;
  newChart: boolean;
  toPlace: { id: number; text: string }[];
}

// A stave with a slice of its lanes, as it is sent; clips by their numbers. aims: the shapes a sound passes through.
export interface StaveSlice extends StaveHead, StaveFixed {
  clips: number[];
  first: number;
  end: number;
  lines: PackedLine[];
  exposures: Exposure[];
  aims: Record<string, string[]>;
}

// What an edit changed of a stave; see patch_document.
export type StavePatch = StaveHead & ({ renumbered: true } | PatchedLanes);

export interface PatchedLanes {
  renumbered: false;
  numbers: number[];
  lines: PackedLine[];
  aims: Record<string, string[]>;
  drawn: Span[];
  stale: Span[];
  exposures: Exposure[];
}

// A stave as far as it is known.
export interface Stave extends StaveHead, StaveFixed {
  clips: Clip[];
  known: Span[];
  lines: Line[];
  exposures: Exposure[];
  aims: Record<string, string[]>;
  checks: Check[];
}

// The versions the scene's documents have now: "sound", "stave 3", "acting 4".
export type Versions = Record<string, number>;
