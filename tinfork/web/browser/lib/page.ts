// What every page is made with: elements that its template promises, made elements, and components of its panels.

// The element of an id, of the kind the template gives it; an Error where the template breaks its promise.
function promised<T extends HTMLElement>(id: string, kind: { new (): T; readonly name: string }): T {
  const found = document.getElementById(id);
  if (found instanceof kind) return found;
  throw new Error(`The page has no ${kind.name} #${id}.`);
}

export const $ = (id: string): HTMLElement => promised(id, HTMLElement);
export const $input = (id: string): HTMLInputElement => promised(id, HTMLInputElement);
export const $button = (id: string): HTMLButtonElement => promised(id, HTMLButtonElement);
export const $select = (id: string): HTMLSelectElement => promised(id, HTMLSelectElement);
export const $canvas = (id: string): HTMLCanvasElement => promised(id, HTMLCanvasElement);
export const $dialog = (id: string): HTMLDialogElement => promised(id, HTMLDialogElement);

// What lies inside an element that its template promises.
export function inside<T extends Element = HTMLElement>(place: ParentNode, selector: string): T {
  const found = place.querySelector<T>(selector);
  if (!found) throw new Error(`The page has no ${selector}.`);
  return found;
}

// The document a page was sent with; null where the page has none, as there is nothing to show.
export function givenIn<T>(id: string): T | null {
  const text = document.getElementById(id)?.textContent;
  return text ? (JSON.parse(text) as T) : null;
}

// A made element with some properties set.
export function element<K extends keyof HTMLElementTagNameMap>(tag: K, properties: Partial<HTMLElementTagNameMap[K]> = {}): HTMLElementTagNameMap[K] {
  return Object.assign(document.createElement(tag), properties);
}

export const on = (id: string, action: () => unknown): void => $(id).addEventListener("click", () => action());

// What was pressed or typed in, as an event says.
export const targetOf = (event: Event): HTMLElement => event.target as HTMLElement;
export const fieldOf = (event: Event): HTMLInputElement => event.target as HTMLInputElement;

// What Alpine gives a component beside its own.
interface Given {
  $el: HTMLElement;
  $root: HTMLElement;
  $refs: Record<string, HTMLElement>;
  $nextTick(work: () => void): void;
  $watch(name: string, work: () => void): void;
}

interface Libraries {
  Alpine: { data(name: string, make: () => object): void };
  htmx: { ajax(verb: string, path: string, how: object): Promise<void>; process(element: Element): void };
}

export const libraries = (): Libraries => globalThis as unknown as Libraries;

// A part of a component of the page's templates.
export const panel = <T extends object>(made: T & ThisType<T & Given>): T => made;

type Joined<T extends readonly object[]> = T extends readonly [infer First, ...infer Rest extends readonly object[]] ? First & Joined<Rest> : unknown;

// Several parts as one, getters as getters.
export const joined = <T extends readonly object[]>(...parts: T): Joined<T> =>
  Object.defineProperties({}, Object.assign({}, ...parts.map((one) => Object.getOwnPropertyDescriptors(one)))) as Joined<T>;

export function component<T extends object>(name: string, make: () => T & ThisType<T & Given>): void {
  document.addEventListener("alpine:init", () => libraries().Alpine.data(name, make));
}

// A function that draws on the next picture, once, however often it is called before.
export function oncePerPicture(render: () => void): () => void {
  let wanted = false;
  return () => {
    if (wanted) return;
    wanted = true;
    requestAnimationFrame(() => {
      wanted = false;
      render();
    });
  };
}

// Whether a key is meant for a field and not for the page.
export const typing = (event: KeyboardEvent): boolean =>
  targetOf(event).matches("input:not([type=checkbox], [type=range]), textarea, select") || document.querySelector("dialog[open]") !== null;
