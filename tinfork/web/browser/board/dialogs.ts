// What is asked before many shots are changed: how their mouths are to be; into which shots a long one falls.
import { $, $dialog, element, inside } from "../lib/page.ts";
import { get, type Or, sentenceOf } from "../lib/store/requests.ts";

interface DialogsPage {
  url: string;
  say(text: string): void;
  chosen(): number[];
  change(what: string, body: object): Promise<boolean>;
}

interface Part {
  name: string;
  seconds: number;
  lines: number;
}

export function dialogs(page: DialogsPage): { openMouths(): void; openParts(): Promise<void> } {
  // What a form says of mouths: what is left empty is not said.
  function mouths(form: HTMLFormElement): object {
    const given = new FormData(form);
    const numbers = ["hold", "lead", "detail", "step"].flatMap((name) => {
      const value = String(given.get(name) ?? "");
      return value ? [[name, Number(value)]] : [];
    });
    const [whose, mood] = [String(given.get("characters")), String(given.get("mood"))];
    const seen = mood.startsWith("c") ? { mood: "", chart: Number(mood.slice(1)) } : mood ? { mood: mood.slice(1) } : {};
    return { scenes: page.chosen(), ...Object.fromEntries(numbers), ...seen, ...(whose ? { characters: [Number(whose)] } : {}) };
  }

  // Do something once a dialog is agreed to; how: which of its buttons was pressed.
  function agreed(id: string, work: (form: HTMLFormElement, how: string) => unknown): void {
    const dialog = document.getElementById(id) as HTMLDialogElement | null;
    dialog?.addEventListener("close", () => {
      if (dialog.returnValue) work(inside<HTMLFormElement>(dialog, "form"), dialog.returnValue);
      dialog.returnValue = "";
    });
  }
  agreed("board-mouths", (form) => page.change("mouths", mouths(form)));
  agreed("board-parts", (form, how) => {
    const [scene] = page.chosen();
    page.change("cut", how === "two" ? { scene, frame: Number(new FormData(form).get("frame")) } : { scene });
  });

  async function openParts(): Promise<void> {
    try {
      const { parts, problem } = await get<Or<{ parts: Part[] }>>(`${page.url}parts?scene=${page.chosen()[0]}`);
      $("parts-none").textContent = problem ?? "At the headings of its script, in the pauses between them:";
      $("parts-do").hidden = !parts;
      $("parts").replaceChildren(...(parts ?? []).map(({ name, seconds, lines }) => element("li", { textContent: `${name} · ${seconds.toFixed(1)} s · ${lines} line${lines === 1 ? "" : "s"}` })));
      $dialog("board-parts").showModal();
    } catch (failed) {
      page.say(sentenceOf(failed));
    }
  }

  return { openMouths: () => $dialog("board-mouths").showModal(), openParts };
}
