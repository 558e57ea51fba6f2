// The telephone: what its prompter shows, and buttons that are pressed for it.
import { $, element } from "../lib/page.ts";
import { sayIn } from "../lib/saying.ts";
import { get, type Or, post, sentenceOf } from "../lib/store/requests.ts";
import type { Told } from "./prompter.ts";

const LOOK_MS = 400;
const { sees = "", presses = "" } = $("phone-shows").dataset;
const say = sayIn($("problem"));

function put({ frame, word, state, mouths = [] }: Partial<Told>): void {
  $("frame").textContent = frame ?? "–";
  $("word").textContent = word ?? "";
  $("state").textContent = state ?? "";
  const rows = mouths.map(({ who, was, now, next, to_go }) => {
    const row = element("li");
    row.append(`${who}: ${was || "–"} · `, element("strong", { textContent: now || "–" }), ` · ${next || "–"}${to_go ? ` in ${to_go}` : ""}`);
    return row;
  });
  $("mouths").replaceChildren(...rows);
}

async function look(): Promise<void> {
  try {
    const { shown, problem } = await get<Or<{ shown: Partial<Told> }>>(sees);
    say(problem ?? "");
    if (shown) put(shown);
  } catch (failed) {
    say(sentenceOf(failed));
  }
  setTimeout(look, LOOK_MS);
}

for (const button of document.querySelectorAll<HTMLElement>("[data-press]"))
  button.addEventListener("click", async () => {
    try {
      const { problem } = await post<{ problem?: string }>(presses, { press: button.dataset.press });
      if (problem) say(problem);
    } catch (failed) {
      say(sentenceOf(failed));
    }
  });
look();
