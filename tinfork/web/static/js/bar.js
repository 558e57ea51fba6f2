// The bar at the top: daylight or night.
document.addEventListener("alpine:init", () => {
  window.Alpine.data("bar", () => ({
    theme: document.documentElement.dataset.bsTheme,
    get themeLabel() {
      return this.theme === "dark" ? "Daylight" : "Night";
    },
    switchTheme() {
      this.theme = this.theme === "dark" ? "light" : "dark";
      document.documentElement.dataset.bsTheme = this.theme;
      localStorage.setItem("theme", this.theme);
      document.dispatchEvent(new CustomEvent("theme-switched"));
    },
  }));
});
