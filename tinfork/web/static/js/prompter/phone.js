// The telephone: what its prompter shows, and buttons that are pressed for it.
import { get, post, sayIn } from "../lib/edits.js";

const $ = (id) => document.getElementById(id);
const LOOK_MS = 400;
const { sees, presses } = $("phone-shows").dataset;
const say = sayIn($("problem"));

function put({ frame, word, state, mouths = [] }) {
  $("frame").textContent = frame ?? "–";
  $("word").textContent = word ?? "";
  $("state").textContent = state ?? "";
  const rows = mouths.map(({ who, was, now, next, to_go }) => {
    const row = document.createElement("li");
    row.append(`${who}: ${was || "–"} · `, Object.assign(document.createElement("strong"), { textContent: now || "–" }), ` · ${next || "–"}${to_go ? ` in ${to_go}` : ""}`);
    return row;
  });
  $("mouths").replaceChildren(...rows);
}

async function look() {
  try {
    const { shown, problem } = await get(sees);
    say(problem ?? "");
    if (shown) put(shown);
  } catch (failed) {
    say(failed.message);
  }
  setTimeout(look, LOOK_MS);
}

for (const button of document.querySelectorAll("[data-press]"))
  button.addEventListener("click", async () => {
    try {
      const { problem } = await post(presses, { press: button.dataset.press });
      if (problem) say(problem);
    } catch (failed) {
      say(failed.message);
    }
  });
look();
