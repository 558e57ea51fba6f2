// A screening: shots one after another on one strip of time. What is seen of each comes before its turn; what is heard of
// all of them is one arrangement, so that nothing lies between two of them.
import { $, $canvas, $dialog, element, givenIn, oncePerPicture, on, typing } from "../lib/page.ts";
import { Reel } from "../lib/reel.ts";
import { type Note, notesOn, type ReviewDocument } from "../lib/review.ts";
import { sayIn } from "../lib/saying.ts";
import { get, type Or, post, sentenceOf } from "../lib/store/requests.ts";
import { onTold, settled } from "../lib/told.ts";
import { timeView } from "../lib/time/ruler.ts";
import { Transport } from "../lib/time/transport.ts";
import { drawAgain, showWave } from "../lib/time/waveforms.ts";
import { WatchedCast, type WatchedRole } from "./cast.ts";
import { Composer, type Drawn } from "./composer.ts";
import { Notes } from "./notes.ts";
import { placeReel } from "./reelplace.ts";
import { drawNotes } from "./stage.ts";
import { heardIn, laid, type ScreenedShot, secondsOf, seenAt, timeOf } from "./strip.ts";
import { pressTime } from "./timebar.ts";

const REVIEW_MS = 250;
const AHEAD_SECONDS = 20; // What is seen of a shot is asked for so long before its turn.
const NAME = "guest-name";

interface ScreeningDocument {
  shots: ScreenedShot[];
  // The link a guest watches by; "" for those who belong to the production.
  guest: string;
  mayComment: boolean;
}

const NO_NOTES: ReviewDocument = { versions: [], changed: false, notes: [], mayComment: false, mayFinish: false, mayApprove: false, mayEdit: false };

function begin(page: ScreeningDocument): void {
  const say = sayIn($("problem"));
  const strip = laid(page.shots);
  const seconds = secondsOf(strip);
  const view = timeView(page.shots[0].rate, 1);
  const draw = oncePerPicture(render);
  const total = () => Math.max(1, Math.round(seconds * transport.fps));
  const transport = new Transport(view, { width: () => $("time").clientWidth, frames: total, draw, shown: () => {}, jumps: (kind) => (kind === "lines" ? starts() : noted()) });
  const casts = new Map<number, Promise<WatchedCast>>();
  const ready = new Map<number, WatchedCast>();
  const reviews = new Map<number, ReviewDocument>();
  const composer = new Composer({ may: () => page.mayComment, changed: draw, begun: () => transport.player.stop(), send: write });
  const reel = new Reel($("film"), filmOf(), 1);
  let shown = -1;
  let notes: Notes | null = null;

  const starts = () => strip.map(({ begins }) => Math.round(begins * transport.fps));
  const here = () => seenAt(strip, view.time);
  const reviewOf = (at: number) => reviews.get(at) ?? NO_NOTES;

  // The frames of the strip on which a note of the shot that is seen begins.
  function noted(): number[] {
    const { at } = here();
    return reviewOf(at).notes.filter(({ on, done }) => !on && !done).map(({ frame }) => Math.round(timeOf(strip[at], frame) * transport.fps)).toSorted((one, other) => one - other);
  }

  // The films of all shots as one arrangement, in seconds.
  function filmOf() {
    const films = strip.flatMap(({ shot, begins, seconds: long }) => {
      const fps = shot.rate.numerator / shot.rate.denominator;
      return shot.films.map((one) => ({ url: one.url, start: begins + one.start / fps, offset: one.offset / fps, frames: Math.min(one.frames / fps, long) }));
    });
    return { tracks: [{ clips: films.map((one, sound) => ({ ...one, sound })) }], sounds: films.map(({ url }) => ({ reel: url })) };
  }

  // What is seen of a shot, asked for once.
  function have(at: number): Promise<WatchedCast> | undefined {
    const known = casts.get(at) ?? (strip[at] && load(at));
    if (known) casts.set(at, known);
    return known;
  }

  async function load(at: number): Promise<WatchedCast> {
    try {
      const { roles } = await get<{ roles: WatchedRole[] }>(strip[at].shot.seenUrl);
      const made = new WatchedCast(roles);
      ready.set(at, made);
      draw();
      return made;
    } catch (failed) {
      casts.delete(at);
      say(sentenceOf(failed));
      throw failed;
    }
  }

  function render(): void {
    const { at, frame } = here();
    const cast = ready.get(at);
    if (at !== shown) enter(at);
    const place = $("stage-now");
    if (cast) {
      if (place.firstElementChild !== cast.elements[0]) place.replaceChildren(...cast.elements);
      cast.frame(frame);
    } else place.replaceChildren();
    const until = strip.findIndex(({ begins }) => begins > view.time + AHEAD_SECONDS);
    for (let next = at; next <= at + 1 || (next < until && next < strip.length); next++) have(next)?.catch(() => {});
    reel.show(view.time, transport.player.playing, transport.player.speed);
    drawNotes(document.getElementById("stage-over") as unknown as SVGSVGElement, [...notesOn(reviewOf(at).notes, frame), composer.drawn]);
    notes?.at(frame);
    $("playhead").style.left = `${(100 * view.time) / seconds}%`;
    const own = String(frame + strip[at].shot.startFrame);
    const asked = document.getElementById("note-frame");
    if (asked) asked.textContent = own;
    Object.assign($("rushes").dataset, { frame: own, shot: String(at), seen: cast ? "yes" : "" });
  }

  // Another shot is seen from now on.
  function enter(at: number): void {
    shown = at;
    const { shot } = strip[at];
    $("standing").textContent = [shot.number, shot.name].filter(Boolean).join(" · ");
    $("standing-version").textContent = shot.version ? `version ${shot.version}, as it was shown` : "as it is now";
    for (const row of $("strip").children) row.toggleAttribute("aria-current", Number((row as HTMLElement).dataset.at) === at);
    $("strip").children[at]?.scrollIntoView({ block: "nearest" });
    if (document.getElementById("notes")) notes = notesOf(at);
    showNotes();
    loadNotes(at);
  }

  function notesOf(at: number): Notes {
    const { shot } = strip[at];
    const change = (what: string, asked: object) => send(at, what, asked);
    return new Notes(
      {
        startFrame: shot.startFrame,
        frames: () => shot.frames,
        share: (frame) => timeOf(strip[at], frame) / seconds,
        go: (note: Note) => go(at, note.frame),
        answer: (note, text) => change("note", { text, on: note.id, ...guest() }),
        done: (note, done) => change("done", { note: note.id, done }),
        takeAway: (note) => change("take-away", { note: note.id }),
      },
      reviewOf(at),
    );
  }

  const go = (at: number, frame: number) => transport.go(Math.round(timeOf(strip[at], frame) * transport.fps), true);

  function showNotes(): void {
    if (notes) notes.show(reviewOf(shown));
    draw();
  }

  async function loadNotes(at: number): Promise<void> {
    if (!document.getElementById("notes")) return;
    try {
      reviews.set(at, await get<ReviewDocument>(`${strip[at].shot.notesUrl}review`));
      if (at === shown) showNotes();
    } catch (failed) {
      say(sentenceOf(failed));
    }
  }

  async function send(at: number, what: string, asked: object): Promise<boolean> {
    try {
      const answer = await post<Or<ReviewDocument>>(`${strip[at].shot.notesUrl}${what}`, asked);
      say(answer.problem ?? "");
      if (answer.notes) reviews.set(at, answer as ReviewDocument);
      if (at === shown) showNotes();
      return !answer.problem;
    } catch (failed) {
      say(sentenceOf(failed));
      return false;
    }
  }

  function guest(): { name?: string } {
    if (!page.guest) return {};
    const name = ($("note-name") as HTMLInputElement).value;
    localStorage.setItem(NAME, name);
    return { name };
  }

  function write(text: string, drawn: Drawn): Promise<boolean> {
    const { at, frame } = here();
    return send(at, "note", { text, frame, end: frame, version: strip[at].shot.version, ...drawn, ...guest() });
  }

  function showStrip(): void {
    $("strip").replaceChildren(
      ...strip.map(({ shot, begins, seconds: long }, at) => {
        const row = element("li");
        row.dataset.at = String(at);
        const button = element("button", { type: "button", className: "btn btn-sm btn-quiet" });
        button.append(element("span", { className: "mono quiet", textContent: shot.number }), element("span", { textContent: shot.name }), element("span", { className: "mono quiet", textContent: `${long.toFixed(1)} s` }));
        button.addEventListener("click", () => transport.go(Math.round(begins * transport.fps), false));
        row.append(button);
        return row;
      }),
    );
    $("edges").replaceChildren(
      ...strip.slice(1).map(({ begins }) => {
        const edge = element("span");
        edge.style.left = `${(100 * begins) / seconds}%`;
        return edge;
      }),
    );
  }

  const full = () => (document.fullscreenElement ? document.exitFullscreen() : $("rushes").requestFullscreen());
  document.addEventListener("keydown", (event) => {
    if (typing(event) || $dialog("keys").open) return;
    const keys: Record<string, () => unknown> = { f: full, c: () => document.getElementById("note-text")?.focus() };
    const action = event.ctrlKey || event.metaKey || event.altKey ? undefined : keys[event.key.toLowerCase()];
    if (action) action();
    else if (!transport.key(event)) return;
    event.preventDefault();
  });
  pressTime(total, (frame) => transport.go(frame, false));
  on("full", full);
  new ResizeObserver(() => drawAgain()).observe($("time"));
  document.addEventListener("theme-switched", () => draw());
  onTold(
    ["review"],
    settled(REVIEW_MS, async () => loadNotes(shown)),
  );

  const name = document.getElementById("note-name") as HTMLInputElement | null;
  if (name) name.value = localStorage.getItem(NAME) ?? "";
  placeReel(draw);
  showStrip();
  const heard = heardIn(strip);
  showWave($canvas("wave"), { clips: heard.map(({ peaks, start, seconds: long, offset }) => ({ peaks, start, frames: long, offset })), fps: 1, frames: seconds });
  transport.show();
  transport.player
    .show(heard, seconds)
    .catch((failed: unknown) => say(sentenceOf(failed)))
    .then(() => {
      $("rushes").dataset.ready = "yes";
    });
  $("rushes").focus();
}

const given = givenIn<ScreeningDocument>("screening-document");
if (given) begin(given);
