// The lexicon page: a word opens in the same window as in the script.
import { WordWindow } from "./script/word.js";

const $ = (id) => document.getElementById(id);
const word = new WordWindow($("word"), { here: () => {}, reread: () => location.reload(), saved: () => {} });
for (const name of ["here", "clear", "reread"]) $("word").querySelector(`[data-${name}]`).hidden = true;
$("word").addEventListener("close", () => word.affected && location.reload());

document.addEventListener("click", (event) => {
  const { open, language, ipa } = event.target.dataset ?? {};
  if (open) word.open(open, language || "en", ipa);
});
$("find-out")?.addEventListener("click", () => {
  if ($("entry-word").value.trim()) word.open($("entry-word").value.trim(), $("entry-language").value || "en", $("entry-ipa").value);
  else $("entry-word").focus();
});
