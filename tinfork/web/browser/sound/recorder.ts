// Recording in the browser: choose the microphone, see its level, count in, keep takes and choose one.
import { whoIn } from "../lib/cast.ts";
import { inside } from "../lib/page.ts";
import { formOf, pause } from "../lib/store/requests.ts";
import type { Room } from "./state.ts";
import { wavOf } from "./wav.ts";

const COUNT = 3;
const COUNT_MS = 600;
const HOT = 0.98;

export class Recorder {
  readonly place: HTMLElement;
  readonly page: Room;
  // Where takes are sent.
  readonly url: string;
  #stream: MediaStream | null = null;
  #source: MediaStreamAudioSourceNode | null = null;
  // The count before a take; what is heard of the take; the frame the playhead was on.
  #counting: AbortController | null = null;
  #blocks: Float32Array[] | null = null;
  #at = 0;
  readonly #button: HTMLButtonElement;
  readonly #device: HTMLSelectElement;
  readonly #character: HTMLSelectElement;

  constructor(place: HTMLElement, page: Room, url: string) {
    this.place = place;
    this.page = page;
    this.url = url;
    this.#button = inside(place, "[data-record]");
    this.#device = inside(place, "[data-device]");
    this.#character = inside(place, "[data-character]");
    inside(place, "[data-open]").addEventListener("click", () => this.#open());
    this.#button.addEventListener("click", () => (this.#counting || this.#blocks ? this.#stop() : this.#count()));
    this.#device.addEventListener("change", () => this.#open());
  }

  show(): void {
    for (const control of this.place.querySelectorAll<HTMLButtonElement | HTMLSelectElement>("button, select")) if (!this.page.given.mayEdit) control.disabled = true;
  }

  async #open() {
    this.#close();
    const wanted = this.#device.value;
    try {
      const audio = { deviceId: wanted ? { exact: wanted } : undefined, echoCancellation: false, noiseSuppression: false, autoGainControl: false };
      this.#stream = await navigator.mediaDevices.getUserMedia({ audio });
      await this.#hear(this.#stream);
    } catch (refused) {
      const why = refused instanceof Error && refused.name === "NotFoundError" ? "No microphone was found; plug one in, then press Microphone again." : "The microphone was refused; allow it beside the address above, then press Microphone again.";
      this.page.say(why);
      return;
    }
    await this.#devices(this.#stream, wanted);
    this.#button.disabled = false;
  }

  #close() {
    for (const track of this.#stream?.getTracks() ?? []) track.stop();
    this.#source?.disconnect();
    this.#stream = this.#source = null;
  }

  async #devices(stream: MediaStream, wanted: string) {
    const inputs = (await navigator.mediaDevices.enumerateDevices()).filter((device) => device.kind === "audioinput");
    const select = this.#device;
    select.replaceChildren(...inputs.map((device, i) => new Option(device.label || `Microphone ${i + 1}`, device.deviceId)));
    select.value = wanted || stream.getAudioTracks()[0].getSettings().deviceId || inputs.at(0)?.deviceId || "";
    select.hidden = false;
  }

  async #hear(stream: MediaStream) {
    const { context } = this.page.transport.player;
    context.resume();
    this.#source = context.createMediaStreamSource(stream);
    this.#meter(stream, this.#source);
    await this.#capture(this.#source);
  }

  #meter(stream: MediaStream, source: MediaStreamAudioSourceNode) {
    const ear = new AnalyserNode(source.context, { fftSize: 1024 });
    source.connect(ear);
    const heard = new Float32Array(ear.fftSize);
    const meter = inside<HTMLMeterElement>(this.place, "[data-level]");
    const hot = inside(this.place, "[data-hot]");
    const look = () => {
      if (this.#stream !== stream) return;
      ear.getFloatTimeDomainData(heard);
      const peak = heard.reduce((most, x) => Math.max(most, Math.abs(x)), 1e-5);
      meter.value = Math.max(0, 60 + 20 * Math.log10(peak));
      meter.title = `${Math.round(20 * Math.log10(peak))} dB of full scale`;
      hot.hidden = peak < HOT;
      requestAnimationFrame(look);
    };
    look();
  }

  // Every sample that is heard from when the count is over belongs to the take.
  async #capture(source: MediaStreamAudioSourceNode) {
    const { context } = source;
    await context.audioWorklet.addModule(this.place.dataset.capture ?? "");
    const ear = new AudioWorkletNode(context, "capture", { numberOfOutputs: 0 });
    ear.port.onmessage = ({ data }: MessageEvent<Float32Array>) => void this.#blocks?.push(data);
    source.connect(ear);
  }

  async #count() {
    if (!this.#stream || (await whoIn(this.#character)) === null) return;
    const counting = new AbortController();
    this.#counting = counting;
    for (let left = COUNT; left > 0; left--) {
      this.#button.textContent = `Stop · ${left} …`;
      await pause(COUNT_MS);
      if (counting.signal.aborted) return;
    }
    this.#counting = null;
    this.#button.textContent = "Stop";
    this.#at = this.page.view.frame;
    this.#blocks = [];
  }

  #stop() {
    this.#button.textContent = "Record";
    this.#counting?.abort();
    this.#counting = null;
    const blocks = this.#blocks;
    this.#blocks = null;
    if (blocks?.length) this.#keep(new Blob([wavOf(blocks, this.page.transport.player.context.sampleRate)], { type: "audio/wav" }));
  }

  #keep(blob: Blob) {
    const form = formOf({ character: this.#character.value, at: this.#at });
    form.append("sound", blob, "take.wav");
    this.page.editor.send(this.url, form, this.page.take);
  }
}
