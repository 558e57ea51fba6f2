// Sound that leads: the picture asks where the sound is, and never the other way round.
// At its own speed, clips are scheduled on the audio clock; slower, a mix of them plays with its pitch kept.
import type { Rate, Sound } from "../types.ts";
import { type HeardSound, heardPieces, Pieces } from "./pieces.ts";

const MIX_RATE = 24000;

// So many seconds are scheduled at a time, with so many of them left for the next; and slower ones are mixed at a time.
const [AHEAD, LEFT, MIXED] = [40, 15, 300];

// What is heard, with a factor for how loud.
export interface HeardClip extends HeardSound {
  peaks: string;
  gain: number;
}

export class Player {
  readonly frameSeconds: number;
  readonly pieces = new Pieces((url: string) => this.#load(url));
  clips: readonly HeardClip[] = [];
  seconds = 0;
  at = 0;
  playing = false;
  starting = false;
  speed = 1;
  range: { start: number; end: number } | null = null;
  sources: AudioBufferSourceNode[] = [];
  #slow: HTMLAudioElement | null = null;
  #element: HTMLAudioElement | null = null;
  #context: AudioContext | null = null;
  // Which turn of playing this is: what was begun in another is over.
  #turn = 0;
  #begun = 0;
  #until = 0;
  // Minutes mixed for slow playing; stale where the clips are others now.
  #mix: { url: string; from: number; to: number; stale: boolean } | null = null;

  constructor(rate: Rate) {
    this.frameSeconds = rate.denominator / rate.numerator;
  }

  get context(): AudioContext {
    this.#context ??= new AudioContext({ latencyHint: "interactive" });
    return this.#context;
  }

  // seconds: of the scene.
  async show(clips: readonly HeardClip[], seconds: number): Promise<void> {
    this.clips = clips;
    this.seconds = seconds;
    if (this.#mix) this.#mix.stale = true;
    this.#letGo();
    const short = clips.filter((clip) => !(clip.whole > MIXED));
    await Promise.all([this.pieces.have(short, 0, seconds), this.#have(this.at, this.at + AHEAD)]);
  }

  #have(from: number, to: number) {
    return this.pieces.have(this.clips, from, to);
  }

  #letGo() {
    this.pieces.keep(this.clips, this.at - AHEAD, this.at + (this.#mix && !this.#mix.stale ? MIXED : 2 * AHEAD));
  }

  async #load(url: string): Promise<AudioBuffer> {
    const response = await fetch(url);
    if (!response.ok) throw new Error("The sound could not be loaded.");
    return this.context.decodeAudioData(await response.arrayBuffer());
  }

  // Where the sound is now, as it is heard: the audio clock less the time it takes to the ear.
  get time(): number {
    if (!this.playing) return this.at;
    if (this.#slow) return Math.min(this.seconds, Math.max(this.at, (this.#mix?.from ?? 0) + this.#slow.currentTime));
    const heard = this.context.currentTime - (this.context.outputLatency || 0) - this.#begun;
    return Math.min(this.seconds, Math.max(this.at, this.at + heard));
  }

  // Whether the browser lets the page be heard without a click first.
  async mayBeHeard(): Promise<boolean> {
    await Promise.race([this.context.resume(), new Promise((done) => setTimeout(done, 500))]);
    return this.context.state === "running";
  }

  // Play from a time; range: {start, end} to play over and over, or null. Whether it does: it was not stopped, or begun
  // anew, before it could.
  async play(from: number): Promise<boolean> {
    this.stop();
    this.starting = true;
    const mine = this.#turn;
    await this.context.resume();
    if (this.#turn !== mine) return false;
    const { start, end } = this.range ?? { start: 0, end: this.seconds };
    this.at = from < start || from >= end - this.frameSeconds / 2 ? start : from;
    if (this.speed === 1) {
      this.#until = Math.min(end, this.at + AHEAD);
      await this.#have(this.at, this.#until);
      if (this.#turn !== mine) return false;
      this.#letGo();
      this.#begun = this.context.currentTime + 0.02;
      this.#start(this.context, this.at, this.#until - this.at, this.#begun);
    } else if (!(await this.#playSlow(mine))) return false;
    this.starting = false;
    this.playing = true;
    return true;
  }

  // To be asked on every picture: goes round when the end of the range is reached, stops at the end of the scene.
  async turn(): Promise<void> {
    const time = this.time;
    const end = this.range?.end ?? this.seconds;
    if (this.#slow && time < end && time >= (this.#mix?.to ?? 0) - this.frameSeconds) {
      await this.play(time);
      return;
    }
    if (!this.#slow && this.#until < end && time > this.#until - LEFT) this.#goOn(end);
    if (time < end) return;
    if (this.range) await this.play(this.range.start);
    else {
      this.stop();
      this.at = this.seconds;
    }
  }

  // Schedule what comes next, before what is scheduled has ended.
  async #goOn(end: number) {
    const [from, mine] = [this.#until, this.#turn];
    this.#until = Math.min(end, from + AHEAD);
    await this.#have(from, this.#until);
    if (this.#turn !== mine) return;
    this.#start(this.context, from, this.#until - from, this.#begun + from - this.at);
    this.pieces.keep(this.clips, from - AHEAD, this.#until + AHEAD);
  }

  stop(): void {
    this.at = this.time;
    this.playing = this.starting = false;
    this.#turn += 1;
    this.#slow?.pause();
    this.#slow = null;
    this.#silent();
  }

  #silent() {
    for (const source of this.sources) source.stop();
    this.sources = [];
  }

  // The sound of one frame, for scrubbing and stepping.
  async scrub(time: number): Promise<void> {
    this.stop();
    this.at = time;
    const mine = this.#turn;
    await Promise.all([this.context.resume(), this.#have(time, time + 1)]);
    if (this.#turn !== mine) return;
    this.#letGo();
    this.#silent();
    this.#start(this.context, time, Math.max(this.frameSeconds, 0.06), this.context.currentTime);
  }

  async #playSlow(mine: number): Promise<boolean> {
    const known = this.#mix;
    const covers = known && !known.stale && this.at >= known.from && this.at < known.to - this.frameSeconds;
    const mix = covers ? known : await this.#mixDown(this.at);
    if (this.#turn !== mine) return false;
    this.#element ??= this.#audio();
    const element = this.#element;
    if (element.src !== mix.url) element.src = mix.url;
    element.preservesPitch = true;
    element.playbackRate = this.speed;
    element.currentTime = this.at - mix.from;
    await element.play();
    if (this.#turn !== mine) {
      element.pause();
      return false;
    }
    this.#slow = element;
    return true;
  }

  #audio(): HTMLAudioElement {
    const element = new Audio();
    this.context.createMediaElementSource(element).connect(this.context.destination);
    return element;
  }

  // Some minutes from a time on; the whole where it is no longer than that.
  async #mixDown(at: number) {
    const from = this.seconds <= MIXED ? 0 : at;
    const to = Math.min(this.seconds, from + MIXED);
    await this.#have(from, to);
    const offline = new OfflineAudioContext(1, Math.max(1, Math.ceil((to - from) * MIX_RATE)), MIX_RATE);
    this.#start(offline, from, to - from, 0);
    const samples = (await offline.startRendering()).getChannelData(0);
    this.sources = [];
    if (this.#mix) URL.revokeObjectURL(this.#mix.url);
    const url = URL.createObjectURL(new Blob([wav(samples, MIX_RATE)], { type: "audio/wav" }));
    this.#mix = { url, from, to, stale: false };
    return this.#mix;
  }

  #start(context: BaseAudioContext, offset: number, duration: number, when: number) {
    for (const clip of this.clips) {
      for (const piece of heardPieces(clip, offset, offset + duration)) {
        const buffer = this.pieces.get(piece.url);
        if (!buffer || piece.inside >= buffer.duration) continue;
        const source = new AudioBufferSourceNode(context, { buffer });
        const gain = new GainNode(context, { gain: clip.gain });
        source.connect(gain).connect(context.destination);
        source.start(when + piece.when - offset, piece.inside, piece.seconds);
        this.sources.push(source);
      }
    }
  }
}

// A mono signal as a 16-bit WAV file.
export function wav(samples: Float32Array, rate: number): ArrayBuffer {
  const view = new DataView(new ArrayBuffer(44 + samples.length * 2));
  const put = (at: number, text: string) => [...text].forEach((letter, i) => view.setUint8(at + i, letter.charCodeAt(0)));
  put(0, "RIFF");
  view.setUint32(4, 36 + samples.length * 2, true);
  put(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, rate * 2, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  put(36, "data");
  view.setUint32(40, samples.length * 2, true);
  const values = new Int16Array(view.buffer, 44);
  for (let i = 0; i < samples.length; i++) values[i] = Math.max(-1, Math.min(1, samples[i])) * 32767;
  return view.buffer as ArrayBuffer;
}

// What is heard of an arrangement, as the player takes it. fps: frames per second.
export function heardClips(sound: Pick<Sound, "tracks">, fps: number): HeardClip[] {
  const solo = sound.tracks.some((track) => track.solo);
  const heard = sound.tracks.filter((track) => !track.muted && (track.solo || !solo));
  return heard.flatMap((track) =>
    track.clips.map((clip) => ({
      listen: clip.listen,
      peaks: clip.peaks,
      start: clip.start / fps,
      offset: clip.offset / fps,
      seconds: clip.frames / fps,
      whole: clip.whole / fps,
      gain: 10 ** ((clip.gain + track.gain) / 20),
    })),
  );
}
