// The window of keys: it opens at its top, shows those that have to do with what is typed, and gives them others.
import { type OwnKeys, asUsual, canBeGiven, keyOf } from "./ownkeys.ts";
import { element, typing } from "./page.ts";
import { sayDone, sayIn } from "./saying.ts";
import { post, sentenceOf } from "./store/requests.ts";

const CHANGING = "…";

// Whether a key is kept for something that the person decided elsewhere, whatever it does usually.
type Claims = (event: KeyboardEvent) => boolean;

export class KeyWindow {
  readonly #window: HTMLDialogElement;
  readonly #saves: string;
  readonly #say: ReturnType<typeof sayIn>;
  readonly #usual = element("button", { type: "button", className: "btn btn-sm btn-quiet", textContent: "All keys as usual" });
  #own: OwnKeys;

  constructor(keys: HTMLDialogElement, claims: Claims = () => false) {
    this.#window = keys;
    this.#saves = keys.dataset.saves ?? "";
    this.#own = JSON.parse(keys.dataset.own ?? "{}") as OwnKeys;
    const told = element("p", { hidden: true });
    told.setAttribute("role", "status");
    this.#say = sayIn(told);
    const field = searchable(keys);
    const head = element("div", { className: "keys-head" });
    field.replaceWith(head);
    head.append(field, told);
    if (!this.#saves) return;
    const hint = element("p", { className: "quiet", textContent: "Press a key here to give what it does another one. " });
    this.#usual.addEventListener("click", () => this.#keep({}));
    hint.append(this.#usual);
    head.append(hint);
    for (const key of this.#rows) key.dataset.usual = key.textContent ?? "";
    keys.addEventListener("click", (event) => this.#pressed(event));
    document.addEventListener("keydown", (event) => !typing(event) && !claims(event) && asUsual(this.#own, event), { capture: true });
    this.#show();
  }

  get #rows(): NodeListOf<HTMLElement> {
    return this.#window.querySelectorAll("dt kbd");
  }

  #now(usual: string): string {
    return this.#own[usual] ?? usual;
  }

  #show(): void {
    for (const key of this.#rows) {
      const usual = key.dataset.usual ?? "";
      const button = element("button", { type: "button", textContent: this.#now(usual), title: usual in this.#own ? `Usually ${usual}; press to change it` : "Press to give it another key" });
      button.classList.toggle("own-key", usual in this.#own);
      key.replaceChildren(button);
    }
    this.#usual.hidden = !Object.keys(this.#own).length;
    for (const hint of document.querySelectorAll<HTMLElement>("button > kbd[aria-hidden]")) {
      hint.dataset.usual ??= hint.textContent ?? "";
      hint.textContent = this.#now(hint.dataset.usual);
    }
    for (const told of document.querySelectorAll<HTMLElement>("[title$=')']")) {
      told.dataset.usual ??= told.title;
      told.title = told.dataset.usual.replace(/\(([^()]+)\)$/, (_, usual: string) => `(${this.#now(usual)})`);
    }
  }

  #pressed(event: MouseEvent): void {
    const key = (event.target as HTMLElement).closest<HTMLElement>("dt kbd");
    const usual = key?.dataset.usual;
    if (!key || !usual) return;
    const button = key.firstElementChild as HTMLElement;
    button.textContent = CHANGING;
    button.focus();
    this.#tell(`Press the new key for “${doneBy(key)}”; Escape leaves it.`);
    const taken = (pressed: KeyboardEvent) => {
      const name = keyOf(pressed);
      if (/^(Control|Shift|Alt|Meta)$/.test(pressed.key)) return;
      pressed.preventDefault();
      pressed.stopPropagation();
      over.abort();
      this.#show();
      this.#tell("");
      this.#focus(usual);
      if (pressed.key !== "Escape") this.#give(usual, name);
    };
    const over = new AbortController();
    button.addEventListener("keydown", taken, { signal: over.signal });
    const left = () => {
      over.abort();
      this.#show();
      this.#tell("");
    };
    button.addEventListener("blur", left, { signal: over.signal });
  }

  #focus(usual: string): void {
    [...this.#rows].find((one) => one.dataset.usual === usual)?.querySelector("button")?.focus();
  }

  // What has the key already is told, and gets the other's when that is wanted.
  #give(usual: string, name: string): void {
    if (!canBeGiven(name)) return this.#say(`${name} has its meaning everywhere, or the browser keeps it for itself; choose another key.`);
    if (name === this.#now(usual)) return;
    const other = [...this.#rows].find((one) => this.#now(one.dataset.usual ?? "") === name);
    const own = { ...this.#own, [usual]: name };
    if (!other?.dataset.usual) return void this.#keep(own, usual);
    const swapped = { ...own, [other.dataset.usual]: this.#now(usual) };
    this.#say(`${name} is “${doneBy(other)}” already.`, () => this.#keep(swapped, usual), "Swap the two", true);
  }

  async #keep(own: OwnKeys, usual = ""): Promise<void> {
    const kept = Object.fromEntries(Object.entries(own).filter(([one, name]) => one !== name));
    try {
      const { problem } = await post<{ problem?: string }>(this.#saves, kept);
      if (problem) return this.#say(problem);
    } catch (failed) {
      return this.#say(sentenceOf(failed));
    }
    this.#own = kept;
    this.#show();
    this.#focus(usual);
    this.#tell(Object.keys(kept).length ? "Kept." : "All keys are as usual.");
  }

  #tell(sentence: string): void {
    sayDone(this.#say, sentence);
  }
}

// What a key in the window does, as its row says.
const doneBy = (key: HTMLElement): string => (key.closest("dt")?.nextElementSibling?.textContent ?? "").trim();

// A field that finds rows of the window.
export function searchable(keys: HTMLDialogElement): HTMLElement {
  const field = element("input", { type: "search", className: "form-control form-control-sm", placeholder: "Find a key, or what it does", autofocus: true });
  field.setAttribute("aria-label", "Find a key, or what it does");
  field.addEventListener("input", () => show(keys, field.value));
  keys.querySelector("h2")?.after(field);
  keys.addEventListener("close", () => {
    field.value = "";
    show(keys, "");
  });
  return field;
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
