// Pictures of drawings are fetched when they come near to what is seen, so that a full chart is there at once.
const seen = new IntersectionObserver(
  (entries) => {
    for (const { target, isIntersecting } of entries) {
      if (!isIntersecting) continue;
      seen.unobserve(target);
      const image = target.querySelector<SVGImageElement>("image[data-href]");
      image?.setAttribute("href", image.dataset.href ?? "");
    }
  },
  { rootMargin: "200px" },
);

for (const image of document.querySelectorAll("image[data-href]")) {
  const picture = image.closest("svg");
  if (picture) seen.observe(picture);
}
