// What the Acting view is sent with, what of it is chosen, and what its parts have of each other.
import type { Part } from "../lib/face/matrices.ts";
import type { Acted, ActedDocument, ActedPatch } from "../lib/store/acted.ts";
import type { ActedLane, Pose, Poses } from "../lib/store/actedlane.ts";
import type { Answer, Say } from "../lib/store/editor.ts";
import type { SceneDocument, Store } from "../lib/store/store.ts";
import type { Levels } from "../lib/time/peaks.ts";
import type { TimeView } from "../lib/time/ruler.ts";
import type { Transport } from "../lib/time/transport.ts";
import type { Span, Stave } from "../lib/types.ts";
import type { Recorder } from "./recorder.ts";

export interface SavedPose {
  id: number;
  name: string;
  parts: string[];
}

export interface ActingDocument extends SceneDocument {
  actings: ActedDocument[];
  poses: SavedPose[];
  // least, most, unit
  dials: Record<string, [number, number, string]>;
}

export type Chosen =
  | { kind: "key"; part: string; dial: string; frame: number }
  | { kind: "show"; part: string; frame: number }
  | { kind: "gesture"; part: string; id: number; frame: number };

export interface Melody {
  first: number;
  pitch: number[];
  loudness: number[];
}

export interface ActingState extends TimeView {
  active: number;
  part: string;
  parts: Part[];
  // Whether the head can face to a side.
  turns: boolean;
  dial: string;
  chosen: Chosen | null;
  drag: { told: string } | null;
  together: boolean;
  melody: Melody | null;
  jaws: Map<string, number>;
  peaks: Map<string, Levels>;
  readonly frames: number;
  readonly stave: Stave;
  readonly acted: Acted;
}

export interface Acting {
  readonly page: ActingDocument;
  readonly store: Store;
  readonly state: ActingState;
  readonly transport: Transport;
  readonly recorder: Recorder;
  readonly canvas: HTMLCanvasElement;
  readonly fps: number;
  readonly say: Say;
  acted(): Acted;
  stave(): Stave;
  part(): Part;
  lane(): ActedLane;
  // From in to out, or null.
  span(): Span | null;
  edit(verb: string, what?: object): Promise<Answer<ActedPatch>>;
  activate(number: number): void;
  choosePart(name: string): void;
  choose(chosen: Chosen | null): void;
  seeAll(): void;
  removeChosen(): void;
  showAt(drawing: string): void;
  look(x: number, y: number, head: boolean): void;
  preview(pose: Partial<Pose>): void;
  posesAsked(what: object): Promise<void>;
  showSteps(): void;
  draw(): void;
}

// What the mirror shows of the part that is chosen if it does something else.
export const withPose = (acted: Acted, part: string, frame: number, pose: Partial<Pose>): Poses => ({ ...acted.poses(frame), [part]: { ...acted.lane(part).pose(frame), ...pose } });
