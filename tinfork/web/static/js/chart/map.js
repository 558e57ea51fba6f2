// The mouth map of a chart: a drawing dragged onto a shape, or chosen for it, is that shape. And what is brought in.
import { ask } from "../lib/edits.js";

// A button for a drawing of the chart, with its picture.
function choice(drawing) {
  const button = document.createElement("button");
  button.type = "button";
  button.dataset.change = drawing.dataset.change;
  const picture = drawing.querySelector("svg").cloneNode(true);
  picture.removeAttribute("aria-label");
  picture.setAttribute("aria-hidden", "true");
  for (const image of picture.querySelectorAll("image[data-href]")) image.setAttribute("href", image.dataset.href);
  button.append(picture, drawing.dataset.called);
  return button;
}

document.addEventListener("alpine:init", () => {
  window.Alpine.data("mouthMap", () => ({
    shape: "",
    title: "",
    problem: "",

    lift(event) {
      const drawing = event.target.closest("[data-change]");
      event.dataTransfer.setData("text/x-drawing", drawing.dataset.change);
      event.dataTransfer.effectAllowed = "link";
    },
    over(event) {
      event.dataTransfer.dropEffect = "link";
      event.currentTarget.classList.add("over");
    },
    out(event) {
      event.currentTarget.classList.remove("over");
    },
    dropped(event) {
      event.currentTarget.classList.remove("over");
      const change = event.dataTransfer.getData("text/x-drawing");
      if (change) this.be(change, event.currentTarget.dataset.shape);
    },
    ask(event) {
      this.shape = event.target.closest("[data-shape]").dataset.shape;
      this.title = `Which drawing is “${this.shape}”?`;
      this.$refs.dialog.showModal();
      requestAnimationFrame(() => this.$refs.choices.replaceChildren(...[...document.querySelectorAll(".drawing")].map(choice)));
    },
    chosen(event) {
      const chosen = event.target.closest("[data-change]");
      if (chosen) this.be(chosen.dataset.change, this.shape);
    },
    async be(change, shape) {
      const form = new FormData();
      form.append("do", "change");
      form.append("shape", shape);
      try {
        const answer = await ask(change, { body: form });
        if (answer.ok) location.reload();
        else this.problem = "This could not be kept; reload the page and do it again.";
      } catch (failed) {
        this.problem = failed.message;
      }
    },
  }));

  window.Alpine.data("bringDrawings", () => ({
    folder: false,
    cut: "",
    paths: "",
    named(event) {
      this.paths = [...event.target.files].map((file) => file.webkitRelativePath || file.name).join("\n");
    },
  }));
});
