// The prompter, for the camera: one frame at a time, what was, is and comes next, and what was shot.
import { Mirror } from "../lib/face/mirror.ts";
import { goHome } from "../lib/focus.ts";
import { $, $input, $select, element, givenIn, on, targetOf } from "../lib/page.ts";
import { sayDone, sayIn } from "../lib/saying.ts";
import { frameAt } from "../lib/store/clock.ts";
import { endOf, placeAt } from "../lib/store/exposures.ts";
import { NoConnection, type Or, post, sentenceOf } from "../lib/store/requests.ts";
import { type SceneDocument, Store } from "../lib/store/store.ts";
import { heardClips, Player } from "../lib/time/player.ts";
import type { Stave } from "../lib/types.ts";
import { Log, type LogDocument } from "./log.ts";
import { type Camera, Onion } from "./onion.ts";
import { Telephone } from "./telephone.ts";

const AGAIN_MS = 2000;
const AHEAD = 240; // frames that are asked for before they are reached

interface PrompterDocument extends SceneDocument {
  log: LogDocument;
  logUrl: string;
  phoneUrl: string;
  camera: Camera | null;
}

// What a telephone shows of a prompter.
export interface Told {
  frame: string;
  word: string;
  state: string;
  mouths: { who: string; was: string; now: string; next: string; to_go: number }[];
}

interface Card {
  id: number;
  own: HTMLElement;
  mirror: Mirror;
}

function begin(page: PrompterDocument): void {
  const start = page.scene.startFrame;
  const place = `prompter ${page.scene.id}`;
  const say = sayIn($("problem"));
  const player = new Player(page.scene.rate);
  const store = new Store(page, { say, view: () => [state.frame, Math.min(last() + 1, state.frame + AHEAD)] });
  const { fps } = store;
  const last = () => Math.max(0, store.frames - 1);
  const log = new Log(localStorage, `${place} says`, page.log, (said, since) => post<Or<LogDocument>>(page.logUrl, { said, since }).then(taken));
  const state = { frame: remembered() };
  const cast = store.staves.map((stave) => card(stave));
  const onion = page.camera && new Onion(page.camera, { place: $("onion"), skins: $("onion-skins"), of: $("onion-of") }, start);

  function taken(answer: Or<LogDocument>): LogDocument {
    if (answer.problem) throw new Error(answer.problem);
    return answer as LogDocument;
  }

  // Where it was: on this machine, else at the last frame anybody said something of.
  function remembered(): number {
    const kept = Number.parseInt(localStorage.getItem(place) ?? "", 10);
    return Math.min(last(), Math.max(0, Number.isFinite(kept) ? kept : (page.log.last[0]?.frame ?? 0)));
  }

  function card(stave: Stave): Card {
    const own = element("section", { className: "prompter-card" });
    own.setAttribute("aria-label", stave.character);
    const [mirror, neighbours] = [element("div", { className: "mirror" }), element("div", { className: "neighbours" })];
    own.append(element("h2", { textContent: stave.character }), mirror, neighbours);
    $("prompter-cast").append(own);
    $("who").append(new Option(stave.character, String(stave.id)));
    return { id: stave.id, own, mirror: new Mirror(mirror, neighbours, stave) };
  }

  function show(): void {
    const { frame } = state;
    $("prompter-frame").textContent = String(frame + start);
    for (const field of document.querySelectorAll<HTMLInputElement>("#wait-frame")) field.value = String(frame + start);
    $("prompter-of").textContent = `${frame + 1} of ${last() + 1} · ${page.scene.rate.text} fps`;
    const words = store.staves.flatMap((stave) => {
      const own = stave.lines.flatMap((line) => line.words).filter((word) => word.said && frameAt(word.start, fps) <= frame && frame < frameAt(word.end, fps));
      const text = own.map((word) => word.text).join(" ");
      return text ? [store.staves.length > 1 ? `${stave.character}: ${text}` : text] : [];
    });
    $("prompter-word").textContent = words.join("   ") || "–";
    const said = log.state(frame);
    $("prompter-state").textContent = { shot: "shot", again: "shoot again", "": "" }[said];
    $("prompter").dataset.state = said;
    $("prompter").dataset.frame = String(frame);
    const who = $select("who").value;
    for (const { id, own, mirror } of cast) {
      own.hidden = who !== "" && who !== String(id);
      mirror.stave = store.stave(id);
      mirror.frame(frame);
      mirror.face.pose(...store.posed(mirror.stave.characterId, frame));
    }
    if (onion) onion.show(frame);
    entries();
  }

  // What a telephone shows of it.
  function told(): Told {
    const mouths = cast.filter(({ own }) => !own.hidden).map(({ id }) => {
      const { character, exposures } = store.stave(id);
      const at = placeAt(exposures, state.frame);
      const [was, now, next] = [-1, 0, 1].map((by) => exposures[at + by]?.drawing ?? "");
      return { who: character, was, now, next, to_go: exposures[at] ? Math.max(0, endOf(exposures[at]) - state.frame) : 0 };
    });
    const [frame, word, said] = ["prompter-frame", "prompter-word", "prompter-state"].map((id) => $(id).textContent ?? "");
    return { frame, word, state: said, mouths };
  }

  function entries(): void {
    const due = log.due.map((frame) => frame + start);
    const waits = log.waiting.length ? `, ${log.waiting.length} not sent yet` : "";
    $("log-count").textContent = `${log.frames.size} frames${due.length ? `, to be shot again: ${due.join(", ")}` : ""}${waits}`;
    const row = ({ frame, again, who, when }: { frame: number; again: boolean; who?: string; when: string }) => `${frame + start} ${again ? "to be shot again" : "shot"}, ${who ? `${who}, ` : ""}${new Date(when).toLocaleTimeString("en-GB")}`;
    const rows = [...log.waiting.toReversed(), ...log.last].map((one) => element("li", { textContent: row(one) }));
    $("log").replaceChildren(...rows);
  }

  function go(frame: number): void {
    state.frame = Math.min(last(), Math.max(0, frame));
    localStorage.setItem(place, String(state.frame));
    if ($input("heard").checked) player.scrub(state.frame / fps);
    show();
    more();
  }

  // One after the other, however soon they are pressed; a camera takes its time.
  let shooting: Promise<void> = Promise.resolve();
  function shot(again: boolean): Promise<void> {
    if (page.mayEdit) shooting = shooting.then(() => shoot(again));
    return shooting;
  }

  async function shoot(again: boolean): Promise<void> {
    const { frame } = state;
    if (!again && onion && !(await isTaken(onion, frame))) return;
    log.say(frame, again, crypto.randomUUID(), new Date().toISOString());
    if (again || state.frame !== frame) show();
    else go(frame + 1);
    send();
  }

  // Whether the camera took a frame. Where nobody can be asked, a hand at the camera does, and says so here.
  async function isTaken(camera: Onion, frame: number): Promise<boolean> {
    try {
      await camera.take(frame);
      return true;
    } catch (failed) {
      if (failed instanceof NoConnection) return true;
      say(`${sentenceOf(failed)} Frame ${frame + start} is not in the log.`);
      return false;
    }
  }

  // What waits is sent until it is all there; the page goes on meanwhile.
  let sending = false;
  async function send(): Promise<void> {
    if (sending) return;
    sending = true;
    try {
      while (!(await log.sendWaiting()));
      say("");
    } catch (failed) {
      console.debug(failed);
      say(`${sentenceOf(failed)} ${log.waiting.length} of the log wait on this page and are sent when they can be; go on.`);
      setTimeout(send, AGAIN_MS);
    }
    sending = false;
    show();
  }

  const more = () => store.seen().catch((failed) => console.debug(failed));

  const steps: Record<string, number> = { ArrowRight: 1, PageDown: 1, " ": 1, ArrowDown: 1, ArrowLeft: -1, PageUp: -1, ArrowUp: -1, Home: -Infinity, End: Infinity };
  document.addEventListener("keydown", (event) => {
    const target = targetOf(event);
    if (target.matches("input:not([type=checkbox]), select") || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key in steps && !(event.key === " " && target.matches("button, summary, input"))) go(state.frame + steps[event.key]);
    else if (event.key === "Enter" && !target.matches("button, summary")) shot(false);
    else if (event.key === "Backspace") shot(true);
    else if (event.key.toLowerCase() === "f") full();
    else return;
    event.preventDefault();
  });
  const full = () => (document.fullscreenElement ? document.exitFullscreen() : $("prompter").requestFullscreen());
  on("back", () => go(state.frame - 1));
  on("on", () => go(state.frame + 1));
  on("shot", () => shot(false));
  on("again", () => shot(true));
  on("full", full);
  const telephone = new Telephone(page.phoneUrl, $("phone-how"), told, {
    back: () => go(state.frame - 1),
    on: () => go(state.frame + 1),
    shot: () => shot(false),
    again: () => shot(true),
  });
  on("phone", () => telephone.offer().catch((failed) => say(sentenceOf(failed))));
  $("who").addEventListener("change", show);
  $("go").addEventListener("change", () => {
    const frame = Number.parseInt($input("go").value, 10);
    if (Number.isFinite(frame)) go(frame - start);
    goHome();
  });

  store.changed.on((change) => {
    if (change.kind === "stave" || change.kind === "acting") show();
    else if (change.kind === "sound") hear();
    else if (change.kind === "elsewhere") sayDone(say, change.sentence);
  });
  store.watch();
  show();
  send();
  more();
  store.loadActing();
  if (onion) onion.load().then(show, (failed) => say(sentenceOf(failed)));
  $("prompter").focus();
  hear();

  async function hear(): Promise<void> {
    await player.show(heardClips(store.sound, fps), store.frames / fps).catch((failed) => say(sentenceOf(failed)));
    $("prompter").dataset.ready = "yes";
  }
}

const given = givenIn<PrompterDocument>("prompter-document");
if (given) begin(given);
