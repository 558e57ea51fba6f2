// The cast can be added to wherever a character is asked for: "somebody new" in a list opens a small window.
import { ask, sayIn } from "./edits.js";

const NEW = "new";
const box = document.getElementById("new-character");
const name = box?.querySelector("input");
const say = box && sayIn(box.querySelector(".problem"));

// Who a list says speaks, as a number in a string or "" for everybody; somebody new is named first. null: given up.
export async function whoIn(select) {
  return select.value === NEW ? askFor(select) : select.value;
}

// Name somebody new for a list; resolves to their number, or null when that is given up.
function askFor(select) {
  say("");
  name.value = "";
  box.showModal();
  return new Promise((done) => {
    box.onclose = () => done(null);
    box.querySelector("form").onsubmit = async (event) => {
      event.preventDefault();
      try {
        const response = await ask(box.dataset.url, { body: new URLSearchParams({ name: name.value }) });
        const made = await response.json();
        if (made.problem) return say(made.problem);
        for (const one of document.querySelectorAll("select[data-cast]")) add(one, made.character);
        add(document.getElementById("line-cast")?.content, made.character);
        document.dispatchEvent(new CustomEvent("cast-grew", { detail: made }));
        select.value = `${select.dataset.cast}${made.character.id}`;
        done(String(made.character.id));
        box.close();
      } catch (failed) {
        say(failed.message);
      }
    };
  });
}

// Put somebody into a list, before "somebody new".
function add(list, { id, name, key }) {
  const last = list?.querySelector(`option[value=${NEW}]`);
  if (!last) return;
  const { cast = "", castLabel = "" } = list.dataset ?? {};
  const withKey = !list.dataset || list.matches(".line-who");
  const label = withKey && key ? `${key} ${name}` : `${castLabel}${name}`;
  const option = new Option(label, `${cast}${id}`);
  option.dataset.name = name;
  last.before(option);
  if (list.value === NEW && list !== document.getElementById("add-track")) list.value = option.value;
}

box?.querySelector("[data-close]").addEventListener("click", () => box.close());

// What a list said before somebody new was chosen in it.
const before = new WeakMap();
document.addEventListener("focusin", ({ target }) => {
  if (target.matches("select[data-cast]")) before.set(target, target.value);
});

// Chosen in a list: before anything else hears of the change, the new name is asked for.
document.addEventListener("change", async (event) => {
  const select = event.target;
  if (!select.matches?.("select[data-cast]") || select.value !== NEW) return;
  event.stopImmediatePropagation();
  if ((await askFor(select)) === null) select.value = before.get(select) ?? select.options[0].value;
  else select.dispatchEvent(new Event("change", { bubbles: true }));
}, true);
