// The bar at the top: daylight or night, who else is here, what concerns whoever is signed in, one search. Beneath it, on
// every page: what is said when a request of the page fails.
import { keepFocus } from "./lib/focus.ts";
import { $, component, libraries } from "./lib/page.ts";
import { beginFinding } from "./lib/find.ts";
import { sayIn } from "./lib/saying.ts";
import { Stream } from "./lib/stream.ts";
import { aWhile, ask, pageHeaders, troubleOf } from "./lib/store/requests.ts";
import { onTold, settled } from "./lib/told.ts";

const VIEWS: Record<string, string> = { sound: "Sound", script: "Script", desk: "Reading", acting: "Acting", sheet: "Sheet", prompter: "Prompter", rushes: "Rushes", handover: "Hand-over", changes: "Changes" };

// What htmx tells of a request.
interface Asked {
  elt: Element;
  target: Element;
  xhr: XMLHttpRequest;
  shouldSwap: boolean;
  headers: Record<string, string>;
  requestConfig: { verb: string; path: string; triggeringEvent: Event };
}

let failed: Element | null = null;
const say = sayIn($("trouble"));
const GONE = 404;

const onAsked = (name: string, work: (asked: Asked) => void) => document.addEventListener(`htmx:${name}`, (event) => work((event as CustomEvent<Asked>).detail));

onAsked("configRequest", ({ headers }) => Object.assign(headers, pageHeaders()));
onAsked("sendError", (asked) => tell(asked, troubleOf(0, location.href)));
onAsked("beforeSwap", (detail) => {
  const trouble = troubleOf(detail.xhr.status, detail.xhr.responseURL);
  if (trouble) {
    detail.shouldSwap = false;
    tell(detail, trouble);
  } else if (failed && (failed === detail.elt || !failed.isConnected)) {
    failed = null;
    say("");
  }
});

keepFocus();

// A choice that is kept as soon as it is made.
document.addEventListener("change", ({ target }) => (target as Element).closest<HTMLFormElement>("form[data-submit]")?.requestSubmit());

// A button that copies what the field before it says; where that may not be, the field's text is chosen, to be copied.
document.addEventListener("click", async ({ target }) => {
  const button = (target as Element).closest<HTMLElement>("[data-copy]");
  const field = button?.previousElementSibling as HTMLInputElement | undefined;
  if (!button || !field) return;
  field.select();
  await navigator.clipboard?.writeText(field.value).then(() => {
    button.textContent = "Copied";
  });
});

// What a person asked for is said, and can be done again. What the page asks for by itself is asked for again, and says
// nothing: it would take the place of what a person has yet to do again.
function tell(detail: Asked, trouble: string): void {
  if (!detail.elt.matches("[data-by-itself]")) {
    failed = detail.elt;
    say(trouble, () => again(detail));
  } else if (detail.xhr.status !== GONE) aWhile().then(() => again(detail));
}

// The same request of the same element once more; where that fails too it is told of as any other.
function again({ elt, target, requestConfig: { verb, path, triggeringEvent } }: Asked): void {
  if (elt.isConnected) libraries().htmx.ajax(verb, path, { source: elt, target, event: triggeringEvent }).catch(() => {});
}

// What somebody switches to is kept with them once they stay with it, or leave the page; it is in this browser anyhow.
let keeping: ReturnType<typeof setTimeout> | undefined;
const SETTLED_MS = 300;

function keepTheme(): void {
  keeping = undefined;
  const { keep, bsTheme } = document.documentElement.dataset;
  if (keep) ask(keep, { body: bsTheme, keepalive: true }).catch(() => {});
}
addEventListener("pagehide", () => {
  if (keeping === undefined) return;
  clearTimeout(keeping);
  keepTheme();
});

// Who is here

const { stream } = document.body.dataset;
if (stream) new Stream(stream, () => say("You may not see this any more, or are signed out. What is typed here is still on the page, but cannot be kept: copy what you need of it."));

onTold(["present"], ({ who = [] }) => {
  const here = document.getElementById("present");
  if (!here) return;
  const others = who.filter(({ scene, person }) => String(scene) === here.dataset.scene && String(person) !== here.dataset.person);
  here.hidden = !others.length;
  here.textContent = others.map(({ name }) => name).join(", ");
  here.dataset.count = String(others.length);
  here.title = others.map(({ name, view, doing }) => `${name}: ${[VIEWS[view], doing].filter(Boolean).join(", ")}`).join("\n");
});

// A scene that has other frames now: what is open of it counts in the old ones, and keeps what is typed until it is loaded
// again.
onTold(["edit"], ({ kind, area, scene }) => {
  const here = document.getElementById("present")?.dataset.scene;
  if (kind !== "edit" || area !== "timing" || String(scene) !== here || location.pathname.includes("/changes")) return;
  say("The scene's frame rate or first frame is another now. Load the page again to go on.", () => location.reload(), "Load again");
});

// What concerns somebody: how much of it is new, as a number on the button; the list, when the page is there and when it
// is told of something new.
const NOTICES_MS = 200;
const button = document.getElementById("notices") as HTMLDetailsElement | null;
const list = document.getElementById("notices-list");

const loadNotices = (): Promise<void> => libraries().htmx.ajax("get", button?.dataset.url ?? "", { source: list, target: list });

function countNotices(): void {
  const unseen = Number(list?.querySelector<HTMLElement>("[data-unseen]")?.dataset.unseen ?? 0);
  const told = document.getElementById("notices-count");
  if (told) told.textContent = unseen ? String(unseen) : "";
}
if (button) {
  onTold(["notice"], settled(NOTICES_MS, loadNotices));
  document.addEventListener("htmx:afterSwap", countNotices);
  document.addEventListener("click", ({ target }) => {
    if (!button.contains(target as Node)) button.open = false;
  });
  button.addEventListener("keydown", ({ key }) => {
    if (key !== "Escape") return;
    button.open = false;
    button.querySelector("summary")?.focus();
  });
}

const find = document.getElementById("find") as HTMLDialogElement | null;
if (find) beginFinding(find);

component("bar", () => ({
  theme: document.documentElement.dataset.bsTheme,
  get themeLabel() {
    return this.theme === "dark" ? "Daylight" : "Night";
  },
  switchTheme() {
    this.theme = this.theme === "dark" ? "light" : "dark";
    document.documentElement.dataset.bsTheme = this.theme;
    localStorage.setItem("theme", this.theme);
    clearTimeout(keeping);
    keeping = setTimeout(keepTheme, SETTLED_MS);
    document.dispatchEvent(new CustomEvent("theme-switched"));
  },
}));
