// Rushes: a shot is watched with its sound, noted on, compared with a version, and approved.
import { $, $canvas, $dialog, element, givenIn, oncePerPicture, on, typing } from "../lib/page.ts";
import { Reel } from "../lib/reel.ts";
import { sayDone, sayIn } from "../lib/saying.ts";
import { get, type Or, post, sentenceOf } from "../lib/store/requests.ts";
import { type SceneDocument, Store } from "../lib/store/store.ts";
import { onTold, settled } from "../lib/told.ts";
import { heardClips } from "../lib/time/player.ts";
import { timeView } from "../lib/time/ruler.ts";
import { type Jump, Transport } from "../lib/time/transport.ts";
import { drawAgain, showWave } from "../lib/time/waveforms.ts";
import { Comparing } from "./comparing.ts";
import { Composer, type Drawn } from "./composer.ts";
import { Notes, when } from "./notes.ts";
import { placeReel } from "./reelplace.ts";
import { type Note, nextNote, notesOn, type ReviewDocument, standing } from "../lib/review.ts";
import { Stage } from "./stage.ts";
import { pressTime } from "./timebar.ts";

const REVIEW_MS = 250;

interface RushesDocument extends SceneDocument {
  review: ReviewDocument;
  reviewUrl: string;
}

function begin(page: RushesDocument): void {
  const say = sayIn($("problem"));
  const view = timeView(page.scene.rate, page.scene.startFrame);
  const store = new Store(page, { say, view: () => [0, store.frames], fills: true });
  const stage = new Stage($("stage-now"), $("stage-before"), document.getElementById("stage-over") as unknown as SVGSVGElement, store);
  const draw = oncePerPicture(render);
  const transport = new Transport(view, { width: () => $("time").clientWidth, frames: () => store.frames, draw, shown: () => {}, jumps });
  let review = page.review;
  let reel: Reel | null = null;
  const comparing = new Comparing({ reviewUrl: page.reviewUrl, startFrame: page.scene.startFrame, stage, frames: () => store.frames, go: (frame) => transport.go(frame, true), draw, say, done: (text) => sayDone(say, text) });
  const composer = new Composer({ may: () => review.mayComment, changed: draw, begun: () => transport.player.stop(), send: write });
  const notes = new Notes(
    {
      startFrame: page.scene.startFrame,
      frames: () => store.frames,
      go: (note) => transport.go(note.frame, true),
      answer: (note, text) => change("note", { text, on: note.id }),
      done: (note, done) => change("done", { note: note.id, done }),
      takeAway: (note) => change("take-away", { note: note.id }),
    },
    review,
  );

  function jumps(kind: Jump): number[] {
    const lines = store.staves.flatMap((stave) => stave.lines);
    const starts = kind === "lines" ? lines.map((line) => line.start) : lines.flatMap((line) => line.words.map((word) => word.start));
    return starts.map((start) => Math.floor(start * store.fps)).toSorted((one, other) => one - other);
  }

  function render(): void {
    const { frame } = view;
    stage.frame(frame);
    reel?.show(view.time, transport.player.playing, transport.player.speed);
    stage.mark([...notesOn(review.notes, frame), composer.drawn]);
    notes.at(frame);
    $("playhead").style.left = `${(100 * view.time * store.fps) / store.frames}%`;
    const asked = document.getElementById("note-frame");
    if (asked) asked.textContent = transport.span ? `${transport.span[0] + view.startFrame} to ${transport.span[1] - 1 + view.startFrame}` : String(frame + view.startFrame);
    $("rushes").dataset.frame = String(frame);
  }

  // Review

  async function change(what: string, asked: object): Promise<boolean> {
    try {
      const answer = await post<Or<ReviewDocument>>(`${page.reviewUrl}${what}`, asked);
      say(answer.problem ?? "");
      if (answer.notes) taken(answer as ReviewDocument);
      return !answer.problem;
    } catch (failed) {
      say(sentenceOf(failed));
      return false;
    }
  }

  function taken(fresh: ReviewDocument): void {
    if (JSON.stringify(fresh) === JSON.stringify(review) && $("standing").textContent) return;
    review = fresh;
    $("standing").textContent = standing(review);
    const said = review.versions.flatMap((version) => [...version.said.map((one) => `${one.who} ${one.kind === "approved" ? "approved" : "wants changes to"} version ${version.number}, ${when(one.when)}`), `${version.who} showed version ${version.number}, ${when(version.when)}`]);
    $("said").replaceChildren(...said.map((textContent) => element("li", { textContent })));
    const [newest] = review.versions;
    for (const [id, kind] of Object.entries({ approve: "approved", wants: "changes" })) {
      const button = document.getElementById(id) as HTMLButtonElement | null;
      if (button) button.disabled = !newest || newest.said[0]?.kind === kind;
    }
    const link = document.getElementById("hand-over") as HTMLAnchorElement | null;
    const approved = review.versions.find((version) => version.said[0]?.kind === "approved");
    if (link && approved) {
      link.hidden = false;
      link.search = `?version=${approved.number}`;
      link.textContent = `Hand over version ${approved.number}`;
    }
    comparing.show(review.versions);
    notes.show(review);
    draw();
  }

  function write(text: string, drawn: Drawn): Promise<boolean> {
    const [frame, end] = transport.span ? [transport.span[0], transport.span[1] - 1] : [view.frame, view.frame];
    const version = comparing.watched || (review.versions[0] && !review.changed ? review.versions[0].number : 0);
    return change("note", { text, frame, end, version, ...drawn });
  }

  // Time

  async function hear(): Promise<void> {
    const heard = heardClips(store.sound, store.fps);
    showWave($canvas("wave"), { clips: store.sound.tracks.flatMap((track) => track.clips), fps: store.fps, frames: store.frames });
    reel = new Reel($("film"), store.sound, store.fps);
    await transport.player.show(heard, store.frames / store.fps).catch((failed) => say(sentenceOf(failed)));
  }

  const goNext = (step: 1 | -1): void => {
    const found = nextNote(review.notes, view.frame, step);
    if (found) goTo(found);
    else sayDone(say, "No note is open.");
  };
  const goTo = (note: Note): void => {
    transport.go(note.frame, true);
    document.querySelector(`#notes [data-id="${note.id}"]`)?.scrollIntoView({ block: "nearest" });
  };
  const full = () => (document.fullscreenElement ? document.exitFullscreen() : $("rushes").requestFullscreen());

  document.addEventListener("keydown", (event) => {
    if (typing(event) || $dialog("keys").open) return;
    const keys: Record<string, () => unknown> = { n: () => goNext(event.shiftKey ? -1 : 1), f: full, c: () => document.getElementById("note-text")?.focus() };
    const action = event.ctrlKey || event.metaKey || event.altKey ? undefined : keys[event.key.toLowerCase()];
    if (action) action();
    else if (!transport.key(event)) return;
    event.preventDefault();
  });
  pressTime(() => store.frames, (frame) => transport.go(frame, false));
  for (const [id, action] of Object.entries({ show: () => change("show", {}), approve: () => judge("approved"), wants: () => judge("changes"), "note-on": () => goNext(1), "note-back": () => goNext(-1), full })) if (document.getElementById(id)) on(id, action);
  const judge = (kind: string) => change("judge", { kind, version: review.versions[0]?.number ?? 0 });
  new ResizeObserver(() => drawAgain()).observe($("time"));
  document.addEventListener("theme-switched", () => draw());

  store.changed.on((change) => {
    if (change.kind === "sound") hear();
    else if (change.kind === "elsewhere") sayDone(say, change.sentence);
    else draw();
  });
  store.watch();
  onTold(["review", "edit"], settled(REVIEW_MS, async () => taken(await get<ReviewDocument>(`${page.reviewUrl}review`))));
  taken(review);
  store.loadActing();
  store.fill();
  transport.show();
  hear().then(() => {
    placeReel(draw);
    $("rushes").dataset.ready = "yes";
  });
  $("rushes").focus();
  const asked = new URLSearchParams(location.search).get("frame");
  if (asked) transport.go(Math.min(Number(asked) || 0, store.frames - 1), true);
}

const given = givenIn<RushesDocument>("rushes-document");
if (given) begin(given);
