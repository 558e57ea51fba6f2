// The Script view: lines are kept as soon as they are left; keys say who speaks; a word opens on a click.
import { WordWindow } from "./word.js";

const script = () => document.getElementById("script");
const windowOfWord = new WordWindow(document.getElementById("word"), {
  here: (ipa) => edit({ verb: "say", line: opened.line, word: opened.word, ipa }),
  reread: (affected) => read(affected.filter((use) => String(use.scene) === script().dataset.scene).map((use) => use.line)),
  saved: () => refresh(),
});
let opened = null;

// Requests go one after the other, each on what the last one left, so that no older page comes after a newer one.
let last = Promise.resolve();
function edit(values) {
  last = last.then(() => {
    const focused = document.activeElement?.closest?.("[data-line]")?.dataset.line;
    const name = document.activeElement?.name;
    return window.htmx
      .ajax("POST", script().dataset.edit, { target: "#script", swap: "outerHTML", values: { version: script().dataset.version, ...values } })
      .then(() => focused && document.querySelector(`#line-${focused} [name=${name || "text"}]`)?.focus());
  });
  return last;
}

function read(lines) {
  last = last.then(() => window.htmx.ajax("POST", script().dataset.read, { target: "#script", swap: "outerHTML", values: { only: lines } }));
  return last;
}

function refresh() {
  last = last.then(() => window.htmx.ajax("GET", script().getAttribute("hx-get"), { target: "#script", swap: "outerHTML" }));
  return last;
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
  if (button.dataset.word !== undefined) return open(button);
  if (!button.dataset.verb) return;
  const values = { verb: button.dataset.verb };
  if (lineOf(button)) values.line = lineOf(button);
  if (button.dataset.valueBy) values.by = button.dataset.valueBy;
  if (button.dataset.valueWord) values.word = button.dataset.valueWord;
  edit(values);
});

function open(button) {
  opened = { line: lineOf(button), word: button.dataset.word };
  windowOfWord.open(button.textContent, button.dataset.language);
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
  } else if (event.key === "Enter" && event.target.name === "text" && line) {
    event.target.closest("[data-line]").nextElementSibling?.querySelector("[name=text]")?.focus();
  } else return;
  event.preventDefault();
});
