// What is selected: where it lies, how loud, which channel, and what the quality report says of it.
import { element } from "../lib/element.js";

export class Inspector {
  constructor(place, page) {
    this.place = place;
    this.page = page;
  }

  show() {
    const { view } = this.page;
    const clips = view.sound.tracks.flatMap((track) => track.clips).filter((clip) => view.selected.has(clip.id));
    if (clips.length === 1) this.place.replaceChildren(...this.#one(clips[0]));
    else if (clips.length) this.place.replaceChildren(this.#several(clips));
    else this.place.replaceChildren(element("p", { className: "quiet", textContent: "Select a clip to see how good its sound is, and to place it by number. Shift+click selects several." }));
  }

  #several(clips) {
    return element("p", { textContent: `${clips.length} clips selected: they are moved and deleted together. Alt+Left and Alt+Right move them by a frame.` });
  }

  #one(clip) {
    const { view, edit, mayEdit, fps } = this.page;
    const sound = view.sound.sounds[clip.sound];
    const title = element("h2", { textContent: clip.name });
    const facts = element("p", { className: "quiet" });
    facts.append(`${sound.seconds.toFixed(2)} s · ${sound.rate} Hz · ${sound.channels === 1 ? "mono" : `${sound.channels} channels`} · `);
    facts.append(element("a", { href: sound.original, textContent: "the file as it came" }));
    const fields = element("div", { className: "fields" });
    fields.append(
      this.#number("Starts at frame", clip.start + view.startFrame, {}, (value) => edit("slide", { clips: [clip.id], by: value - view.startFrame - clip.start, ripple: document.getElementById("ripple").checked })),
      this.#number("Gain, dB", clip.gain, { min: -60, max: 24, step: 0.5 }, (value) => edit("gain", { clip: clip.id, gain: value })),
    );
    if (sound.channels > 1) fields.append(this.#channel(clip, sound));
    for (const input of fields.querySelectorAll("input, select")) input.disabled = !mayEdit;
    const report = element("ul", { className: "findings" });
    report.append(...sound.notes.map((note) => element("li", { textContent: note })), ...sound.findings.map((finding) => this.#finding(finding, clip, fps)));
    return [title, facts, fields, report];
  }

  #number(label, value, limits, change) {
    const input = element("input", { type: "number", className: "mono form-control form-control-sm", value, ...limits });
    input.addEventListener("change", () => Number.isFinite(input.valueAsNumber) && change(input.valueAsNumber));
    const wrap = element("label", { textContent: label });
    wrap.append(input);
    return wrap;
  }

  #channel(clip, sound) {
    const select = element("select", { className: "form-select form-select-sm" });
    select.append(new Option("all mixed", "-1"), ...Array.from({ length: sound.channels }, (_, i) => new Option(`channel ${i + 1}`, String(i))));
    select.value = String(clip.channel);
    select.addEventListener("change", () => this.page.edit("channel", { clip: clip.id, channel: Number(select.value) }));
    const wrap = element("label", { textContent: "Hear" });
    wrap.append(select);
    return wrap;
  }

  #finding(finding, clip, fps) {
    const item = element("li", { className: finding.kind === "verdict" ? (finding.grave ? "verdict grave" : "verdict") : finding.grave ? "grave" : "", textContent: finding.text });
    const frames = finding.places.map(([start]) => Math.round(start * fps) - clip.offset + clip.start).filter((f) => f >= clip.start && f < clip.start + clip.frames);
    for (const frame of frames.slice(0, 6)) {
      const button = element("button", { type: "button", className: "btn btn-sm btn-quiet mono", textContent: String(frame + this.page.view.startFrame), title: "Go to this place" });
      button.addEventListener("click", () => this.page.go(frame));
      item.append(" ", button);
    }
    return item;
  }
}
