// Mouths of ours in a chosen style, shown as they would be drawn.
document.addEventListener("alpine:init", () => {
  window.Alpine.data("drawing", () => ({
    sample: "",
    init() {
      this.look();
    },
    look() {
      const asked = new URLSearchParams();
      for (const [name, value] of new FormData(this.$root.querySelector("form"))) {
        if (["style", "lip", "line", "corners", "turned"].includes(name)) asked.set(name, String(value));
      }
      this.sample = `${this.$root.dataset.styles}?${asked}`;
    },
  }));
});
