// Sound that leads: the picture asks where the sound is, and never the other way round.
export class Player {
  constructor(rate) {
    this.frameSeconds = rate.denominator / rate.numerator;
    this.buffers = [];
    this.sources = [];
    this.at = 0;
    this.playing = false;
  }

  get context() {
    this.ownContext ??= new AudioContext({ latencyHint: "interactive" });
    return this.ownContext;
  }

  async load(url) {
    const response = await fetch(url);
    if (!response.ok) throw new Error("The sound could not be loaded.");
    this.buffers.push(await this.context.decodeAudioData(await response.arrayBuffer()));
  }

  get seconds() {
    return Math.max(0, ...this.buffers.map((buffer) => buffer.duration));
  }

  // Where the sound is now, as it is heard: the audio clock less the time it takes to the ear.
  get time() {
    if (!this.playing) return this.at;
    const heard = this.context.currentTime - (this.context.outputLatency || 0) - this.begun;
    return Math.min(this.seconds, Math.max(this.at, this.at + heard));
  }

  async play(from) {
    this.stop();
    await this.context.resume();
    this.at = from >= this.seconds - this.frameSeconds / 2 ? 0 : from;
    this.begun = this.context.currentTime + 0.02;
    this.#start(this.at, undefined, this.begun);
    this.playing = true;
  }

  stop() {
    this.at = this.time;
    this.playing = false;
    for (const source of this.sources) source.stop();
    this.sources = [];
  }

  // The sound of one frame, for scrubbing and stepping.
  async scrub(time) {
    this.stop();
    this.at = time;
    await this.context.resume();
    for (const source of this.sources) source.stop();
    this.sources = [];
    this.#start(time, Math.max(this.frameSeconds, 0.06), this.context.currentTime);
  }

  #start(offset, duration, when) {
    for (const buffer of this.buffers) {
      if (offset >= buffer.duration) continue;
      const source = new AudioBufferSourceNode(this.context, { buffer });
      source.connect(this.context.destination);
      source.start(when, offset, duration);
      this.sources.push(source);
    }
  }
}
