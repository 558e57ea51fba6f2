// The Script view: lines are kept as soon as they are left; keys say who speaks; a word opens on a click.
import "../lib/cast.ts";
import { searchable } from "../lib/keywindow.ts";
import { $, $dialog, inside, libraries, targetOf } from "../lib/page.ts";
import { sayIn } from "../lib/saying.ts";
import { tellOfChange } from "../lib/store/editor.ts";
import { Queue } from "../lib/store/queue.ts";
import { aWhile, ask, sentenceOf } from "../lib/store/requests.ts";
import { beside, complete, type Field, lineOf, placeOf, stops } from "./rows.ts";
import { WordWindow } from "./word.ts";

const script = (): HTMLElement => $("script");
const windowOfWord = new WordWindow($dialog("word"), {
  here: (ipa) => edit({ verb: "say", ...opened, ipa }),
  reread: (affected) => read(affected.filter((use) => String(use.scene) === script().dataset.scene).map((use) => ["only", String(use.line)])),
  saved: () => refresh(),
});
// The word that is open: its line, and its place in it.
let opened = { line: "", word: "" };

// Requests go one after the other, each on what the last one left, so that no older page comes after a newer one.
const queue = new Queue();
const say = sayIn($("trouble"));

// What failed and was not done since, in its order; it is said until it is.
const undone = new Map<string, () => Promise<void>>();

function edit(values: Record<string, string>): Promise<void> {
  const body = () => new URLSearchParams({ version: script().dataset.version ?? "", ...values });
  return send(() => script().dataset.edit ?? "", body, `${values.verb} ${values.line} ${values.word}`, values.line);
}

const read = (values: Record<string, string> | string[][]) => send(() => script().dataset.read ?? "", () => new URLSearchParams(values), "read");

// url and values: where to and with what, both as they are when its turn has come; what: takes the place of the same that
// failed before; line: which line it is about, if it is about one.
function send(url: () => string, values: () => URLSearchParams | FormData, what: string, line?: string): Promise<void> {
  undone.delete(what);
  return queue.add(async () => {
    try {
      const body = values();
      const response = await ask(url(), { body, headers: { "HX-Request": "true" } });
      show(await response.text(), line, String(body.get("text") ?? ""));
      if (!undone.size) say("");
    } catch (failed) {
      undone.set(what, () => send(url, values, what, line));
      say(sentenceOf(failed), () => [...undone.values()].map((again) => again()));
    }
  });
}

// The lines as they are now, which the page asks for by itself.
function refresh(): Promise<void> {
  return queue.add(async () => {
    try {
      const response = await ask(script().dataset.lines ?? "", { method: "GET", headers: { "HX-Request": "true" } });
      show(await response.text());
    } catch (failed) {
      console.debug(failed);
      aWhile().then(refresh);
    }
  });
}

// What the server sent takes the place of the old: all lines, or what an edit changed of them. What was typed and is not
// what was sent stays, and keeps the cursor.
function show(sent: string, line?: string, text?: string): void {
  const made = document.createElement("template");
  made.innerHTML = sent;
  const patch = made.content.querySelector<HTMLElement>("[data-patch]");
  const focused = document.activeElement as Field | null;
  const kept = focused && { place: placeOf(focused), start: focused.selectionStart, end: focused.selectionEnd };
  const fields = [...document.querySelectorAll<Field>("#script [data-line] [name=text], #script form textarea")];
  const typed = fields.filter((field) => field.value !== field.defaultValue && !(field.value === text && lineOf(field) === line));
  if (patch) change(patch);
  else script().outerHTML = sent;
  libraries().htmx.process(script());
  dress();
  tellOfChange();
  for (const field of typed.filter((one) => !one.isConnected)) {
    const now = document.querySelector<Field>(placeOf(field));
    if (now) now.value = field.value;
  }
  const field = kept?.place && !focused?.isConnected ? document.querySelector<Field>(kept.place) : null;
  field?.focus();
  if (field?.matches("textarea, [name=text]") && kept && kept.start !== null) field.setSelectionRange(kept.start, kept.end);
}

// What an edit changed: see patch.html.
function change(patch: HTMLElement): void {
  const list = inside(document, "#script .lines");
  script().dataset.version = patch.dataset.version;
  for (const id of ["script-head", "script-notes"]) $(id).replaceWith(inside(patch, `#${id}`));
  for (const id of (patch.dataset.gone ?? "").split(" ").filter(Boolean)) document.getElementById(`line-${id}`)?.remove();
  if (!list.querySelector("[data-line]")) list.replaceChildren();
  for (const row of patch.querySelectorAll("[data-line]")) {
    const old = document.getElementById(row.id);
    if (old) old.replaceWith(row);
    else list.append(row);
  }
  (patch.dataset.order ?? "").split(" ").filter(Boolean).forEach((id, place) => {
    const row = document.getElementById(`line-${id}`);
    if (row && list.children[place] !== row) list.insertBefore(row, list.children[place] ?? null);
  });
}

// What every line has alike is put in here, so that a page of many lines is small: numbers, the cast, what can be done.
function dress(): void {
  document.querySelectorAll<HTMLElement>("#script [data-line]").forEach((row, place) => {
    const number = String(place + 1);
    if (row.dataset.number === number) return;
    if (!row.dataset.number) complete(row);
    row.dataset.number = number;
    inside(row, ".line-number").textContent = number;
    for (const one of row.querySelectorAll<HTMLElement>("[data-label]")) one.ariaLabel = (one.dataset.label ?? "").replace("#", number);
  });
  const unsettled = document.querySelectorAll(".word.guessed, .word.unknown").length;
  const next = $("next-unsettled");
  next.hidden = !unsettled;
  next.textContent = `${unsettled} word${unsettled === 1 ? "" : "s"} to settle`;
}

document.addEventListener("change", (event) => {
  const field = targetOf(event) as Field;
  const { verb } = field.dataset;
  const line = lineOf(field);
  if (verb && line) edit({ verb, line, [field.name]: field.value });
});

document.addEventListener("click", (event) => {
  const button = targetOf(event).closest("button");
  if (!button) return;
  const { reads, again, verb, valueBy, valueWord } = button.dataset;
  const line = lineOf(button);
  if (button.id === "next-unsettled") nextUnsettled();
  else if (button.id === "help") $dialog("keys").showModal();
  else if (button.matches(".word")) open(button);
  else if (reads) read(reads === "all" ? { all: "1" } : {});
  else if (again) edit(JSON.parse(again) as Record<string, string>);
  else if (verb) edit({ verb, ...(line ? { line } : {}), ...(valueBy ? { by: valueBy } : {}), ...(valueWord ? { word: valueWord } : {}) });
});

function open(button: HTMLElement): void {
  const row = button.closest<HTMLElement>("[data-line]");
  opened = { line: lineOf(button) ?? "", word: String([...(button.parentElement?.children ?? [])].indexOf(button)) };
  windowOfWord.open(button.textContent ?? "", row?.dataset.language ?? "");
}

function nextUnsettled(): void {
  const words = [...document.querySelectorAll<HTMLElement>(".word.guessed, .word.unknown")];
  const next = words.at((words.indexOf(document.activeElement as HTMLElement) + 1) % words.length);
  next?.scrollIntoView({ block: "center" });
  next?.focus();
}

document.addEventListener("focusin", (event) => {
  const row = targetOf(event).closest("[data-line]");
  for (const other of document.querySelectorAll("#script .line-open")) {
    if (other === row) return;
    other.classList.remove("line-open");
    stops(other, false);
  }
  row?.classList.add("line-open");
  if (row) stops(row, true);
});

document.addEventListener("keydown", (event) => {
  const target = targetOf(event) as Field;
  const line = lineOf(target);
  const plain = !event.altKey && !event.ctrlKey && !event.shiftKey;
  if (event.altKey && /^[0-9]$/.test(event.key) && line) {
    const option = inside<HTMLSelectElement>(document, `#line-${line} .line-who`).options.item(Number(event.key));
    if (option) edit({ verb: "assign", line, character: option.value });
  } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !target.matches("input, textarea")) {
    edit({ verb: event.shiftKey ? "redo" : "undo" });
  } else if (line && event.key.startsWith("Arrow") && plain) {
    const next = beside(target, event.key);
    if (!next) return;
    next.focus();
  } else if (event.key === "Enter" && target.name === "text" && line) {
    target.closest("[data-line]")?.nextElementSibling?.querySelector<HTMLElement>("[name=text]")?.focus();
  } else if (event.key === "?" && !target.matches("input, textarea")) {
    $dialog("keys").showModal();
  } else return;
  event.preventDefault();
});

document.addEventListener("submit", (event) => {
  const form = targetOf(event) as HTMLFormElement;
  if (!form.matches("#script form")) return;
  event.preventDefault();
  send(() => form.action, () => new FormData(form), "import");
});

searchable($dialog("keys"));
document.body.addEventListener(`read-ended-${script().dataset.scene}`, () => refresh());
dress();
