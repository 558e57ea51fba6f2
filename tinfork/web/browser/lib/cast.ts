// The cast can be added to wherever a character is asked for: "somebody new" in a list opens a small window.
import { sayIn } from "./saying.ts";
import { inside } from "./page.ts";
import { type Or, sendForm, sentenceOf } from "./store/requests.ts";
import type { CastMember } from "./types.ts";

const NEW = "new";
const box = document.querySelector<HTMLDialogElement>("#new-character");

// Somebody who was named, and the voices that speak their language.
export interface Made {
  character: CastMember;
  voices: Record<string, [string, string][]>;
}

// Who a list says speaks, as a number in a string or "" for everybody; somebody new is named first. null: given up.
export async function whoIn(select: HTMLSelectElement): Promise<string | null> {
  return select.value === NEW ? askFor(select) : select.value;
}

// Name somebody new for a list; resolves to their number, or null when that is given up.
function askFor(select: HTMLSelectElement): Promise<string | null> {
  if (!box) return Promise.resolve(null);
  const say = sayIn(inside(box, ".problem"));
  const name = inside<HTMLInputElement>(box, "input");
  say("");
  name.value = "";
  box.showModal();
  return new Promise((done) => {
    box.onclose = () => done(null);
    inside<HTMLFormElement>(box, "form").onsubmit = async (event) => {
      event.preventDefault();
      try {
        const made = await sendForm<Or<Made>>(box.dataset.url ?? "", new URLSearchParams({ name: name.value }));
        if (made.problem || !made.character) return say(made.problem ?? "");
        grown(made as Made);
        select.value = `${select.dataset.cast}${made.character.id}`;
        done(String(made.character.id));
        box.close();
      } catch (failed) {
        say(sentenceOf(failed));
      }
    };
  });
}

// Everywhere a character is asked for, there is one more.
function grown(made: Made): void {
  for (const one of document.querySelectorAll<HTMLSelectElement>("select[data-cast]")) add(one, one, made.character);
  const ready = document.querySelector<HTMLTemplateElement>("#line-cast");
  if (ready) add(ready.content, null, made.character);
  document.dispatchEvent(new CustomEvent("cast-grew", { detail: made }));
}

// Put somebody into a list, before "somebody new"; select: the list, where the place is one.
function add(place: ParentNode, select: HTMLSelectElement | null, { id, name, key }: CastMember): void {
  const last = place.querySelector(`option[value=${NEW}]`);
  if (!last) return;
  const { cast = "", castLabel = "" } = select?.dataset ?? {};
  const withKey = !select || select.matches(".line-who");
  const option = new Option(withKey && key ? `${key} ${name}` : `${castLabel}${name}`, `${cast}${id}`);
  option.dataset.name = name;
  last.before(option);
  if (select?.value === NEW && select.id !== "add-track") select.value = option.value;
}

if (box) inside(box, "[data-close]").addEventListener("click", () => box.close());

const listOf = ({ target }: Event): HTMLSelectElement | null => (target instanceof HTMLSelectElement && target.matches("[data-cast]") ? target : null);

// What a list said before somebody new was chosen in it.
const before = new WeakMap<HTMLSelectElement, string>();
document.addEventListener("focusin", (event) => {
  const select = listOf(event);
  if (select) before.set(select, select.value);
});

// Chosen in a list: before anything else hears of the change, the new name is asked for.
async function chosen(event: Event): Promise<void> {
  const select = listOf(event);
  if (select?.value !== NEW) return;
  event.stopImmediatePropagation();
  if ((await askFor(select)) === null) select.value = before.get(select) ?? select.options[0].value;
  else select.dispatchEvent(new Event("change", { bubbles: true }));
}
document.addEventListener("change", chosen, true);
