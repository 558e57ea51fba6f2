// The rows of a board, and how far the film is, drawn of what the server sends.
import { $, element, inside } from "../lib/page.ts";
import { type DrawnClip, forgetGone, showWave } from "../lib/time/waveforms.ts";

// A shot as the server sends it.
export interface Shot {
  id: number;
  name: string;
  number: string;
  state: string;
  who: string;
  sequence: string;
  due: string;
  priority: number;
  late: boolean;
  frames: number;
  fps: number;
  begun: boolean;
  speakers: number[];
  clips: DrawnClip[];
}

interface Part {
  name: string;
  counts: [string, number][];
  shots: number;
  finished: number;
  late: number;
  seconds: number;
}

export interface BoardDocument {
  rows: Shot[];
  progress: Part[];
  undo: string;
  said?: string;
}

const row = (name: string): HTMLTemplateElement => $(name) as HTMLTemplateElement;
const DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });

// The row of a shot.
export function rowOf(shot: Shot): HTMLElement {
  const made = (row("shot-row").content.cloneNode(true) as DocumentFragment).firstElementChild as HTMLElement;
  made.dataset.id = String(shot.id);
  const href = `/scenes/${shot.id}/${shot.begun ? "reading/" : ""}`;
  for (const link of made.querySelectorAll("a")) link.href = href;
  made.querySelector(".shot-pick")?.setAttribute("aria-label", `Choose ${shot.name}`);
  const seconds = (shot.frames / shot.fps).toFixed(1);
  const texts = { number: shot.number, name: shot.name, length: shot.frames ? `${shot.frames} fr · ${seconds} s` : "", sequence: shot.sequence, who: shot.who, state: shot.state };
  for (const [name, text] of Object.entries(texts)) inside(made, `.shot-${name}`).textContent = text;
  inside(made, ".shot-state").dataset.state = shot.state;
  inside(made, ".shot-due").append(...dueOf(shot));
  inside(made, ".shot-faces").append(...shot.speakers.map(faceOf));
  if (shot.clips.length) showWave(inside<HTMLCanvasElement>(made, "canvas"), shot);
  return made;
}

function dueOf({ due, late, priority }: Shot): (string | HTMLElement)[] {
  const said: (string | HTMLElement)[] = due ? [DAY.format(new Date(due)), " "] : [];
  if (late) said.push(element("b", { className: "late", textContent: "late " }));
  if (priority) said.push(element("b", { title: `${priority > 0 ? "high" : "low"} priority`, textContent: priority > 0 ? "↑" : "↓" }));
  return said;
}

function faceOf(character: number): Node {
  const face = row("shot-face").content.cloneNode(true) as DocumentFragment;
  inside(face, "use").setAttribute("href", `#portrait-${character}`);
  return face;
}

// How far the film is, and each of its sequences.
export function showProgress(parts: readonly Part[]): void {
  $("board-progress").replaceChildren(...parts.map(progressOf));
  forgetGone();
}

function progressOf({ name, counts, shots, finished, late, seconds }: Part): HTMLElement {
  const bar = element("span", { className: "progress-bar", role: "img", ariaLabel: `${name}: ${counts.map(([state, count]) => `${count} ${state}`).join(", ")}` });
  for (const [state, count] of counts) {
    const part = element("span", { className: "progress-part", title: `${count} ${state}` });
    part.dataset.state = state;
    part.style.flexGrow = String(count);
    bar.append(part);
  }
  const made = element("div", { className: "progress-row" });
  const length = `${Math.floor(seconds / 60)}:${String(Math.round(seconds % 60)).padStart(2, "0")}`;
  made.append(element("span", { className: "progress-name", textContent: name, title: name }), bar);
  made.append(element("span", { className: "progress-said mono quiet", textContent: `${finished}/${shots} finished · ${length}` }));
  made.append(element("span", { className: "late", textContent: late ? `${late} late` : "" }));
  return made;
}
