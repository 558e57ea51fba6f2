"""What is cut, covered or makes the page scroll sideways, told from the boxes of its texts."""

# All texts that are seen, each with its box; and what of them is cut or lies on another.
AMISS = """(() => {
  const seen = [];
  const root = document.querySelector("dialog[open]") ?? document.body;
  const walk = document.createTreeWalker(root, NodeFilter.SHOW_TEXT);
  while (walk.nextNode()) {
    const node = walk.currentNode;
    const home = node.parentElement;
    if (!node.textContent.trim()) continue;
    if (home.closest("script, style, template, option, .visually-hidden, svg, dialog:not([open])")) continue;
    if (!home.checkVisibility({ checkOpacity: true, checkVisibilityCSS: true })) continue;
    const range = document.createRange();
    range.selectNodeContents(node);
    for (const box of range.getClientRects()) {
      if (box.width < 2 || box.height < 2) continue;
      let shown = { left: box.left, top: box.top, right: box.right, bottom: box.bottom };
      for (let one = home; one && one !== document.body; one = one.parentElement) {
        const style = getComputedStyle(one);
        if (style.overflowX === "visible" && style.overflowY === "visible") continue;
        const edge = one.getBoundingClientRect();
        const scrolls = /auto|scroll/.test(style.overflowX + style.overflowY);
        shown = {
          left: Math.max(shown.left, edge.left),
          top: Math.max(shown.top, edge.top),
          right: Math.min(shown.right, edge.right),
          bottom: Math.min(shown.bottom, edge.bottom),
          scrolls: shown.scrolls || scrolls,
        };
      }
      if (shown.right - shown.left < 2 || shown.bottom - shown.top < 2) continue;
      seen.push({ text: node.textContent.trim().slice(0, 40), box, shown, home });
    }
  }
  const found = [];
  for (const { text, box, shown } of seen) {
    const cut = box.right - shown.right > 2 || shown.left - box.left > 2;
    if (cut && !shown.scrolls) found.push(`cut: “${text}”`);
  }
  for (let i = 0; i < seen.length; i++) {
    for (let j = i + 1; j < seen.length; j++) {
      const [a, b] = [seen[i].shown, seen[j].shown];
      const wide = Math.min(a.right, b.right) - Math.max(a.left, b.left);
      const high = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
      if (wide <= 2 || high <= 4 || seen[i].home === seen[j].home) continue;
      found.push(`“${seen[i].text}” lies on “${seen[j].text}”`);
    }
  }
  const { scrollWidth } = document.documentElement;
  if (scrollWidth > innerWidth + 1) found.push(`scrolls sideways: ${scrollWidth} in ${innerWidth}`);
  return found;
})()"""

# Once what follows from a new size is drawn: what watches sizes is told a picture later, and draws on the next.
DRAWN = """() => new Promise((done) => {
  let left = 4;
  const next = () => (left-- ? requestAnimationFrame(next) : done());
  next();
})"""
