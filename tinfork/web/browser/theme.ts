// Before anything is painted: the theme this person chose last, here or wherever they were signed in.
{
  const page = document.documentElement;
  page.dataset.bsTheme = (page.dataset.chosen || localStorage.getItem("theme")) === "dark" ? "dark" : "light";
}
