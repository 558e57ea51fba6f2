// The panels of the Sound view: the heads of the tracks beside the canvas, what is selected and how good its sound is,
// the takes, and the voices that were told apart. The page says what is so; what is pressed goes back to it.
import { RULER } from "../lib/ruler.js";
import { TRACK, VOICE } from "./tracks.js";

const KINDS = { dialogue: "dialogue", shared: "shared dialogue", effects: "effects", music: "music" };
const MOST_PLACES = 6;

/** @param {{view: any, mayEdit: boolean, fps: number, edit: Function, choose: Function, go: Function, ripple: () => boolean,
 *   draw: Function}} page */
export function panelsOf(page) {
  let shown = null;
  const audio = typeof Audio === "undefined" ? null : new Audio();
  const panels = {
    mayEdit: page.mayEdit,
    locked: !page.mayEdit,
    turn: 0,
    cast: [],
    tracks: [],
    clip: null,
    several: 0,
    takes: [],
    voices: [],
    spans: [],

    init() {
      shown = this;
    },

    get top() {
      return { paddingTop: `${RULER}px` };
    },
    choose: page.choose,
    mute(track) {
      page.edit("track", { track: track.id, muted: !track.muted });
    },
    solo(track) {
      page.edit("track", { track: track.id, solo: !track.solo });
    },
    trackGain(track, event) {
      page.edit("track", { track: track.id, gain: Number(event.target.value) });
    },
    removeTrack(track) {
      page.edit("remove-track", { track: track.id });
    },

    startsAt(event) {
      const value = event.target.valueAsNumber;
      if (Number.isFinite(value)) page.edit("slide", { clips: [this.clip.id], by: value - this.clip.at, ripple: page.ripple() });
    },
    clipGain(event) {
      const value = event.target.valueAsNumber;
      if (Number.isFinite(value)) page.edit("gain", { clip: this.clip.id, gain: value });
    },
    channel(event) {
      page.edit("channel", { clip: this.clip.id, channel: Number(event.target.value) });
    },
    goTo(frame) {
      page.go(frame);
    },

    hear(take) {
      audio.src = take.listen;
      audio.play();
    },
    keep(take) {
      page.edit("keep-take", { take: take.id, start: page.view.frame });
    },

    // A suggestion: for each voice a choice of character; each stretch is drawn on the lane of whom its voice is said to be.
    suggest(spans) {
      const here = shown ?? panels;
      const count = Math.max(...spans.map((span) => span[2])) + 1;
      here.spans = spans;
      here.voices = Array.from({ length: count }, (_, voice) => {
        const own = spans.filter((span) => span[2] === voice);
        const who = page.view.cast[Math.min(voice, page.view.cast.length - 1)]?.id ?? "";
        return { voice, name: `Voice ${voice + 1}`, who: String(who), first: own[0][0], title: `${own.length} stretches of speech` };
      });
      here.showVoices();
    },
    said(voice, event) {
      voice.who = event.target.value;
      this.showVoices();
    },
    showVoices() {
      page.view.suggested = this.spans.map(([start, end, voice]) => ({ character: Number(this.voices[voice].who), start, end }));
      page.draw();
    },
    firstOf(voice) {
      page.go(Math.floor(voice.first * page.fps));
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
      const clips = view.sound.tracks.flatMap((track) => track.clips).filter((clip) => view.selected.has(clip.id));
      const here = shown ?? panels;
      here.turn += 1;
      Object.assign(here, {
        cast: view.cast.map(voiceHead),
        tracks: view.sound.tracks.map((track) => trackHead(track, view, here.turn)),
        clip: clips.length === 1 ? { ...clipFacts(clips[0], view, page.fps), key: `${clips[0].id}.${here.turn}` } : null,
        several: clips.length > 1 ? clips.length : 0,
        takes: view.sound.takes.map((take) => ({ ...take, long: `${take.seconds.toFixed(1)} s`, keep: take.kept ? "kept" : "Keep" })),
      });
    },
  };
  document.addEventListener("alpine:init", () => window.Alpine.data("room", () => panels));
  return panels;
}

const voiceHead = (one) => ({
  id: one.id,
  text: String(one.id),
  who: one.name,
  name: one.key ? `${one.key} ${one.name}` : one.name,
  height: { height: `${VOICE}px` },
  title: one.key ? `Hold ${one.key} while it plays, in a live pass, to mark ${one.name} as speaking` : one.name,
});

const trackHead = (track, view, turn) => ({
  ...track,
  key: `${track.id}.${turn}`,
  kind: KINDS[track.kind],
  title: track.name || KINDS[track.kind],
  height: { height: `${TRACK}px` },
  chosen: view.track === track.id,
  muteTitle: `Mute ${track.name}`,
  soloTitle: `Hear ${track.name} alone`,
  gainTitle: `Gain of ${track.name} in dB`,
  removeTitle: `Remove the track ${track.name} with its clips`,
});

/** What is said of the one clip that is selected; findings with the frames of the scene where they are heard. */
export function clipFacts(clip, view, fps) {
  const sound = view.sound.sounds[clip.sound];
  const heard = (frame) => frame >= clip.start && frame < clip.start + clip.frames;
  return {
    id: clip.id,
    name: clip.name,
    facts: `${sound.seconds.toFixed(2)} s · ${sound.rate} Hz · ${sound.channels === 1 ? "mono" : `${sound.channels} channels`} · `,
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
