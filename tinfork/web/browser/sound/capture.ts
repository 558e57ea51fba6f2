// Runs beside the page: hands on what the microphone hears, every sample of it, in blocks.
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(name: string, processor: typeof AudioWorkletProcessor): void;

const BLOCK = 2048; // samples

class Capture extends AudioWorkletProcessor {
  #block = new Float32Array(BLOCK);
  #filled = 0;

  process([[samples]]: (Float32Array | undefined)[][]): boolean {
    if (!samples) return true;
    this.#block.set(samples, this.#filled);
    this.#filled += samples.length;
    if (this.#filled === BLOCK) {
      this.port.postMessage(this.#block, [this.#block.buffer]);
      this.#block = new Float32Array(BLOCK);
      this.#filled = 0;
    }
    return true;
  }
}

registerProcessor("capture", Capture);
