// The mouth map of a chart: a drawing dragged onto a shape, or chosen for it, is that shape. And what is brought in.
import { component, element, fieldOf, inside, targetOf } from "../lib/page.ts";
import { changeDrawing } from "./changing.ts";

// A button for a drawing of the chart, with its picture.
function choice(drawing: HTMLElement): HTMLElement {
  const button = element("button", { type: "button" });
  button.dataset.change = drawing.dataset.change;
  const picture = inside<SVGSVGElement>(drawing, "svg").cloneNode(true) as SVGSVGElement;
  picture.removeAttribute("aria-label");
  picture.setAttribute("aria-hidden", "true");
  for (const image of picture.querySelectorAll<SVGImageElement>("image[data-href]")) image.setAttribute("href", image.dataset.href ?? "");
  button.append(picture, drawing.dataset.called ?? "");
  return button;
}

// What is dragged over or dropped on.
const onto = (event: DragEvent) => event.currentTarget as HTMLElement;

component("mouthMap", () => ({
    shape: "",
    title: "",
    problem: "",

    lift(event: DragEvent) {
      const change = targetOf(event).closest<HTMLElement>("[data-change]")?.dataset.change;
      if (!event.dataTransfer || !change) return;
      event.dataTransfer.setData("text/x-drawing", change);
      event.dataTransfer.effectAllowed = "link";
    },
    over(event: DragEvent) {
      if (event.dataTransfer) event.dataTransfer.dropEffect = "link";
      onto(event).classList.add("over");
    },
    out(event: DragEvent) {
      onto(event).classList.remove("over");
    },
    dropped(event: DragEvent) {
      onto(event).classList.remove("over");
      const change = event.dataTransfer?.getData("text/x-drawing");
      if (change) this.be(change, onto(event).dataset.shape ?? "");
    },
    ask(event: Event) {
      this.shape = targetOf(event).closest<HTMLElement>("[data-shape]")?.dataset.shape ?? "";
      this.title = `Which drawing is “${this.shape}”?`;
      (this.$refs.dialog as HTMLDialogElement).showModal();
      requestAnimationFrame(() => this.$refs.choices.replaceChildren(...[...document.querySelectorAll<HTMLElement>(".drawing")].map(choice)));
    },
    chosen(event: Event) {
      const change = targetOf(event).closest<HTMLElement>("[data-change]")?.dataset.change;
      if (change) this.be(change, this.shape);
    },
    async be(change: string, shape: string) {
      this.problem = await changeDrawing(change, { shape }, "This could not be kept; reload the page and do it again.");
    },
  }));

component("bringDrawings", () => ({
    folder: false,
    cut: "",
    paths: "",
    named(event: Event) {
      this.paths = [...(fieldOf(event).files ?? [])].map((file) => file.webkitRelativePath || file.name).join("\n");
    },
  }));
