// The prompter, for the camera: one frame at a time, what was, is and comes next, and what was shot.
import { lookAfter } from "../desk/companions.js";
import { Mirror } from "../desk/mirror.js";
import { endOf, placeAt } from "../desk/selection.js";
import { Slices } from "../desk/slices.js";
import { ActingShown } from "../lib/acting.js";
import { frameAt } from "../lib/clock.js";
import { NoConnection, post, sayIn } from "../lib/edits.js";
import { heardClips, Player } from "../lib/player.js";
import { goHome } from "../lib/focus.js";
import { Log } from "./log.js";
import { Onion } from "./onion.js";
import { Telephone } from "./telephone.js";

const given = JSON.parse(document.getElementById("prompter-document")?.textContent ?? "null");
const $ = (id) => document.getElementById(id);
const AGAIN_MS = 2000;
const AHEAD = 240;

/** @param {any} page */
function begin(page) {
  const fps = page.scene.rate.numerator / page.scene.rate.denominator;
  const start = page.scene.startFrame;
  const place = `prompter ${page.scene.id}`;
  const say = sayIn($("problem"));
  const player = new Player(page.scene.rate);
  const last = Math.max(0, page.sound.frames - 1);
  const log = new Log(localStorage, `${place} says`, page.log, (said, since) => post(page.logUrl, { said, since }).then(refused));
  const slices = new Slices(page.staves, page.slice, show);
  const acting = new ActingShown(page.actingUrl, show);
  const state = { frame: remembered() };
  const cast = slices.all.map((stave) => card(stave));
  const onion = page.camera && new Onion(page.camera, { place: $("onion"), skins: $("onion-skins"), of: $("onion-of") }, start);

  function refused(answer) {
    if (answer.problem) throw new Error(answer.problem);
    return answer;
  }

  // Where it was: on this machine, else at the last frame anybody said something of.
  function remembered() {
    const kept = Number.parseInt(localStorage.getItem(place) ?? "", 10);
    return Math.min(last, Math.max(0, Number.isFinite(kept) ? kept : (page.log.last[0]?.frame ?? 0)));
  }

  function card(stave) {
    const own = document.createElement("section");
    own.className = "prompter-card";
    own.setAttribute("aria-label", stave.character);
    const [name, mirror, neighbours] = ["h2", "div", "div"].map((kind) => document.createElement(kind));
    name.textContent = stave.character;
    mirror.className = "mirror";
    neighbours.className = "neighbours";
    own.append(name, mirror, neighbours);
    $("prompter-cast").append(own);
    $("who").append(new Option(stave.character, String(stave.id)));
    const found = new Mirror(mirror, neighbours);
    found.show(stave);
    return { id: stave.id, own, mirror: found };
  }

  function show() {
    const { frame } = state;
    $("prompter-frame").textContent = String(frame + start);
    $("prompter-of").textContent = `${frame + 1} of ${last + 1} · ${page.scene.rate.text} fps`;
    const all = slices.all.flatMap((stave) => stave.lines.flatMap((line) => line.words));
    const words = all.filter((word) => word.said && frameAt(word.start, fps) <= frame && frame < frameAt(word.end, fps));
    $("prompter-word").textContent = words.map((word) => word.text).join(" ") || "–";
    const said = log.state(frame);
    $("prompter-state").textContent = { shot: "shot", again: "shoot again", "": "" }[said];
    $("prompter").dataset.state = said;
    $("prompter").dataset.frame = String(frame);
    const who = $("who").value;
    for (const { id, own, mirror } of cast) {
      own.hidden = who !== "" && who !== String(id);
      mirror.stave = slices.of(id);
      mirror.frame(frame, placeAt(mirror.stave.exposures, frame));
      mirror.face.pose(acting.poses(mirror.stave.characterId, frame));
    }
    if (onion) onion.show(frame);
    entries();
  }

  // What a telephone shows of it.
  function told() {
    const mouths = cast.filter(({ own }) => !own.hidden).map(({ id }) => {
      const { character, exposures } = slices.of(id);
      const at = placeAt(exposures, state.frame);
      const [was, now, next] = [-1, 0, 1].map((by) => exposures[at + by]?.drawing ?? "");
      return { who: character, was, now, next, to_go: exposures[at] ? Math.max(0, endOf(exposures[at]) - state.frame) : 0 };
    });
    const [frame, word, said] = ["prompter-frame", "prompter-word", "prompter-state"].map((id) => $(id).textContent);
    return { frame, word, state: said, mouths };
  }

  function entries() {
    const due = log.due.map((frame) => frame + start);
    const waits = log.waiting.length ? `, ${log.waiting.length} not sent yet` : "";
    $("log-count").textContent = `${log.frames.size} frames${due.length ? `, to be shot again: ${due.join(", ")}` : ""}${waits}`;
    const row = ({ frame, again, who, when }) => `${frame + start} ${again ? "to be shot again" : "shot"}, ${who ? `${who}, ` : ""}${new Date(when).toLocaleTimeString("en-GB")}`;
    const rows = [...log.waiting.toReversed(), ...log.last].map((one) => Object.assign(document.createElement("li"), { textContent: row(one) }));
    $("log").replaceChildren(...rows);
  }

  function go(frame) {
    state.frame = Math.min(last, Math.max(0, frame));
    localStorage.setItem(place, String(state.frame));
    if ($("heard").checked) player.scrub(state.frame / fps);
    show();
    more();
  }

  // One after the other, however soon they are pressed; a camera takes its time.
  let shooting = Promise.resolve();
  function shot(again) {
    if (page.mayEdit) shooting = shooting.then(() => shoot(again));
    return shooting;
  }

  async function shoot(again) {
    const { frame } = state;
    if (!again && onion && !(await isTaken(frame))) return;
    log.say(frame, again, crypto.randomUUID(), new Date().toISOString());
    if (again || state.frame !== frame) show();
    else go(frame + 1);
    send();
  }

  // Whether the camera took a frame. Where nobody can be asked, a hand at the camera does, and says so here.
  async function isTaken(frame) {
    try {
      await onion.take(frame);
      return true;
    } catch (failed) {
      if (failed instanceof NoConnection) return true;
      say(`${failed.message} Frame ${frame + start} is not in the log.`);
      return false;
    }
  }

  // What waits is sent until it is all there; the page goes on meanwhile.
  let sending = false;
  async function send() {
    if (sending) return;
    sending = true;
    try {
      while (!(await log.sendWaiting()));
      say("");
    } catch (failed) {
      console.debug(failed);
      say(`${failed.message} ${log.waiting.length} of the log wait on this page and are sent when they can be; go on.`);
      setTimeout(send, AGAIN_MS);
    }
    sending = false;
    show();
  }

  const more = () => slices.more(state.frame, Math.min(last + 1, state.frame + AHEAD)).catch((failed) => console.debug(failed));

  const steps = { ArrowRight: 1, PageDown: 1, " ": 1, ArrowDown: 1, ArrowLeft: -1, PageUp: -1, ArrowUp: -1, Home: -Infinity, End: Infinity };
  document.addEventListener("keydown", (event) => {
    if (event.target.matches("input:not([type=checkbox]), select") || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key in steps && !(event.key === " " && event.target.matches("button, summary, input"))) go(state.frame + steps[event.key]);
    else if (event.key === "Enter" && !event.target.matches("button, summary")) shot(false);
    else if (event.key === "Backspace") shot(true);
    else if (event.key.toLowerCase() === "f") full();
    else return;
    event.preventDefault();
  });
  const full = () => (document.fullscreenElement ? document.exitFullscreen() : $("prompter").requestFullscreen());
  $("back").addEventListener("click", () => go(state.frame - 1));
  $("on").addEventListener("click", () => go(state.frame + 1));
  $("shot").addEventListener("click", () => shot(false));
  $("again").addEventListener("click", () => shot(true));
  $("full").addEventListener("click", full);
  const telephone = new Telephone(page.phoneUrl, $("phone-how"), told, {
    back: () => go(state.frame - 1),
    on: () => go(state.frame + 1),
    shot: () => shot(false),
    again: () => shot(true),
  });
  $("phone").addEventListener("click", () => telephone.offer().catch((failed) => say(failed.message)));
  $("who").addEventListener("change", show);
  $("go").addEventListener("change", () => {
    const frame = Number.parseInt($("go").value, 10);
    if (Number.isFinite(frame)) go(frame - start);
    goHome();
  });

  lookAfter(page.versionsUrl, async (versions) => {
    for (const { id } of slices.older(versions)) await slices.anew(id, state.frame);
    await acting.compare(versions);
  });
  show();
  send();
  more();
  acting.look();
  if (onion) onion.load().then(show, (failed) => say(failed.message));
  $("prompter").focus();
  player
    .show(heardClips(page.sound, fps), page.sound.frames / fps)
    .catch((failed) => say(failed.message))
    .finally(() => {
      $("prompter").dataset.ready = "yes";
    });
}

if (given) begin(given);
