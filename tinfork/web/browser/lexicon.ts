// The lexicon page: a word opens in the same window as in the script.
import { $, $dialog, $input, targetOf } from "./lib/page.ts";
import { WordWindow } from "./script/word.ts";

const word = new WordWindow($dialog("word"), { here: () => {}, reread: () => location.reload(), saved: () => {} });
for (const name of ["here", "clear", "reread"]) word.$(name).hidden = true;
word.dialog.addEventListener("close", () => word.affected && location.reload());

document.addEventListener("click", (event) => {
  const { open, language, ipa } = targetOf(event).dataset;
  if (open) word.open(open, language || "en", ipa);
});
document.getElementById("find-out")?.addEventListener("click", () => {
  const field = $input("entry-word");
  const language = ($("entry-language") as HTMLInputElement).value;
  if (field.value.trim()) word.open(field.value.trim(), language || "en", $input("entry-ipa").value);
  else field.focus();
});
