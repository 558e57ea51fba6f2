// The grid of the exposure sheet: only the rows in sight are on the page. Its edits are those of the desk.
import { $, element, targetOf } from "../lib/page.ts";
import { mouthPicture } from "../lib/face/mirror.ts";
import { sayDone, sayIn } from "../lib/saying.ts";
import { shownAt } from "../lib/store/exposures.ts";
import { get, type Or, post, sentenceOf } from "../lib/store/requests.ts";
import { type SceneDocument, Store } from "../lib/store/store.ts";
import { type Levels, peaksOf } from "../lib/time/peaks.ts";
import { type HeardClip, heardClips } from "../lib/time/player.ts";
import type { Drawing } from "../lib/facetypes.ts";
import type { Span } from "../lib/types.ts";
import { actionRows } from "./action.ts";
import { type CellsOf, type Column, HEIGHT, headsOf, isDrawing, rowOf, type Shown, staveNumber, widthsOf } from "./cells.ts";
import { beginHere, beginning, begun } from "./rows.ts";

// Columns of which every stave has one.
const SHARED: Partial<Record<Column, string>> = { words: "words", drawings: "drawing" };
const BEYOND = 12; // rows, beside those in sight
const PAGE = 24; // rows

export interface SheetDocument extends SceneDocument {
  columns: Column[];
  notes: Record<string, string>;
  noteUrl: string;
  notesUrl: string;
  fileUrl: string;
}

export type Sheet = ReturnType<typeof sheetOf>;

export function sheetOf(page: SheetDocument) {
  const start = page.scene.startFrame;
  const say = sayIn($("problem"));
  const body = $("sheet-body");
  const box = $("sheet");
  const choice = $("sheet-choice");
  const state = { notes: page.notes, columns: [] as Column[], step: 1, at: [0, 0] as [number, number], peaks: [] as { clip: HeardClip; levels: Levels }[], version: 0 };
  const store = new Store(page, { say, view: () => inSight().map((row) => row * state.step) as Span });
  const { fps } = store;
  let made: Shown = { words: [], ipa: new Map(), lines: new Set(), acting: new Map(), starts: [] };
  const rowCount = () => Math.ceil(store.frames / state.step);
  const columns = (): Column[] => ["frame", ...state.columns.flatMap((name) => (SHARED[name] ? store.staves.map((_, at) => `${SHARED[name]} ${at}`) : [name]))];
  const editable = (name: Column) => page.mayEdit && (name === "notes" || isDrawing(name));
  const cells = (): CellsOf => ({ fps, start, step: state.step, staves: store.staves, made, notes: state.notes, peaks: state.peaks, editable, write });

  // What is derived of the staves is made once for each change.
  function derive(): void {
    state.version += 1;
    made = { ...begun(store.staves, state.step, fps), acting: actionRows(store.actings, state.step), starts: store.staves.map((stave) => beginning(stave.exposures, state.step)) };
    draw();
  }

  // Rows in sight, and some beyond.
  function inSight(): Span {
    const first = Math.max(0, Math.floor(box.scrollTop / HEIGHT) - BEYOND);
    return [first, Math.min(rowCount(), Math.ceil((box.scrollTop + box.clientHeight) / HEIGHT) + BEYOND)];
  }

  function draw(): void {
    body.style.height = `${rowCount() * HEIGHT}px`;
    box.setAttribute("aria-rowcount", String(rowCount()));
    drawHeads();
    const fresh = rowsNow();
    const focused = (document.activeElement as HTMLElement | null)?.dataset.column;
    for (const one of [...body.children]) if (!fresh.includes(one as HTMLElement)) one.remove();
    for (const one of fresh) if (!one.isConnected) body.append(one);
    if (focused && !body.contains(document.activeElement)) focus(false);
    box.dataset.ready = "yes";
    more();
  }

  // The rows in sight: those that are on the page as they are, or with a note that is being written, and new ones.
  function rowsNow(): HTMLElement[] {
    const [first, end] = inSight();
    const kept = new Map([...(body.children as HTMLCollectionOf<HTMLElement>)].map((one) => [one.dataset.key, one]));
    const active = document.activeElement;
    const writing = active?.matches("input") ? active.closest<HTMLElement>(".sheet-row") : null;
    const [of, names] = [cells(), columns()];
    return Array.from({ length: Math.max(0, end - first) }, (_, at) => {
      const row = first + at;
      const key = `${row} ${state.version}`;
      const old = kept.get(key) ?? (writing?.dataset.row === String(row) ? writing : null);
      return old ?? rowOf(of, row, names, key);
    });
  }

  function drawHeads(): void {
    const frame = Math.ceil(box.scrollTop / HEIGHT) * state.step;
    for (const one of $("sheet-head").querySelectorAll<HTMLElement>("[data-stave]")) {
      if (one.lastChild) one.lastChild.textContent = shownAt(store.staves[Number(one.dataset.stave)].exposures, frame)?.drawing ?? "";
    }
  }

  function heads(): void {
    const names = columns();
    $("sheet-head").replaceChildren(...headsOf(names, store.staves));
    box.style.setProperty("--columns", widthsOf(names));
  }

  function more(): void {
    store.seen().catch((failed) => say(sentenceOf(failed), more));
  }

  store.changed.on((change) => {
    if (change.kind === "stave" || change.kind === "acting") derive();
    else if (change.kind === "sound") heard();
    else if (change.kind === "elsewhere") {
      loadNotes();
      sayDone(say, change.sentence);
    } else if (change.kind === "busy") box.dataset.busy = change.busy ? "yes" : "no";
  });
  const edit = (at: number, verb: string, what: object = {}) => store.edit(store.staves[at].id, verb, what);

  // Notes

  async function loadNotes(): Promise<void> {
    try {
      state.notes = (await get<{ notes: Record<string, string> }>(page.notesUrl)).notes;
      derive();
    } catch (failed) {
      console.debug(failed);
    }
  }

  async function write(frame: number, text: string): Promise<void> {
    try {
      const answer = await post<Or<{ notes: Record<string, string> }>>(page.noteUrl, { frame, text });
      say(answer.problem ?? "");
      if (answer.notes) state.notes = answer.notes;
    } catch (failed) {
      say(sentenceOf(failed), () => write(frame, text));
    }
  }

  // The cell that keys go to

  const cellAt = (row: number, column: Column) => body.querySelector<HTMLElement>(`[data-row="${row}"] [data-column="${column}"]`);

  function focus(scroll = true): void {
    const [row, column] = state.at;
    if (scroll) {
      if (row * HEIGHT < box.scrollTop + HEIGHT) box.scrollTop = Math.max(0, (row - 2) * HEIGHT);
      if ((row + 3) * HEIGHT > box.scrollTop + box.clientHeight) box.scrollTop = (row + 4) * HEIGHT - box.clientHeight;
      draw();
    }
    const found = cellAt(row, columns()[column]);
    (found?.querySelector("input") ?? found)?.focus({ preventScroll: true });
  }

  function move(rows: number, across: number): void {
    const own = columns().flatMap((name, at) => (editable(name) ? [at] : []));
    if (!own.length) return;
    const place = Math.max(0, own.indexOf(state.at[1]));
    const row = Math.max(0, Math.min(rowCount() - 1, state.at[0] + rows));
    state.at = [row, own[Math.max(0, Math.min(own.length - 1, place + across))]];
    focus();
  }

  // Choosing what begins on a row

  function choose(at: number, row: number): void {
    const stave = store.staves[at];
    const place = cellAt(row, `drawing ${at}`)?.getBoundingClientRect();
    if (!place) return;
    const here = shownAt(stave.exposures, row * state.step)?.drawing;
    const own = stave.chart.drawings.filter((one) => !one.lent && one.mood === stave.chart.mood);
    const options = [...own, { name: "", label: "nothing", svg: "" }].map((one) => option(one, one.name === here, () => begin(at, row, one.name)));
    choice.replaceChildren(...options);
    choice.hidden = false;
    choice.style.left = `${Math.min(place.left, window.innerWidth - 260)}px`;
    choice.style.top = `${Math.min(place.bottom, window.innerHeight - 300)}px`;
    (options.find((one) => one.getAttribute("aria-selected") === "true") ?? options[0]).focus();
  }

  function option(one: Pick<Drawing, "name" | "label" | "svg">, here: boolean, chosen: () => void): HTMLElement {
    const found = element("button", { type: "button" });
    found.setAttribute("role", "option");
    found.setAttribute("aria-selected", String(here));
    if (one.svg) found.append(mouthPicture(one));
    found.append(one.label);
    found.addEventListener("click", chosen);
    return found;
  }

  function leave(): void {
    choice.hidden = true;
    focus(false);
  }

  async function begin(at: number, row: number, name: string): Promise<void> {
    leave();
    const { verb, what } = beginHere(store.staves[at].exposures, row * state.step, name);
    await edit(at, verb, what);
    focus(false);
  }

  async function hold(at: number, row: number): Promise<void> {
    const one = made.starts[at].get(row);
    if (!one || one.frame === 0) return;
    await edit(at, "remove", { at: [one.frame], hold: true });
    focus(false);
  }

  // Hands

  function choiceKey(event: KeyboardEvent): void {
    const options = [...(choice.children as HTMLCollectionOf<HTMLElement>)];
    const at = options.indexOf(document.activeElement as HTMLElement);
    const step = /^Arrow(Down|Right)$/.test(event.key) ? 1 : /^Arrow(Up|Left)$/.test(event.key) ? -1 : 0;
    if (event.key === "Escape") leave();
    else if (step) options[(at + step + options.length) % options.length].focus();
    else return;
    event.preventDefault();
  }

  const ownCell = (event: Event) => targetOf(event).closest<HTMLElement>("[data-column]");

  function cellKey(event: KeyboardEvent): void {
    const own = ownCell(event);
    if (!own?.dataset.column) return;
    const [row, column] = [Number(own.dataset.row), own.dataset.column];
    const note = targetOf(event).matches("input");
    const moves: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], PageUp: [-PAGE, 0], PageDown: [PAGE, 0] };
    if (!note) Object.assign(moves, { ArrowLeft: [0, -1], ArrowRight: [0, 1], Home: [-rowCount(), 0], End: [rowCount(), 0] });
    const by = moves[event.key] as [number, number] | undefined;
    if (by) move(...by);
    else if (event.key === "Enter") note ? move(1, 0) : choose(staveNumber(column), row);
    else if (event.key === "Escape" && note) move(0, -1);
    else if ((event.key === "Delete" || event.key === "Backspace") && !note) hold(staveNumber(column), row);
    else return;
    event.preventDefault();
  }

  choice.addEventListener("keydown", choiceKey);
  document.addEventListener("pointerdown", (event) => {
    if (!choice.hidden && !targetOf(event).closest("#sheet-choice")) choice.hidden = true;
  });
  body.addEventListener("focusin", (event) => {
    const own = ownCell(event);
    if (own?.dataset.column) state.at = [Number(own.dataset.row), columns().indexOf(own.dataset.column)];
  });
  body.addEventListener("click", (event) => {
    const own = ownCell(event);
    const column = own?.dataset.column;
    if (!column || !isDrawing(column)) return;
    own.focus();
    choose(staveNumber(column), Number(own.dataset.row));
  });
  body.addEventListener("keydown", cellKey);
  document.addEventListener("keydown", (event) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !targetOf(event).matches("input")) {
      event.preventDefault();
      edit(0, event.shiftKey ? "redo" : "undo");
    }
  });
  box.addEventListener("keydown", (event) => {
    if (event.target !== box || !/^(Arrow|Enter)/.test(event.key)) return;
    move(0, 0);
    event.preventDefault();
  });
  box.addEventListener("scroll", () => requestAnimationFrame(draw), { passive: true });
  window.addEventListener("resize", draw);

  async function heard(): Promise<void> {
    try {
      const clips = heardClips(store.sound, fps);
      const known = new Map<string, Levels>();
      await peaksOf(clips.map((clip) => clip.peaks), known);
      state.peaks = clips.flatMap((clip) => {
        const levels = known.get(clip.peaks);
        return levels ? [{ clip, levels }] : [];
      });
      derive();
    } catch (failed) {
      say(sentenceOf(failed));
    }
  }

  store.watch();
  heard();
  store.loadActing();

  return {
    show(chosen: Column[], step: number): void {
      Object.assign(state, { columns: chosen, step });
      heads();
      derive();
    },
    goTo(frame: number): void {
      state.at = [Math.max(0, Math.floor((frame - start) / state.step)), columns().findIndex(editable)];
      focus();
    },
  };
}
