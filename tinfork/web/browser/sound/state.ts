// What the Sound view is sent with, what of it is chosen, and what its parts have of each other.
import type { Answer, Editor, Say } from "../lib/store/editor.ts";
import type { Levels } from "../lib/time/peaks.ts";
import type { TimeView } from "../lib/time/ruler.ts";
import type { Transport } from "../lib/time/transport.ts";
import type { CastMember, Clip, Mark, Sound, TimeBase } from "../lib/types.ts";

export interface ScriptLine {
  id: number;
  text: string;
  character: number | null;
  language: string;
}

export interface RoomDocument {
  scene: TimeBase;
  mayEdit: boolean;
  sound: Sound;
  cast: CastMember[];
  lines: ScriptLine[];
  voices: Record<string, [string, string][]>;
  mostBytes: number;
}

// A clip that slides, or one of whose edges moves, by so many frames; a mark that is drawn or moved, in seconds, and to
// whom; or the playhead.
export type RoomDrag =
  | { kind: "scrub" }
  | { kind: "slide" | "first" | "end"; clips: Set<number>; clip: Clip; from: number; by: number; track: number; over?: number }
  | { kind: "draw"; who: CastMember; from: number; start: number; end: number }
  | { kind: "mark"; mark: number; part: "start" | "end" | "body"; start: number; end: number; from: number; to: number };

// A stretch of speech that a voice is thought to be heard in: start, end, the voice's number.
export type VoiceSpan = [number, number, number];

export interface RoomView extends TimeView {
  readonly fps: number;
  readonly cast: CastMember[];
  sound: Sound;
  selected: Set<number>;
  track: number | null;
  // In pixels: tracks share the room there is.
  trackHeight: number;
  mark: number | null;
  peaks: Map<string, Levels>;
  tall: number;
  drag: RoomDrag | null;
  // In a live pass, who was held down when: in seconds, null where still.
  held: Map<number, [number, number | null][]> | null;
  suggested: { character: number; start: number; end: number }[];
}

// The pages under the tracks: of the chosen clip, of what brings sound in, and of who speaks when.
export type RoomTab = "clip" | "bring" | "record" | "scratch" | "voices";

export interface Room {
  readonly given: RoomDocument;
  readonly view: RoomView;
  readonly transport: Transport;
  readonly editor: Editor;
  readonly say: Say;
  edit(verb: string, what?: object): Promise<Answer<Sound>>;
  take(sound: Sound): Promise<void>;
  draw(): void;
  open(tab: RoomTab): void;
}

export const clipsOf = (sound: Sound): Clip[] => sound.tracks.flatMap((track) => track.clips);
export const markOf = (sound: Sound, id: number | null | undefined): Mark | undefined => sound.marks.find((one) => one.id === id);
