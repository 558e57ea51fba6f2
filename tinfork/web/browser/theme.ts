// Before anything is painted: the theme chosen last in this browser; once somebody has signed in, what they chose last.
{
  const page = document.documentElement;
  const { chosen, since } = page.dataset;
  if (since && localStorage.getItem("theme-since") !== since) {
    localStorage.setItem("theme-since", since);
    if (chosen) localStorage.setItem("theme", chosen);
  }
  page.dataset.bsTheme = localStorage.getItem("theme") === "dark" ? "dark" : "light";
}
