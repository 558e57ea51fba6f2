// The Script view: lines are kept as soon as they are left; keys say who speaks; a word opens on a click.
import "../lib/cast.js";
import { aWhile, ask, Queue, sayIn, tellOfChange } from "../lib/edits.js";
import { WordWindow } from "./word.js";

const script = () => document.getElementById("script");
const windowOfWord = new WordWindow(document.getElementById("word"), {
  here: (ipa) => edit({ verb: "say", line: opened.line, word: opened.word, ipa }),
  reread: (affected) => read(affected.filter((use) => String(use.scene) === script().dataset.scene).map((use) => ["only", use.line])),
  saved: () => refresh(),
});
let opened = null;

// Requests go one after the other, each on what the last one left, so that no older page comes after a newer one.
const queue = new Queue();
const say = sayIn(document.getElementById("trouble"));

// What failed and was not done since, in its order; it is said until it is.
const undone = new Map();

function edit(values) {
  const body = () => new URLSearchParams({ version: script().dataset.version, ...values });
  return send(() => script().dataset.edit, body, `${values.verb} ${values.line} ${values.word}`, values.line);
}

const read = (values) => send(() => script().dataset.read, () => new URLSearchParams(values), "read");

/** @param {() => string} url where to, and
 * @param {() => URLSearchParams | FormData} values with what, both as they are when its turn has come
 * @param {string} what takes the place of the same that failed before
 * @param {string} [line] which line it is about, if it is about one */
function send(url, values, what, line) {
  undone.delete(what);
  return queue.add(async () => {
    try {
      const body = values();
      const response = await ask(url(), { body, headers: { "HX-Request": "true" } });
      show(await response.text(), line, body.get("text"));
      if (!undone.size) say("");
    } catch (failed) {
      undone.set(what, () => send(url, values, what, line));
      say(failed.message, () => [...undone.values()].map((again) => again()));
    }
  });
}

// The lines as they are now, which the page asks for by itself.
function refresh() {
  return queue.add(async () => {
    try {
      const response = await ask(script().dataset.lines, { method: "GET", headers: { "HX-Request": "true" } });
      show(await response.text());
    } catch (failed) {
      console.debug(failed);
      aWhile().then(refresh);
    }
  });
}

// What the server sent takes the place of the old: all lines, or what an edit changed of them. What was typed and is not
// what was sent stays, and keeps the cursor.
function show(sent, line = undefined, text = undefined) {
  const made = document.createElement("template");
  made.innerHTML = sent;
  const patch = made.content.querySelector("[data-patch]");
  const focused = document.activeElement;
  const kept = { place: placeOf(focused), start: focused?.selectionStart, end: focused?.selectionEnd };
  const fields = [...document.querySelectorAll("#script [data-line] [name=text], #script form textarea")];
  const typed = fields.filter((field) => field.value !== field.defaultValue && !(field.value === text && lineOf(field) === line));
  if (patch) change(patch);
  else script().outerHTML = sent;
  window.htmx.process(script());
  dress();
  tellOfChange();
  for (const field of typed.filter((one) => !one.isConnected)) {
    const now = document.querySelector(placeOf(field));
    if (now) now.value = field.value;
  }
  const field = kept.place && !focused.isConnected ? document.querySelector(kept.place) : null;
  field?.focus();
  if (field?.matches("textarea, [name=text]") && kept.start !== null) field.setSelectionRange(kept.start, kept.end);
}

// What an edit changed: see patch.html.
function change(patch) {
  const list = document.querySelector("#script .lines");
  script().dataset.version = patch.dataset.version;
  for (const id of ["script-head", "script-notes"]) document.getElementById(id).replaceWith(patch.querySelector(`#${id}`));
  for (const id of patch.dataset.gone.split(" ").filter(Boolean)) document.getElementById(`line-${id}`)?.remove();
  if (!list.querySelector("[data-line]")) list.replaceChildren();
  for (const row of patch.querySelectorAll("[data-line]")) {
    const old = document.getElementById(row.id);
    if (old) old.replaceWith(row);
    else list.append(row);
  }
  (patch.dataset.order ?? "").split(" ").filter(Boolean).forEach((id, place) => {
    const row = document.getElementById(`line-${id}`);
    if (list.children[place] !== row) list.insertBefore(row, list.children[place] ?? null);
  });
}

const TITLES = {
  unknown: "Nobody can pronounce this: open it",
  guessed: "The pronunciation is a guess: open it",
  lexicon: "Said as the lexicon has it",
  here: "Said your way in this place",
};

// What every line has alike is put in here, so that a page of many lines is small: numbers, the cast, what can be done.
function dress() {
  document.querySelectorAll("#script [data-line]").forEach((row, place) => {
    const number = String(place + 1);
    if (row.dataset.number === number) return;
    if (!row.dataset.number) complete(row);
    row.dataset.number = number;
    row.querySelector(".line-number").textContent = number;
    for (const one of row.querySelectorAll("[data-label]")) one.ariaLabel = one.dataset.label.replace("#", number);
  });
  const unsettled = document.querySelectorAll(".word.guessed, .word.unknown").length;
  const next = document.getElementById("next-unsettled");
  next.hidden = !unsettled;
  next.textContent = `${unsettled} word${unsettled === 1 ? "" : "s"} to settle`;
}

function complete(row) {
  const who = row.querySelector(".line-who");
  const chosen = who.value;
  who.replaceChildren(document.getElementById("line-cast").content.cloneNode(true));
  who.value = chosen;
  const doing = document.getElementById("line-do");
  if (doing) row.append(doing.content.cloneNode(true));
  for (const word of row.querySelectorAll(".word")) word.title = TITLES[word.classList[1]] ?? "How is this said?";
  row.querySelector(".line-language").title = "Language: a code such as es; empty is the character's own";
  for (const one of controlsOf(row)) one.tabIndex = one.name === "text" ? 0 : -1;
  const read = row.querySelector(".line-state a");
  if (read) read.title = "Where it begins, and how sure the reading is";
}

// One stop of the Tab key for each line; inside it, arrows.
const controlsOf = (row) => [...row.querySelectorAll("input, select, button, a")].filter((one) => !one.disabled);

// Where an arrow key leads from a control of a line: to the one beside it, or to the same of the line above or below.
// In a field Left and Right lead out of it where the cursor is at its end, in a list Up and Down choose.
function beside(event) {
  const row = event.target.closest("[data-line]");
  const controls = controlsOf(row);
  const at = controls.indexOf(event.target);
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  if (step) return atEnd(event.target, step) ? controls[at + step] : null;
  if (event.target.matches("select")) return null;
  const other = event.key === "ArrowDown" ? row.nextElementSibling : row.previousElementSibling;
  if (!other?.matches("[data-line]")) return null;
  const there = controlsOf(other);
  const last = controls.length - 1 - at;
  return event.target.name ? other.querySelector(`[name=${event.target.name}]`) : (there[there.length - 1 - last] ?? there.at(-1));
}

function atEnd(field, step) {
  if (!field.matches("input")) return true;
  return field.selectionStart === field.selectionEnd && field.selectionStart === (step < 0 ? 0 : field.value.length);
}

function placeOf(field) {
  if (!field?.name || !field.closest("#script")) return "";
  return lineOf(field) ? `#line-${lineOf(field)} [name=${field.name}]` : `#script form [name=${field.name}]`;
}

const lineOf = (element) => element.closest("[data-line]")?.dataset.line;

document.addEventListener("change", (event) => {
  const verb = event.target.dataset?.verb;
  if (!verb || !lineOf(event.target)) return;
  edit({ verb, line: lineOf(event.target), [event.target.name]: event.target.value });
});

document.addEventListener("click", (event) => {
  const button = event.target.closest("button");
  if (!button) return;
  if (button.id === "next-unsettled") return nextUnsettled();
  if (button.matches(".word")) return open(button);
  if (button.dataset.reads) return read(button.dataset.reads === "all" ? { all: "1" } : {});
  if (button.dataset.again) return edit(JSON.parse(button.dataset.again));
  if (!button.dataset.verb) return;
  const values = { verb: button.dataset.verb };
  if (lineOf(button)) values.line = lineOf(button);
  if (button.dataset.valueBy) values.by = button.dataset.valueBy;
  if (button.dataset.valueWord) values.word = button.dataset.valueWord;
  edit(values);
});

function open(button) {
  opened = { line: lineOf(button), word: String([...button.parentElement.children].indexOf(button)) };
  windowOfWord.open(button.textContent, button.closest("[data-line]").dataset.language);
}

function nextUnsettled() {
  const words = [...document.querySelectorAll(".word.guessed, .word.unknown")];
  const next = words[(words.indexOf(document.activeElement) + 1) % words.length];
  next?.scrollIntoView({ block: "center" });
  next?.focus();
}

document.addEventListener("keydown", (event) => {
  const line = lineOf(event.target);
  if (event.altKey && /^[0-9]$/.test(event.key) && line) {
    const option = document.querySelector(`#line-${line} .line-who`).options[Number(event.key)];
    if (option) edit({ verb: "assign", line, character: option.value });
  } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !event.target.matches("input, textarea")) {
    edit({ verb: event.shiftKey ? "redo" : "undo" });
  } else if (line && event.key.startsWith("Arrow") && !event.altKey && !event.ctrlKey && !event.shiftKey) {
    const next = beside(event);
    if (!next) return;
    next.focus();
  } else if (event.key === "Enter" && event.target.name === "text" && line) {
    event.target.closest("[data-line]").nextElementSibling?.querySelector("[name=text]")?.focus();
  } else return;
  event.preventDefault();
});

document.addEventListener("submit", (event) => {
  const form = /** @type {HTMLFormElement} */ (event.target);
  if (!form.matches("#script form")) return;
  event.preventDefault();
  send(() => form.action, () => new FormData(form), "import");
});

document.body.addEventListener(`read-ended-${script().dataset.scene}`, refresh);
dress();
