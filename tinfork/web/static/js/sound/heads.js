// The heads of the tracks: name, mute, solo, gain; beside them on the canvas lie the clips.
import { element } from "../lib/element.js";
import { RULER } from "../lib/ruler.js";
import { TRACK, VOICE } from "./tracks.js";

const KINDS = { dialogue: "dialogue", shared: "shared dialogue", effects: "effects", music: "music" };

export function showHeads(place, page) {
  const { view } = page;
  const spacer = element("div", { className: "voices-heads" });
  spacer.style.paddingTop = `${RULER}px`;
  spacer.append(...view.cast.map((one) => voice(one)));
  place.replaceChildren(spacer, ...view.sound.tracks.map((track) => head(track, page)));
}

function voice(one) {
  const row = element("div", { className: "voice-head", textContent: one.key ? `${one.key} ${one.name}` : one.name });
  row.style.height = `${VOICE}px`;
  row.dataset.character = String(one.id);
  row.title = one.key ? `Hold ${one.key} while it plays, in a live pass, to mark ${one.name} as speaking` : one.name;
  return row;
}

function head(track, page) {
  const row = element("div", { className: "track-head" });
  row.style.height = `${TRACK}px`;
  row.dataset.track = String(track.id);
  if (page.view.track === track.id) row.classList.add("chosen");
  const name = element("button", { type: "button", className: "track-name", textContent: track.name || KINDS[track.kind] });
  name.title = "Choose this track: cutting out and opening a gap then mean it alone";
  name.setAttribute("aria-pressed", String(page.view.track === track.id));
  name.addEventListener("click", () => page.choose(track.id));
  const kind = element("span", { className: "quiet track-kind", textContent: KINDS[track.kind] });
  const keys = element("div", { className: "track-keys" });
  keys.append(
    toggle("mute", track.muted, `Mute ${track.name}`, page, { track: track.id, muted: !track.muted }),
    toggle("solo", track.solo, `Hear ${track.name} alone`, page, { track: track.id, solo: !track.solo }),
    gain(track, page),
    remove(track, page),
  );
  row.append(name, kind, keys);
  return row;
}

function toggle(text, on, title, page, what) {
  const button = element("button", { type: "button", className: "btn btn-sm btn-quiet", textContent: text, title, disabled: !page.mayEdit });
  button.setAttribute("aria-pressed", String(on));
  button.addEventListener("click", () => page.edit("track", what));
  return button;
}

function gain(track, page) {
  const input = element("input", { type: "number", className: "mono", value: track.gain, min: -60, max: 24, step: 1, title: "Gain of the track, dB", disabled: !page.mayEdit });
  input.setAttribute("aria-label", `Gain of ${track.name} in dB`);
  input.addEventListener("change", () => page.edit("track", { track: track.id, gain: Number(input.value) }));
  return input;
}

function remove(track, page) {
  const button = element("button", { type: "button", className: "btn btn-sm btn-quiet", textContent: "✕", title: `Remove the track ${track.name} with its clips`, disabled: !page.mayEdit });
  button.setAttribute("aria-label", button.title);
  button.addEventListener("click", () => page.edit("remove-track", { track: track.id }));
  return button;
}
