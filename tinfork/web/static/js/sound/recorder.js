// Recording in the browser: choose the microphone, see its level, count in, keep takes and choose one.
import { whoIn } from "../lib/cast.js";

const COUNT = 3;

export class Recorder {
  constructor(place, page) {
    this.place = place;
    this.page = page;
    this.$ = (name) => place.querySelector(`[data-${name}]`);
    this.$("open").addEventListener("click", () => this.#open());
    this.$("record").addEventListener("click", () => (this.recording ? this.#stop() : this.#count()));
    this.$("device").addEventListener("change", () => this.#open());
  }

  show() {
    for (const control of this.place.querySelectorAll("button, select")) if (!this.page.given.mayEdit) control.disabled = true;
  }

  async #open() {
    this.#close();
    const wanted = this.$("device").value;
    try {
      const audio = { deviceId: wanted ? { exact: wanted } : undefined, echoCancellation: false, noiseSuppression: false, autoGainControl: false };
      this.stream = await navigator.mediaDevices.getUserMedia({ audio });
    } catch (refused) {
      const why = refused.name === "NotFoundError" ? "No microphone was found; plug one in, then press Microphone again." : "The microphone was refused; allow it beside the address above, then press Microphone again.";
      this.page.say(why);
      return;
    }
    await this.#devices(wanted);
    this.$("record").disabled = false;
    this.#meter();
  }

  #close() {
    for (const track of this.stream?.getTracks() ?? []) track.stop();
    this.stream = null;
  }

  async #devices(wanted) {
    const inputs = (await navigator.mediaDevices.enumerateDevices()).filter((device) => device.kind === "audioinput");
    const select = this.$("device");
    select.replaceChildren(...inputs.map((device, i) => new Option(device.label || `Microphone ${i + 1}`, device.deviceId)));
    select.value = wanted || this.stream.getAudioTracks()[0].getSettings().deviceId || inputs[0]?.deviceId || "";
    select.hidden = false;
  }

  #meter() {
    const { context } = this.page.transport.player;
    context.resume();
    const ear = new AnalyserNode(context, { fftSize: 1024 });
    context.createMediaStreamSource(this.stream).connect(ear);
    const heard = new Float32Array(ear.fftSize);
    const stream = this.stream;
    const look = () => {
      if (this.stream !== stream) return;
      ear.getFloatTimeDomainData(heard);
      const peak = heard.reduce((most, x) => Math.max(most, Math.abs(x)), 1e-5);
      const meter = this.$("level");
      meter.value = Math.max(0, 60 + 20 * Math.log10(peak));
      meter.title = `${Math.round(20 * Math.log10(peak))} dB of full scale`;
      this.$("hot").hidden = peak < 0.98;
      requestAnimationFrame(look);
    };
    look();
  }

  async #count() {
    if (!this.stream || (await whoIn(this.$("character"))) === null) return;
    const button = this.$("record");
    button.disabled = true;
    for (let left = COUNT; left > 0; left--) {
      button.textContent = `${left} …`;
      await new Promise((done) => setTimeout(done, 600));
    }
    button.disabled = false;
    this.#start();
  }

  #start() {
    const pieces = [];
    this.recording = new MediaRecorder(this.stream, { mimeType: "audio/webm;codecs=opus", audioBitsPerSecond: 256000 });
    this.recording.addEventListener("dataavailable", (event) => pieces.push(event.data));
    this.recording.addEventListener("stop", () => this.#keep(new Blob(pieces, { type: "audio/webm" })));
    this.recording.addEventListener("start", () => {
      this.$("record").textContent = "Stop";
    });
    this.recording.start();
  }

  #stop() {
    this.recording.stop();
    this.recording = null;
    this.$("record").textContent = "Record";
  }

  #keep(blob) {
    const form = new FormData();
    form.append("sound", blob, "take.webm");
    form.append("character", this.$("character").value);
    this.page.editor.send(this.page.url, form, this.page.take);
  }
}
