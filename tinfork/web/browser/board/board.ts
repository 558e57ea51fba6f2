// The board: shots found, sorted and changed many at once. What is looked for stands in the page's address; what a change
// makes of the board comes from the server.
import { $, $button, $input, fieldOf, givenIn, inside, targetOf } from "../lib/page.ts";
import { sayIn } from "../lib/saying.ts";
import { ask, formOf, get, type Or, pageHeaders, sentenceOf } from "../lib/store/requests.ts";
import { drawAgain } from "../lib/time/waveforms.ts";
import { isShown, order, wantedIn } from "./filter.ts";
import { dialogs } from "./dialogs.ts";
import { showPresent, watchBoard } from "./live.ts";
import { type BoardDocument, rowOf, type Shot, showProgress } from "./rows.ts";

const WALL = "board-wall";
const LOOK_MS = 400;
const AT_ONCE = 60;
// What a shot is whose checks nobody looked for yet.
const LOOKED_AT = "being looked at";

const page = $("board-page");
const place = $("board");
const filter = $("board-filter") as HTMLFormElement;
const say = sayIn($("board-problem"));
const url = page.dataset.url ?? "";
const archived = new URLSearchParams(location.search).has("archived");
// How the server is told which of both is shown.
const query = archived ? "?archived=1" : "";
const states = [...inside<HTMLSelectElement>(filter, "[name=state]").options].map((one) => one.value);
const chosen = new Set<number>();
let shots: Shot[] = [];
let visible: Shot[] = [];
let last = 0;
const rows = new Map<number, HTMLElement>();

// Show what is looked for, in the order that is asked for.
function sift(): void {
  const wanted = wantedIn(location.search);
  visible = shots.filter((shot) => isShown(shot, wanted)).sort(order(wanted.sort, states));
  place.replaceChildren();
  showMore(visible);
  $("board-count").textContent = visible.length === shots.length ? `${shots.length}` : `${visible.length} of ${shots.length}`;
  tellChosen();
}

// Put shots under those that are shown, a handful at once: the first are seen while the others are made.
function showMore(left: readonly Shot[]): void {
  if (!left.length) return;
  place.append(...left.slice(0, AT_ONCE).map(drawn));
  const of = visible;
  requestAnimationFrame(() => {
    if (of === visible) showMore(left.slice(AT_ONCE));
  });
}

// The row of a shot, made once for what it says.
function drawn(shot: Shot): HTMLElement {
  const row = rows.get(shot.id) ?? rowOf(shot);
  if (!rows.has(shot.id)) showPresent(row, shot.id);
  rows.set(shot.id, row);
  const pick = row.querySelector<HTMLInputElement>(".shot-pick");
  if (pick) pick.checked = chosen.has(shot.id);
  return row;
}

// What is chosen and out of sight is not chosen any more: nobody changes what they do not see.
function tellChosen(): void {
  const seen = new Set(visible.map(({ id }) => id));
  for (const id of [...chosen]) if (!seen.has(id)) chosen.delete(id);
  for (const pick of place.querySelectorAll<HTMLInputElement>(".shot-pick")) pick.checked = chosen.has(idOf(pick));
  const bar = document.getElementById("board-do");
  if (!bar) return;
  bar.hidden = !chosen.size;
  bar.classList.toggle("alone", chosen.size === 1);
  bar.classList.toggle("two", chosen.size === 2);
  $("board-chosen").textContent = chosen.size === 1 ? "1 shot" : `${chosen.size} shots`;
  const [alone] = chosen.size === 1 ? visible.filter(({ id }) => chosen.has(id)) : [];
  const thing = inside<HTMLInputElement>(bar, "[name=thing]");
  const now = alone ? `scene ${alone.id}` : "";
  // What is typed there stays when the board is drawn anew.
  if (thing.value === now) return;
  thing.value = now;
  inside<HTMLInputElement>(bar, "[name=name]").value = alone?.name ?? "";
}

const idOf = (within: Element): number => Number(within.closest<HTMLElement>(".shot")?.dataset.id);

function fill(): void {
  for (const [name, value] of Object.entries(wantedIn(location.search))) inside<HTMLInputElement>(filter, `[name=${name}]`).value = value;
}

function keepInAddress(): void {
  const kept = new URLSearchParams(archived ? { archived: "1" } : {});
  for (const [name, value] of new FormData(filter)) if (value) kept.set(name, String(value));
  history.replaceState(null, "", kept.size ? `?${kept}` : location.pathname);
}

// Draw the board as the server says it is now; rows that stay as they are, are kept.
function redraw(board: BoardDocument): void {
  const before = new Map(shots.map((shot) => [shot.id, JSON.stringify(shot)]));
  shots = board.rows;
  for (const shot of shots) if (before.get(shot.id) !== JSON.stringify(shot)) rows.delete(shot.id);
  showProgress(board.progress);
  if (board.said) tell("board-said", board.said);
  tell("board-undo", board.undo, "span");
  $("board-empty").hidden = shots.length > 0;
  sift();
  if (shots.some(({ state }) => state === LOOKED_AT)) setTimeout(look, LOOK_MS);
}

// Say something in a place of the page that is only there to say it.
function tell(id: string, text: string, within = ""): void {
  const told = document.getElementById(id);
  if (!told) return;
  told.hidden = !text;
  (within ? inside(told, within) : told).textContent = text;
}

// Open checks that nobody looked for yet are looked for, a second of work at a time.
async function look(): Promise<void> {
  const answer = await fetch(`${url}look`, { headers: pageHeaders() }).catch(() => null);
  if (answer?.status === 200) redraw(await answer.json());
}

// Ask for a change; the board is drawn as it is then, or a sentence says why there is none.
async function change(what: string, body: object | FormData): Promise<boolean> {
  const init = body instanceof FormData ? { body } : { body: JSON.stringify(body), headers: { "Content-Type": "application/json" } };
  try {
    const answer: Or<BoardDocument> = await (await ask(`${url}${what}${query}`, init)).json();
    say(answer.problem ?? "");
    if (answer.rows) redraw(answer as BoardDocument);
    return !answer.problem;
  } catch (failed) {
    say(sentenceOf(failed));
    return false;
  }
}

const set = (name: string, value: string) => change("set", { name, value, scenes: [...chosen] });

filter.addEventListener("input", () => {
  keepInAddress();
  sift();
});
filter.addEventListener("submit", (event) => event.preventDefault());

place.addEventListener("click", (event) => {
  const pick = targetOf(event).closest<HTMLInputElement>(".shot-pick");
  if (!pick) return;
  const ids = visible.map(({ id }) => id);
  const [from, to] = [ids.indexOf(last), ids.indexOf(idOf(pick))];
  const run = event.shiftKey && from >= 0 ? ids.slice(Math.min(from, to), Math.max(from, to) + 1) : [idOf(pick)];
  for (const id of run) pick.checked ? chosen.add(id) : chosen.delete(id);
  last = idOf(pick);
  tellChosen();
});

// Watch shots one after another: all of the film are not named one by one.
function watch(wanted: readonly Shot[]): void {
  location.href = `${page.dataset.screening}${wanted.length === shots.length ? "" : `?shots=${wanted.map(({ id }) => id).join(",")}`}`;
}
$button("board-watch").addEventListener("click", () => watch(visible));

const { openMouths, openParts } = dialogs({ url, say, chosen: () => [...chosen], change });

function doWith(event: Event): void {
  const button = targetOf(event).closest<HTMLButtonElement>("button");
  if (!button) return;
  if (button.dataset.set) set(button.dataset.set, button.value);
  if (button.dataset.do === "read") change("read", { scenes: [...chosen] });
  if (button.dataset.do === "hand-over") {
    const [first, ...rest] = visible.map(({ id }) => id).filter((id) => chosen.has(id));
    location.href = `/scenes/${first}/hand-over/?scenes=${rest.join(",")}`;
  }
  if (button.dataset.open) openMouths();
  if (button.dataset.do === "parts") openParts();
  if (button.dataset.do === "join") change("join", { scenes: [...chosen] });
  if (button.dataset.do === "copy") change("copy", { scenes: [...chosen] });
  if (button.dataset.do === "watch") watch(visible.filter(({ id }) => chosen.has(id)));
  if (button.id === "board-none") {
    chosen.clear();
    tellChosen();
  }
}

async function setByField(event: Event): Promise<void> {
  const field = fieldOf(event);
  if (!field.dataset.set) return;
  const value = field.value;
  if (field instanceof HTMLSelectElement) field.selectedIndex = 0;
  else field.value = "";
  await set(field.dataset.set, value);
}

document.getElementById("board-do")?.addEventListener("click", doWith);
document.getElementById("board-do")?.addEventListener("change", setByField);
document.getElementById("board-undo")?.addEventListener("click", (event) => {
  if (targetOf(event).closest("button")) change("undo", {});
});

for (const form of page.querySelectorAll<HTMLFormElement>("form[data-send]")) {
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    const button = inside<HTMLButtonElement>(form, "[type=submit]");
    button.disabled = true;
    if (await change(form.dataset.send ?? "", new FormData(form))) {
      form.reset();
      form.closest("details")?.removeAttribute("open");
    }
    button.disabled = false;
  });
}

function hang(wall: boolean): void {
  page.classList.toggle("wall", wall);
  $button("board-wall").setAttribute("aria-pressed", String(wall));
  drawAgain();
}
$button("board-wall").addEventListener("click", () => {
  const wall = !page.classList.contains("wall");
  localStorage.setItem(WALL, wall ? "yes" : "");
  hang(wall);
});

// A view is kept or forgotten; the page then has it, or not.
async function changeViews(fields: Record<string, string>): Promise<void> {
  const answer = await ask(`${url}views`, { body: formOf(fields) }).catch((failed: unknown) => say(sentenceOf(failed)));
  if (answer?.ok) location.reload();
  else if (answer) say(((await answer.json()) as Or<object>).problem ?? "");
}

// A sequence is renamed, moved or taken away; the page then has it so.
async function changeSequence(within: HTMLElement, doing: string): Promise<void> {
  const row = within.closest<HTMLElement>("[data-sequence]");
  const fields = { do: doing, sequence: row?.dataset.sequence ?? "", name: row?.querySelector("input")?.value ?? "" };
  const answer = await ask(`${url}sequence`, { body: formOf(fields) }).catch((failed: unknown) => say(sentenceOf(failed)));
  if (answer?.ok) location.reload();
  else if (answer) say(((await answer.json()) as Or<object>).problem ?? "");
}
filter.addEventListener("change", (event) => {
  const field = fieldOf(event);
  if (field.closest("[data-sequence]")) changeSequence(field, "rename");
});

$button("view-keep").addEventListener("click", () => changeViews({ name: $input("view-name").value, query: location.search.slice(1) }));
filter.addEventListener("click", (event) => {
  const moving = targetOf(event).closest<HTMLElement>("[data-sequence-do]");
  if (moving) changeSequence(moving, moving.dataset.sequenceDo ?? "");
  const { forget } = targetOf(event).closest<HTMLElement>("[data-forget]")?.dataset ?? {};
  if (forget) changeViews({ do: "forget", view: forget });
});

watchBoard(async () => redraw(await get<BoardDocument>(`${url}now${query}`)), rows);
fill();
hang(localStorage.getItem(WALL) === "yes");
redraw(givenIn<BoardDocument>("board-document") as BoardDocument);
page.dataset.ready = "yes";
