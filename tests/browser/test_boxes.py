"""No text is cut, covers another or makes the page scroll sideways: told from the boxes, at several sizes of window."""

from tests.browser.steps import desk_ready, room_ready, view

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
SIZES = {"1280x800": (1280, 800), "1920x1080": (1920, 1080), "1280x800 at 125%": (1024, 640)}


def acting(page, look):
    view(page, "Acting")
    page.wait_for_selector("#acting[data-ready=yes]")
    look("Acting")
    for tab in page.locator(".dock-tabs [role=tab]:visible").all():
        tab.click()
        look(f"Acting, {tab.inner_text()}")


def test_no_text_is_cut_or_covered(demo):
    page = demo
    found = []

    def look(where):
        for size, (width, height) in SIZES.items():
            page.set_viewport_size({"width": width, "height": height})
            page.evaluate(DRAWN)
            found.extend(f"{where}, {size}: {one}" for one in page.evaluate(AMISS))

    look("shelf")
    page.get_by_role("link", name="Bring a bundle in").click()
    look("bringing a bundle in")
    page.go_back()
    page.get_by_text("The Salt Ferry").click()
    page.locator(".start summary").click()
    look("production")
    page.get_by_label("Change Brede").click()
    page.get_by_label("Change 2 · The goat").click()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.get_by_label("Change Brede").click()
    page.get_by_role("link", name="Lexicon").click()
    look("lexicon")
    page.go_back()
    page.get_by_text("4 · Both").click()
    desk_ready(page)
    look("desk")
    for tab in page.locator(".dock-tabs [role=tab]:visible").all():
        tab.click()
        look(f"desk, {tab.inner_text()}")
    page.locator("#staves").focus()
    page.keyboard.press("w")
    look("desk, a word")
    view(page, "Sound")
    room_ready(page)
    page.locator("#tracks").focus()
    page.keyboard.press("n")
    page.locator("summary", has_text="Scratch voice").click()
    look("Sound")
    view(page, "Script")
    look("Script")
    page.locator(".word").first.click()
    page.wait_for_selector("#word[open] .candidates li")
    look("word")
    page.keyboard.press("Escape")
    acting(page, look)
    view(page, "Sheet")
    page.wait_for_selector("#sheet[data-ready=yes]")
    look("Sheet")
    view(page, "Prompter")
    page.wait_for_selector("#prompter[data-ready=yes]")
    look("Prompter")
    view(page, "Hand-over")
    look("Hand-over")
    assert not found, "\n".join(found)


def test_on_a_telephone_one_can_watch_and_read(demo):
    page = demo
    page.set_viewport_size({"width": 390, "height": 844})
    page.get_by_text("The Salt Ferry").click()
    page.get_by_text("4 · Both").click()
    desk_ready(page)
    for name in ("Reading", "Acting", "Script", "Sound", "Sheet", "Prompter", "Hand-over"):
        view(page, name)
        page.evaluate(DRAWN)
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, name
    view(page, "Reading")
    desk_ready(page)
    page.get_by_role("button", name="Play").click()
    mirror = page.locator("#mirror").bounding_box()
    assert mirror["y"] + mirror["height"] <= 844
