// The window of keys: it opens at its top, and shows those that have to do with what is typed.
import { element } from "./page.ts";

export function searchable(keys: HTMLDialogElement): void {
  const field = element("input", { type: "search", className: "form-control form-control-sm", placeholder: "Find a key, or what it does", autofocus: true });
  field.setAttribute("aria-label", "Find a key, or what it does");
  field.addEventListener("input", () => show(keys, field.value));
  keys.querySelector("h2")?.after(field);
  keys.addEventListener("close", () => {
    field.value = "";
    show(keys, "");
  });
}

// A row is a key and what it does; of a group nothing is shown where no row of it is.
function show(keys: HTMLDialogElement, text: string): void {
  const wanted = text.trim().toLowerCase();
  for (const list of keys.querySelectorAll("dl")) {
    let any = false;
    for (const key of list.querySelectorAll("dt")) {
      const does = key.nextElementSibling as HTMLElement;
      const fits = `${key.textContent} ${does.textContent}`.toLowerCase().includes(wanted);
      key.hidden = does.hidden = !fits;
      any ||= fits;
    }
    list.hidden = !any;
    if (list.previousElementSibling instanceof HTMLHeadingElement && list.previousElementSibling.tagName === "H3") list.previousElementSibling.hidden = !any;
  }
}
