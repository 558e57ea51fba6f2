// The window that finds anything: opened by its button or its key, gone through with the arrow keys.
import { $, inside } from "./page.ts";

export function beginFinding(find: HTMLDialogElement): void {
  const field = inside<HTMLInputElement>(find, "input");
  const links = () => [...find.querySelectorAll<HTMLAnchorElement>("#found a")];
  const open = () => {
    if (find.open || document.querySelector("dialog[open]")) return;
    find.showModal();
    field.select();
    // What it finds at first says what it can.
    if (!find.querySelector("#found > *")) field.dispatchEvent(new Event("search"));
  };
  $("find-open").addEventListener("click", open);
  document.addEventListener("keydown", (event) => {
    if (!(event.ctrlKey || event.metaKey) || !event.shiftKey || event.key.toLowerCase() !== "f") return;
    event.preventDefault();
    open();
  });
  find.addEventListener("click", (event) => {
    // Beside it, or at a place on this very page.
    if (event.target === find || (event.target as Element).closest("a")) find.close();
  });
  find.addEventListener("keydown", (event) => {
    event.stopPropagation();
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const all = links();
    // A field to search in would be emptied first.
    if (event.key === "Escape") find.close();
    if (event.key === "Enter" && event.target === field && all.length) all[0].click();
    if (!step || !all.length) return;
    event.preventDefault();
    const at = all.indexOf(document.activeElement as HTMLAnchorElement) + step;
    if (at < 0) field.focus();
    else all[Math.min(at, all.length - 1)].focus();
  });
}
