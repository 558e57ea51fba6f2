// Bringing sound in: files that are chosen or dropped, and lines spoken by a scratch voice.
import { type Made, whoIn } from "../lib/cast.ts";
import { $, $dialog, $input, $select, inside, targetOf } from "../lib/page.ts";
import type { Clip } from "../lib/types.ts";
import { clipsOf, type Room } from "./state.ts";
import { under } from "./tracks.ts";

export function bringingIn(page: Room & { readonly canvas: HTMLCanvasElement; show(): void }): void {
  const { given, view, editor, canvas } = page;
  const room = $("sound");

  // where: on which track, from which frame, for whom; what is not said is left to the server.
  async function bring(files: readonly File[], where: Record<string, string | number | null | undefined>): Promise<void> {
    const large = files.find((file) => file.size > given.mostBytes);
    if (large) return page.say(`${large.name} is larger than ${Math.floor(given.mostBytes / 2 ** 20)} MB; cut the sound into scenes first. Nothing was changed.`);
    const form = new FormData();
    for (const file of files) form.append("sound", file);
    for (const [name, value] of Object.entries(where)) if (value !== undefined && value !== null) form.append(name, String(value));
    room.classList.add("busy-bringing");
    await editor.send(room.dataset.bring ?? "", form, page.take).finally(() => room.classList.remove("busy-bringing"));
  }

  $("files").addEventListener("change", async () => {
    const field = $input("files");
    const files = [...(field.files ?? [])];
    field.value = "";
    const who = await whoIn($select("bring-for"));
    if (who !== null) bring(files, who ? { character: who } : {});
  });

  room.addEventListener("dragover", (event) => {
    event.preventDefault();
    room.classList.add("over");
  });
  room.addEventListener("dragleave", () => room.classList.remove("over"));
  room.addEventListener("drop", async (event) => {
    event.preventDefault();
    room.classList.remove("over");
    const files = [...(event.dataTransfer?.files ?? [])];
    if (!files.length || !given.mayEdit) return;
    const target = targetOf(event);
    const head = target.closest<HTMLElement>("[data-track]");
    const spot = target === canvas ? under(view, event.offsetX, event.offsetY) : null;
    if (spot?.clip && files.length === 1 && event.dataTransfer && (await isNext(spot.clip, event.dataTransfer.files))) return;
    const track = head ? Number(head.dataset.track) : spot?.track?.id;
    const asked = () => (clipsOf(view.sound).length ? whoIn($select("bring-for")) : whose(files));
    const who = target.closest<HTMLElement>("[data-character]")?.dataset.character ?? (track ? "" : await asked());
    if (who === null) return;
    bring(files, { track, start: spot?.track ? Math.max(0, spot.frame) : null, character: track ? null : who || null });
  });

  // Whether what is dropped onto a clip is the next version of its sound: then both are compared, on a page of their own;
  // or nothing is to be done with it.
  function isNext(clip: Clip, files: FileList): Promise<boolean> {
    const box = $dialog("onto");
    inside(box, "p").textContent = `${files[0].name} on ${clip.name}`;
    inside<HTMLInputElement>(box, "[name=old]").value = String(clip.source);
    inside<HTMLInputElement>(box, "[name=file]").files = files;
    box.returnValue = "";
    box.showModal();
    return new Promise((done) => {
      box.onclose = () => done(box.returnValue !== "own");
    });
  }

  // Whose is what is dropped into an empty scene; null: it is not brought in.
  function whose(files: readonly File[]): Promise<string | null> {
    const box = $dialog("whose");
    const select = inside<HTMLSelectElement>(box, "select");
    inside(box, "p").textContent = files.map((file) => file.name).join(", ");
    box.returnValue = "";
    box.showModal();
    return new Promise((done) => {
      box.onclose = async () => done(box.returnValue === "bring" ? await whoIn(select) : null);
    });
  }

  // Scratch voices

  const lineChosen = () => given.lines.find((one) => String(one.id) === $select("scratch-line").value);

  // The voices that speak the chosen line's language, or else the character's own.
  function voices(): void {
    const who = view.cast.find((c) => String(c.id) === $select("scratch-character").value);
    const language = lineChosen()?.language ?? who?.language ?? "";
    $input("scratch-language").value = language;
    const own = given.voices[language] as [string, string][] | undefined;
    $("scratch-voice").replaceChildren(...(own ?? []).map(([code, name]) => new Option(name, code)));
  }

  $("scratch").addEventListener("submit", async (event) => {
    event.preventDefault();
    if ((await whoIn($select("scratch-character"))) === null) return;
    const form = new FormData($("scratch") as HTMLFormElement);
    form.append("start", String(view.frame));
    editor.send(room.dataset.scratch ?? "", form, page.take);
  });
  $("scratch-character").addEventListener("change", voices);
  $("scratch-line").addEventListener("change", () => {
    const line = lineChosen();
    if (line?.character) $select("scratch-character").value = String(line.character);
    $input("scratch-words").value = line?.text ?? "";
    voices();
  });
  document.addEventListener("cast-grew", (event) => {
    const { character, voices: more } = (event as CustomEvent<Made>).detail;
    view.cast.push(character);
    Object.assign(given.voices, more);
    voices();
    page.show();
  });
  voices();
}
