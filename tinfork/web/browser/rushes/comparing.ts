// What is watched, the shot as it is or a version of it, and a version beside it or over it: what is seen otherwise is
// listed in words and marked on the time.
import { $, $input, $select, element } from "../lib/page.ts";
import type { Changed, Version } from "../lib/review.ts";
import { get, sentenceOf } from "../lib/store/requests.ts";
import type { Stage, Watched } from "./stage.ts";

const MOST_LISTED = 40;

interface ComparingPage {
  reviewUrl: string;
  startFrame: number;
  stage: Stage;
  frames(): number;
  go(frame: number): void;
  draw(): void;
  say(text: string): void;
  done(text: string): void;
}

// What is seen otherwise on some frames, in words.
export function toldOf({ who, frame, end, was, now }: Changed, startFrame: number): string {
  const frames = end - frame > 1 ? `frames ${frame + startFrame} to ${end - 1 + startFrame}` : `frame ${frame + startFrame}`;
  return `${who}, ${frames}: ${was || "nothing"}, ${now || "nothing"} now`;
}

export class Comparing {
  readonly #page: ComparingPage;
  #known = "";

  constructor(page: ComparingPage) {
    this.#page = page;
    for (const id of ["shown-version", "versions"]) $select(id).addEventListener("change", () => this.#renew());
    $select("version-lies").addEventListener("change", () => this.#lie());
    $input("version-share").addEventListener("input", () => this.#lie());
  }

  // The versions there are now.
  show(versions: readonly Version[]): void {
    const numbers = versions.map(({ number }) => number);
    if (this.#known === numbers.join()) return;
    this.#known = numbers.join();
    $("versions-row").hidden = !numbers.length;
    for (const [id, none] of Object.entries({ "shown-version": "the shot as it is now", versions: "nothing" })) {
      const select = $select(id);
      const chosen = select.value;
      select.replaceChildren(new Option(none, ""), ...numbers.map((number) => new Option(`version ${number}`, String(number))));
      select.value = chosen;
    }
  }

  // The number of the version that is watched; 0 for the shot as it is now.
  get watched(): number {
    return Number($select("shown-version").value);
  }

  async #renew(): Promise<void> {
    const { stage, reviewUrl, say, draw } = this.#page;
    const [shown, beside] = [$select("shown-version").value, $select("versions").value];
    const ask = (number: string, than: string) => (number ? get<Watched>(`${reviewUrl}versions/${number}${than ? `?than=${than}` : ""}`) : null);
    try {
      const [watched, compared] = await Promise.all([ask(shown, ""), ask(beside, shown)]);
      stage.watch(watched);
      stage.compare(compared);
    } catch (failed) {
      say(sentenceOf(failed));
    }
    this.#tell();
    this.#lie();
    draw();
  }

  #tell(): void {
    const { stage, startFrame, frames, go, done } = this.#page;
    const { version } = stage;
    const changes = version?.changes ?? [];
    $("before-half").hidden = !version;
    $("stage-before").dataset.caption = version ? `version ${version.number}` : "";
    $("changes").replaceChildren(
      ...changes.map((one) => {
        const mark = element("span", { title: toldOf(one, startFrame) });
        Object.assign(mark.style, { left: `${(100 * one.frame) / frames()}%`, width: `${(100 * (one.end - one.frame)) / frames()}%` });
        return mark;
      }),
    );
    $("changed").replaceChildren(
      ...changes.slice(0, MOST_LISTED).map((one) => {
        const row = element("li");
        const button = element("button", { type: "button", className: "btn btn-sm btn-quiet", textContent: toldOf(one, startFrame) });
        button.addEventListener("click", () => go(one.frame));
        row.append(button);
        return row;
      }),
    );
    $("changed").hidden = !changes.length;
    if (version) done(changes.length ? `${changes.length} stretches of frames show something else than version ${version.number}: listed, and marked on the time.` : `Version ${version.number} shows the same mouths.`);
  }

  // A version lies beside what is watched, or over it, as much of it as is wanted.
  #lie(): void {
    const { version } = this.#page.stage;
    const over = $select("version-lies").value === "over";
    $("watched").classList.toggle("two", Boolean(version) && !over);
    $("watched").classList.toggle("over", Boolean(version) && over);
    $("version-lies").hidden = !version;
    $("version-share").hidden = !version || !over;
    $("before-half").style.opacity = over ? $input("version-share").value : "";
  }
}
