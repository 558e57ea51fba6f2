// Sound that leads: the picture asks where the sound is, and never the other way round.
// At its own speed, clips are scheduled on the audio clock; slower, a mix of them plays with its pitch kept.
const MIX_RATE = 24000;

export class Player {
  constructor(rate) {
    this.frameSeconds = rate.denominator / rate.numerator;
    this.buffers = new Map();
    this.clips = [];
    this.sources = [];
    this.at = 0;
    this.playing = false;
    this.starting = false;
    this.speed = 1;
    this.range = null;
    this.slow = null;
    this.element = null;
    this.ownContext = null;
    this.turnOf = 0;
  }

  get context() {
    this.ownContext ??= new AudioContext({ latencyHint: "interactive" });
    return this.ownContext;
  }

  // clips: [{listen, start, offset, seconds, gain}], times in seconds of the scene, gain a factor.
  async show(clips, seconds) {
    this.clips = clips;
    this.seconds = seconds;
    this.mix = null;
    const heard = new Set(clips.map((clip) => clip.listen));
    for (const url of this.buffers.keys()) if (!heard.has(url)) this.buffers.delete(url);
    const missing = [...heard].filter((url) => !this.buffers.has(url));
    await Promise.all(missing.map((url) => this.#load(url)));
  }

  async #load(url) {
    const response = await fetch(url);
    if (!response.ok) throw new Error("The sound could not be loaded.");
    this.buffers.set(url, await this.context.decodeAudioData(await response.arrayBuffer()));
  }

  // Where the sound is now, as it is heard: the audio clock less the time it takes to the ear.
  get time() {
    if (!this.playing) return this.at;
    if (this.slow) return Math.min(this.seconds, Math.max(this.at, this.slow.currentTime));
    const heard = this.context.currentTime - (this.context.outputLatency || 0) - this.begun;
    return Math.min(this.seconds, Math.max(this.at, this.at + heard));
  }

  // Whether the browser lets the page be heard without a click first.
  async mayBeHeard() {
    await Promise.race([this.context.resume(), new Promise((done) => setTimeout(done, 500))]);
    return this.context.state === "running";
  }

  // Play from a time; range: {start, end} to play over and over, or null. Whether it does: it was not stopped, or begun
  // anew, before it could.
  async play(from) {
    this.stop();
    this.starting = true;
    const mine = this.turnOf;
    await this.context.resume();
    if (this.turnOf !== mine) return false;
    const { start, end } = this.range ?? { start: 0, end: this.seconds };
    this.at = from < start || from >= end - this.frameSeconds / 2 ? start : from;
    if (this.speed === 1) {
      this.begun = this.context.currentTime + 0.02;
      this.#start(this.context, this.at, end - this.at, this.begun);
    } else if (!(await this.#playSlow(mine))) return false;
    this.starting = false;
    this.playing = true;
    return true;
  }

  // To be asked on every picture: goes round when the end of the range is reached, stops at the end of the scene.
  async turn() {
    const time = this.time;
    if (time < (this.range?.end ?? this.seconds)) return;
    if (this.range) await this.play(this.range.start);
    else {
      this.stop();
      this.at = this.seconds;
    }
  }

  stop() {
    this.at = this.time;
    this.playing = this.starting = false;
    this.turnOf += 1;
    this.slow?.pause();
    this.slow = null;
    for (const source of this.sources) source.stop();
    this.sources = [];
  }

  // The sound of one frame, for scrubbing and stepping.
  async scrub(time) {
    this.stop();
    this.at = time;
    const mine = this.turnOf;
    await this.context.resume();
    if (this.turnOf !== mine) return;
    for (const source of this.sources) source.stop();
    this.sources = [];
    this.#start(this.context, time, Math.max(this.frameSeconds, 0.06), this.context.currentTime);
  }

  async #playSlow(mine) {
    this.mix ??= await this.#mixDown();
    if (this.turnOf !== mine) return false;
    this.element ??= this.#audio();
    if (this.element.src !== this.mix) this.element.src = this.mix;
    this.element.preservesPitch = true;
    this.element.playbackRate = this.speed;
    this.element.currentTime = this.at;
    await this.element.play();
    if (this.turnOf !== mine) {
      this.element.pause();
      return false;
    }
    this.slow = this.element;
    return true;
  }

  #audio() {
    const element = new Audio();
    this.context.createMediaElementSource(element).connect(this.context.destination);
    return element;
  }

  async #mixDown() {
    const offline = new OfflineAudioContext(1, Math.max(1, Math.ceil(this.seconds * MIX_RATE)), MIX_RATE);
    this.#start(offline, 0, this.seconds, 0);
    const samples = (await offline.startRendering()).getChannelData(0);
    this.sources = [];
    if (this.mixUrl) URL.revokeObjectURL(this.mixUrl);
    this.mixUrl = URL.createObjectURL(new Blob([wav(samples, MIX_RATE)], { type: "audio/wav" }));
    return this.mixUrl;
  }

  #start(context, offset, duration, when) {
    for (const clip of this.clips) {
      const buffer = this.buffers.get(clip.listen);
      const from = Math.max(offset, clip.start);
      const seconds = Math.min(offset + duration, clip.start + clip.seconds) - from;
      const inside = clip.offset + from - clip.start;
      if (!buffer || seconds <= 0 || inside >= buffer.duration) continue;
      const source = new AudioBufferSourceNode(context, { buffer });
      const gain = new GainNode(context, { gain: clip.gain });
      source.connect(gain).connect(context.destination);
      source.start(when + from - offset, inside, seconds);
      this.sources.push(source);
    }
  }
}

// A mono signal as a 16-bit WAV file.
export function wav(samples, rate) {
  const view = new DataView(new ArrayBuffer(44 + samples.length * 2));
  const put = (at, text) => [...text].forEach((letter, i) => view.setUint8(at + i, letter.charCodeAt(0)));
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
  return view.buffer;
}

// What is heard of an arrangement, as the player takes it. fps: frames per second.
export function heardClips(sound, fps) {
  const solo = sound.tracks.some((track) => track.solo);
  const heard = sound.tracks.filter((track) => !track.muted && (track.solo || !solo));
  return heard.flatMap((track) =>
    track.clips.map((clip) => ({
      listen: clip.listen,
      peaks: clip.peaks,
      start: clip.start / fps,
      offset: clip.offset / fps,
      seconds: clip.frames / fps,
      gain: 10 ** ((clip.gain + track.gain) / 20),
    })),
  );
}
