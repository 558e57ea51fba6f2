// The panels of the Sound view: the heads of the tracks beside the canvas, what is selected and how good its sound is,
// the takes, and the voices that were told apart. The page says what is so; what is pressed goes back to it.
import { keepTab, keptTab } from "../lib/kept.ts";
import { component, fieldOf, panel } from "../lib/page.ts";
import { RULER } from "../lib/time/ruler.ts";
import type { CastMember, Clip, RecordedTake, SoundTrack } from "../lib/types.ts";
import { clipsOf, type Room, type RoomTab, type RoomView, type VoiceSpan } from "./state.ts";
import { VOICE } from "./tracks.ts";

const KINDS: Record<string, string> = { dialogue: "dialogue", shared: "shared dialogue", effects: "effects", music: "music" };
const MOST_PLACES = 6;

interface Voice {
  voice: number;
  name: string;
  who: string;
  first: number;
  title: string;
}

type TakeRow = Omit<RecordedTake, "kept"> & { long: string; keep: string; kept: boolean };

export interface PanelsPage extends Room {
  choose(track: number): void;
  go(frame: number): void;
  ripple(): boolean;
}

export function panelsOf(page: PanelsPage) {
  const audio = new Audio();
  const panels = panel({
    mayEdit: page.given.mayEdit,
    locked: !page.given.mayEdit,
    tab: page.given.mayEdit && !clipsOf(page.given.sound).length ? "bring" : keptTab<RoomTab>("sound", "clip", ["bring", "record", "scratch", "voices"]),
    turn: 0,
    cast: [] as ReturnType<typeof voiceHead>[],
    tracks: [] as ReturnType<typeof trackHead>[],
    clip: null as (ReturnType<typeof clipFacts> & { key: string }) | null,
    several: 0,
    takes: [] as TakeRow[],
    voices: [] as Voice[],
    spans: [] as VoiceSpan[],

    init() {
      shown = this as unknown as typeof panels;
    },
    get theClip(): ReturnType<typeof clipFacts> {
      if (!this.clip) throw new Error("No clip is selected.");
      return this.clip;
    },

    open(tab: RoomTab) {
      keepTab("sound", tab);
      this.turnTo(tab);
    },
    turnTo(tab: RoomTab) {
      now().tab = tab;
    },

    get top() {
      return { paddingTop: `${RULER}px` };
    },
    choose: (track: number) => page.choose(track),
    mute(track: SoundTrack) {
      page.edit("track", { track: track.id, muted: !track.muted });
    },
    solo(track: SoundTrack) {
      page.edit("track", { track: track.id, solo: !track.solo });
    },
    trackGain(track: SoundTrack, event: Event) {
      page.edit("track", { track: track.id, gain: Number(fieldOf(event).value) });
    },
    removeTrack(track: SoundTrack) {
      page.edit("remove-track", { track: track.id });
    },

    startsAt(event: Event) {
      const value = fieldOf(event).valueAsNumber;
      if (Number.isFinite(value)) page.edit("slide", { clips: [this.theClip.id], by: value - this.theClip.at, ripple: page.ripple() });
    },
    clipGain(event: Event) {
      const value = fieldOf(event).valueAsNumber;
      if (Number.isFinite(value)) page.edit("gain", { clip: this.theClip.id, gain: value });
    },
    channel(event: Event) {
      page.edit("channel", { clip: this.theClip.id, channel: Number(fieldOf(event).value) });
    },
    goTo(frame: number) {
      page.go(frame);
    },

    hear(take: TakeRow) {
      audio.src = take.listen;
      audio.play();
    },
    keep(take: TakeRow) {
      page.edit("keep-take", { take: take.id, start: take.at ?? page.view.frame });
    },

    // A suggestion: for each voice a choice of character; each stretch is drawn on the lane of whom its voice is said to be.
    suggest(spans: VoiceSpan[]) {
      const here = now();
      const count = Math.max(...spans.map((span) => span[2])) + 1;
      here.spans = spans;
      here.voices = Array.from({ length: count }, (_, voice) => {
        const own = spans.filter((span) => span[2] === voice);
        const who = page.view.cast.at(Math.min(voice, page.view.cast.length - 1))?.id ?? "";
        return { voice, name: `Voice ${voice + 1}`, who: String(who), first: own[0][0], title: `${own.length} stretches of speech, the first on frame ${Math.floor(own[0][0] * page.view.fps) + page.view.startFrame}` };
      });
      here.showVoices();
    },
    said(voice: Voice, event: Event) {
      voice.who = fieldOf(event).value;
      this.showVoices();
    },
    showVoices() {
      page.view.suggested = this.spans.map(([start, end, voice]) => ({ character: Number(this.voices[voice].who), start, end }));
      page.draw();
    },
    firstOf(voice: Voice) {
      page.go(Math.floor(voice.first * page.view.fps));
    },
    takeVoices() {
      const who = this.voices.map((voice) => Number(voice.who));
      page.view.suggested = [];
      page.edit("take-voices", { spans: this.spans, who });
      this.voices = [];
    },

    // How it stands now.
    show() {
      const { view } = page;
      const clips = clipsOf(view.sound).filter((clip) => view.selected.has(clip.id));
      const here = now();
      here.turn += 1;
      Object.assign(here, {
        cast: view.cast.map(voiceHead),
        tracks: view.sound.tracks.map((track) => trackHead(track, view, here.turn)),
        clip: clips.length === 1 ? { ...clipFacts(clips[0], view, view.fps), key: `${clips[0].id}.${here.turn}` } : null,
        several: clips.length > 1 ? clips.length : 0,
        takes: view.sound.takes.map((take) => ({ ...take, long: `${Math.round(take.seconds * view.fps)} frames · ${take.seconds.toFixed(1)} s`, keep: take.kept ? "kept" : "Keep" })),
      });
    },
  });
  let shown: typeof panels | null = null;
  const now = () => shown ?? panels;
  component("room", () => panels);
  return panels;
}

const voiceHead = (one: CastMember) => ({
  id: one.id,
  text: String(one.id),
  who: one.name,
  name: one.key ? `${one.key} ${one.name}` : one.name,
  height: { height: `${VOICE}px` },
  title: one.key ? `Hold ${one.key} while it plays, in a live pass, to mark ${one.name} as speaking` : one.name,
});

const trackHead = (track: SoundTrack, view: RoomView, turn: number) => ({
  ...track,
  key: `${track.id}.${turn}`,
  kind: KINDS[track.kind],
  title: track.name || KINDS[track.kind],
  height: { height: `${view.trackHeight}px` },
  chosen: view.track === track.id,
  muteTitle: `Mute ${track.name}`,
  soloTitle: `Hear ${track.name} alone`,
  gainTitle: `Gain of ${track.name} in dB`,
  removeTitle: `Remove the track ${track.name} with its clips`,
});

// What is said of the one clip that is selected; findings with the frames of the scene where they are heard.
export function clipFacts(clip: Clip, view: Pick<RoomView, "sound" | "startFrame">, fps: number) {
  const sound = view.sound.sounds[clip.sound];
  const heard = (frame: number) => frame >= clip.start && frame < clip.start + clip.frames;
  return {
    id: clip.id,
    name: clip.name,
    facts: `${clip.frames} frames · ${sound.seconds.toFixed(2)} s · ${sound.rate} Hz · ${sound.channels === 1 ? "mono" : `${sound.channels} channels`} · `,
    original: sound.original,
    at: clip.start + view.startFrame,
    gain: clip.gain,
    channel: clip.channel,
    channels: sound.channels > 1 ? [{ number: -1, name: "all mixed" }, ...Array.from({ length: sound.channels }, (_, i) => ({ number: i, name: `channel ${i + 1}` }))] : [],
    notes: sound.notes,
    findings: sound.findings.map((finding, number) => ({
      number,
      text: finding.text,
      look: [finding.kind === "verdict" ? "verdict" : "", finding.grave ? "grave" : ""].join(" "),
      places: finding.places.map(([start]) => Math.round(start * fps) - clip.offset + clip.start).filter(heard).slice(0, MOST_PLACES).map((frame) => ({ frame, text: String(frame + view.startFrame) })),
    })),
  };
}
