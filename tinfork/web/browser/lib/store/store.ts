// What a page knows of a scene, and how it changes: the sound, the staves by slices, the acting, and the edits on their
// way. Every view has one, is told what changed, and draws. It knows no elements, so it is tested without a browser.
import type { Clip, Sound, Span, Stave, StavePatch, StaveSlice, TimeBase, Versions } from "../types.ts";
import { Acted, type ActedDocument, type ActedPatch } from "./acted.ts";
import type { Moment, Poses } from "./actedlane.ts";
import { fpsOf } from "./clock.ts";
import { type Answer, Editor, type Say } from "./editor.ts";
import { bare, forgotten, missing, touchedBy, withPatch, withSlice } from "./lanes.ts";
import { onceMore, Told } from "./queue.ts";
import { onTold, settled } from "../told.ts";
import { get, sentenceOf } from "./requests.ts";

const VERSIONS_MS = 150;

// What a page of a scene is sent with; see scene_document of the server.
export interface SceneDocument {
  scene: TimeBase;
  mayEdit: boolean;
  sound: Sound;
  soundUrl: string;
  staves: StaveSlice[];
  slice: number;
  versionsUrl: string;
  actingUrl: string;
  actings?: ActedDocument[];
}

// What changed. "stave": now is in the place of before; "edited": after an edit was answered, with what it changed;
// "touched": frames of a stave are others, or new; "filled": whether everything is known; "elsewhere": somebody else
// changed what a sentence says; "busy": whether edits are on their way.
export type Change =
  | { kind: "stave"; before: Stave; now: Stave }
  | { kind: "edited"; id: number; patch: StavePatch; done: boolean }
  | { kind: "touched"; id: number; frames: Span }
  | { kind: "sound" }
  | { kind: "acting"; acted?: Acted }
  | { kind: "filled"; whole: boolean }
  | { kind: "elsewhere"; sentence: string }
  | { kind: "busy"; busy: boolean };

export interface StoreOptions {
  say: Say;
  // The frames in view: what is asked for first.
  view: () => Span;
  // Whether all of a scene is asked for, one slice after the other, or only what is in view.
  fills?: boolean;
  editor?: (say: Say, others: (done?: string) => unknown) => Editor;
  ask?: <T>(url: string) => Promise<T>;
}

export class Store {
  readonly scene: TimeBase;
  readonly fps: number;
  readonly mayEdit: boolean;
  readonly size: number;
  readonly editor: Editor;
  readonly changed = new Told<Change>();
  readonly say: Say;
  readonly view: () => Span;
  staves: Stave[];
  sound: Sound;
  clips: Map<number, Clip>;
  actings: Acted[];
  readonly #ask: <T>(url: string) => Promise<T>;
  readonly #urls: { sound: string; acting: string; versions: string };
  readonly #fills: boolean;
  #unknownActings = "";

  constructor(page: SceneDocument, { say, view, fills = false, editor, ask = get }: StoreOptions) {
    this.scene = page.scene;
    this.fps = fpsOf(page.scene.rate);
    this.mayEdit = page.mayEdit;
    this.size = page.slice;
    this.say = say;
    this.view = view;
    this.#fills = fills;
    this.#ask = ask;
    this.#urls = { sound: page.soundUrl, acting: page.actingUrl, versions: page.versionsUrl };
    this.sound = page.sound;
    this.clips = clipsOf(page.sound);
    this.staves = page.staves.map((stave) => withSlice(bare(stave, this.clips), stave));
    this.actings = (page.actings ?? []).map((one) => new Acted(one));
    const others = (done = "") => this.lookAgain(done);
    this.editor = editor ? editor(say, others) : new Editor(say, { others });
  }

  get frames(): number {
    return this.sound.frames;
  }

  stave(id: number): Stave {
    const found = this.staves.find((one) => one.id === id);
    if (!found) throw new Error(`There is no stave ${id}.`);
    return found;
  }

  put(now: Stave): void {
    const place = this.staves.findIndex((one) => one.id === now.id);
    const before = this.staves[place];
    this.staves = this.staves.with(place, now);
    this.changed.tell({ kind: "stave", before, now });
  }

  // Slices

  async #slice(stave: Stave, [first, end]: Span): Promise<StaveSlice> {
    return this.#ask<StaveSlice>(`${stave.url}?first=${first}&end=${end}`);
  }

  // As many frames as are asked for at a time, from what is in view on.
  #inView(stave: Stave): Promise<StaveSlice> {
    const [first] = this.view();
    return this.#slice(stave, [first, first + this.size]);
  }

  // Nothing that is known of a stave holds any more: what is in view is asked for.
  async anew(id: number): Promise<void> {
    const fresh = await this.#inView(this.stave(id));
    const now = this.stave(id);
    // An edit came in before this did: what it says is older than what is known.
    if (fresh.version < now.version) return this.anew(id);
    this.put(withSlice(forgotten({ ...now, clips: fresh.clips.flatMap((one) => this.clips.get(one) ?? []) }), fresh));
    this.changed.tell({ kind: "touched", id, frames: [fresh.first, fresh.end] });
  }

  // Ask for one slice that is missing of a stave and begins before a frame; whether there was one.
  async more(id: number, least = this.view()[1]): Promise<boolean> {
    const next = missing(this.stave(id), this.view(), this.size);
    if (!next || next[0] >= least) return false;
    const fresh = await this.#slice(this.stave(id), next);
    const now = this.stave(id);
    if (fresh.version > now.version) await this.anew(id);
    else if (fresh.version === now.version) {
      this.put(withSlice(now, fresh));
      this.changed.tell({ kind: "touched", id, frames: [fresh.first, fresh.end] });
    }
    return true;
  }

  // Ask for what is missing of what is in view, of every stave; what changes while it comes may make more missing.
  readonly seen: () => Promise<void> = onceMore(async () => {
    for (const { id } of this.staves) await this.more(id);
  });

  // Everything else, one slice after the other, where all is asked for.
  readonly #all: () => Promise<void> = onceMore(async () => {
    for (const { id } of this.staves) while (await this.more(id, Infinity)) this.changed.tell({ kind: "filled", whole: false });
    this.changed.tell({ kind: "filled", whole: true });
  });

  async fill(): Promise<void> {
    if (!this.#fills) return;
    try {
      await this.#all();
    } catch (failed) {
      console.debug(failed);
      this.say(sentenceOf(failed), () => this.fill());
    }
  }

  // Edits

  edit(id: number, verb: string, what: object = {}): Promise<Answer<StavePatch>> {
    const { editUrl } = this.stave(id);
    return this.#busy(this.editor.edit<StavePatch>(editUrl, () => this.stave(id).version, verb, what, (patch, done) => this.take(patch, done)));
  }

  editActing(acted: Acted, verb: string, what: object = {}): Promise<Answer<ActedPatch>> {
    const take = (patch: ActedPatch) => {
      acted.apply(patch);
      this.changed.tell({ kind: "acting", acted });
    };
    return this.#busy(this.editor.edit<ActedPatch>(acted.editUrl, () => acted.version, verb, what, take));
  }

  #busy<T>(work: Promise<T>): Promise<T> {
    this.changed.tell({ kind: "busy", busy: true });
    return work.finally(() => this.changed.tell({ kind: "busy", busy: this.editor.busy }));
  }

  // What an edit changed; where it was refused, perhaps as somebody else changed the stave, the page makes up for that.
  readonly take = async (patch: StavePatch, done: boolean): Promise<void> => {
    const own = this.stave(patch.id);
    if (done && patch.renumbered) this.put(withSlice(withPatch(own, patch), await this.#inView(own)));
    else if (done) this.put(withPatch(own, patch));
    else if (patch.version !== own.version) await this.anew(patch.id);
    this.changed.tell({ kind: "edited", id: patch.id, patch, done });
    if (done) for (const frames of touchedBy(patch, this.fps)) this.changed.tell({ kind: "touched", id: patch.id, frames });
    await this.more(patch.id);
    this.fill();
  };

  // What others do: asked for when it is told of.
  watch(): void {
    const look = settled(VERSIONS_MS, async () => {
      if (this.editor.busy) return look();
      await this.compare((await this.#ask<{ versions: Versions }>(this.#urls.versions)).versions);
    });
    onTold(["edit"], (told) => {
      if (told.kind === "again" || (told.version ?? 0) > this.#known(told.area ?? "")) look();
    });
  }

  // The version of a document that is shown here; none for what is not.
  #known(area: string): number {
    if (area === "sound") return this.sound.version;
    const own = this.staves.find(({ id }) => area === `stave ${id}`) ?? this.actings.find(({ id }) => area === `acting ${id}`);
    return own?.version ?? (area.startsWith("acting ") ? 0 : Infinity);
  }

  // Others may have changed what is shown; what is theirs is asked for anew.
  async lookAgain(sentence = ""): Promise<void> {
    await this.#soundAnew();
    for (const { id } of this.staves) await this.anew(id);
    for (const own of this.actings) await this.#again(own);
    this.fill();
    if (sentence) this.say(sentence, undefined, "", true);
  }

  async #soundAnew(): Promise<void> {
    this.sound = await this.#ask<Sound>(this.#urls.sound);
    this.clips = clipsOf(this.sound);
    this.changed.tell({ kind: "sound" });
  }

  // versions: those the scene's documents have now; what is older here is asked for again.
  async compare(versions: Versions): Promise<void> {
    await this.#compareActing(versions);
    if (this.editor.busy) return;
    if ((versions.sound ?? 0) > this.sound.version) {
      await this.lookAgain();
      return this.changed.tell({ kind: "elsewhere", sentence: "The sound was changed elsewhere, and lies as it does now." });
    }
    for (const { id, character } of this.staves) {
      if ((versions[`stave ${id}`] ?? 0) <= this.stave(id).version || this.editor.busy) continue;
      await this.anew(id);
      this.changed.tell({ kind: "elsewhere", sentence: `${character} was changed elsewhere, and is shown as it is now.` });
      this.fill();
    }
  }

  // Acting

  // What the parts of a character's face do on a frame, and when that is: nobody acts until it was asked for, or where it
  // cannot be had.
  posed(character: number, frame: number): readonly [Poses, Moment] {
    const acted = this.actings.find((one) => one.characterId === character);
    return acted ? [acted.poses(frame), acted.moment(frame)] : [{}, { frame, drawing: () => null }];
  }

  async loadActing(): Promise<void> {
    try {
      const { actings } = await this.#ask<{ actings: ActedDocument[] }>(this.#urls.acting);
      this.actings = actings.map((one) => new Acted(one));
    } catch (failed) {
      console.debug(failed);
      this.actings = [];
    }
    this.changed.tell({ kind: "acting" });
  }

  async #again(own: Acted): Promise<void> {
    own.take(await this.#ask<ActedDocument>(own.url));
    this.changed.tell({ kind: "acting", acted: own });
  }

  async #compareActing(versions: Versions): Promise<void> {
    const known = new Set(this.actings.map(({ id }) => `acting ${id}`));
    const unknown = Object.keys(versions).filter((area) => area.startsWith("acting ") && !known.has(area)).sort().join();
    if (unknown !== this.#unknownActings) {
      this.#unknownActings = unknown;
      if (unknown) await this.loadActing();
    }
    for (const own of this.actings) if ((versions[`acting ${own.id}`] ?? 0) > own.version && !this.editor.busy) await this.#again(own);
  }
}

function clipsOf(sound: Sound): Map<number, Clip> {
  return new Map(sound.tracks.flatMap((track) => track.clips).map((clip) => [clip.id, clip]));
}
