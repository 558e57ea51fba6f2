// Files dropped on a character go the way of a chosen file; a request that fails says so and loses nothing.
import "./waveforms.js";

const formOf = (event) => event.target.closest?.("[data-drop]");

document.addEventListener("dragover", (event) => {
  event.preventDefault();
  formOf(event)?.classList.add("over");
});
document.addEventListener("dragleave", (event) => formOf(event)?.classList.remove("over"));
document.addEventListener("drop", (event) => {
  event.preventDefault();
  const form = formOf(event);
  form?.classList.remove("over");
  const input = form?.querySelector("input[type=file]");
  if (!input || !event.dataTransfer.files.length) return;
  input.files = event.dataTransfer.files;
  input.dispatchEvent(new Event("change", { bubbles: true }));
});

// A file over the limit is refused before it travels.
document.addEventListener("htmx:confirm", (event) => {
  const input = event.target;
  const most = Number(input.closest?.("[data-drop]")?.dataset.mostBytes);
  if (input.type !== "file" || !(input.files[0]?.size > most)) return;
  event.preventDefault();
  input.value = "";
  say(`The file is larger than ${Math.floor(most / 2 ** 20)} MB; cut the sound into scenes first. Nothing was changed.`);
});

function say(sentence) {
  const place = document.getElementById("request-problem");
  place.textContent = sentence;
  place.hidden = !sentence;
}
document.addEventListener("htmx:beforeRequest", () => say(""));
document.addEventListener("htmx:sendError", () => say("The server cannot be reached; nothing was lost. Try again."));
document.addEventListener("htmx:responseError", (event) => {
  const why = event.detail.xhr.status === 413 ? "The file is too large." : "The server could not do this.";
  say(`${why} What was there is kept; reload the page and try again.`);
});
