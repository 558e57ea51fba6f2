// Before anything is painted: the theme this person chose last.
document.documentElement.dataset.bsTheme = localStorage.getItem("theme") === "dark" ? "dark" : "light";
