"""Several at once: pages that hear of each other, shots in a row, and a guest who watches by a link."""

from playwright.sync_api import expect

from tests.browser.spare import MARIT_READ
from tests.browser.steps import desk_ready, invited, tab_of

# What is scheduled to be heard, and when each shot is seen for the first time, by the page's own clock.
EARS = """
window.heard = [];
window.seen = [];
const start = AudioBufferSourceNode.prototype.start;
AudioBufferSourceNode.prototype.start = function (when, offset, seconds) {
  window.heard.push([when, seconds, this.context.currentTime, performance.now()]);
  return start.call(this, when, offset, seconds);
};
const look = () => {
  const { shot, seen } = document.getElementById("rushes").dataset;
  if (window.seen.at(-1)?.[0] !== `${shot}${seen}`) window.seen.push([`${shot}${seen}`, performance.now()]);
  requestAnimationFrame(look);
};
look();
"""
FRAME = 1 / 24


def board(page):
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.wait_for_selector("#board-page[data-ready]")


def tick(page, numbers):
    for number in numbers:
        page.locator(f".shot[data-id='{number}'] .shot-pick").check()


def screening_ready(page):
    page.wait_for_selector("#rushes[data-ready=yes][data-seen=yes]")


def follows_without_a_gap(page):
    """The second shot is heard when the first has ended, and seen with it."""
    page.locator("#line-on").click()
    page.wait_for_selector("#rushes[data-shot='1'][data-seen=yes]")
    page.keyboard.press("Shift+ArrowLeft")
    page.wait_for_selector("#rushes[data-shot='0'][data-seen=yes]")
    page.evaluate(EARS)
    page.get_by_role("button", name="Play", exact=True).click()
    expect(page.locator("#rushes")).to_have_attribute("data-shot", "1")
    page.wait_for_timeout(300)
    page.get_by_role("button", name="Pause").click()
    first, second = page.evaluate("window.heard")[-2:]
    assert abs(first[0] + first[1] - second[0]) < 1e-6
    seen = dict(page.evaluate("window.seen"))
    assert "1" not in seen, "what is seen of it was there before its turn"
    # When it begins to be heard, by the page's clock. It is not seen before; how late it is, is the machine's doing.
    begins = second[3] / 1000 + second[0] - second[2]
    assert -FRAME < seen["1yes"] / 1000 - begins < 1


def test_a_guest_watches_and_writes_and_it_is_heard_of_at_once(demo, scenes, guests, chromium, address, tmp_path):
    owner, shots, name = demo, [next(scenes[MARIT_READ]), next(scenes[MARIT_READ])], f"Pier {tmp_path.name[-10:]}"
    board(owner)
    tick(owner, shots)
    owner.get_by_label("sequence", exact=True).fill(name)
    owner.get_by_label("sequence", exact=True).press("Tab")
    expect(owner.locator("#board-said")).to_contain_text("Set sequence of 2 shots")
    owner.get_by_role("region", name="What is done").get_by_role("button", name="Watch").click()
    screening_ready(owner)
    assert owner.locator("#strip li").count() == 2
    follows_without_a_gap(owner)

    owner.get_by_role("link", name="People").click()
    owner.get_by_label("Who watches").fill("Hilde")
    owner.get_by_label("What", exact=True).select_option(f"{name}, all shots")
    owner.get_by_role("button", name="Let them watch").click()
    link = owner.get_by_label("Link to watch for Hilde").first.input_value()
    context = chromium.new_context(viewport={"width": 390, "height": 844}, base_url=address, has_touch=True)
    try:
        guest = context.new_page()
        guest.goto(link)
        screening_ready(guest)
        owner.goto(f"/scenes/{shots[0]}/rushes/")
        owner.wait_for_selector("#rushes[data-ready=yes]")
        writes_as_guest(guest)
        expect(owner.locator("#notes > li")).to_contain_text("The boot is lost too early")
        expect(owner.locator("#notices-count")).not_to_be_empty()
        expect(owner.locator("#notes > li")).to_contain_text("Hilde (guest)")
        owner.get_by_label("Notices").or_(owner.locator("#notices > summary")).first.click()
        expect(owner.locator("#notices-list")).to_contain_text("Hilde (guest) notes on frame 1")

        owner.get_by_role("link", name="The Salt Ferry").first.click()
        owner.get_by_role("link", name="People").click()
        expect(owner.locator(".invited")).to_contain_text("opened 1 time")
        owner.get_by_label("Withdraw the link of Hilde").first.click()
        guest.reload()
        expect(guest.locator("main")).to_contain_text("This link was withdrawn")
    finally:
        context.close()


def writes_as_guest(guest):
    guest.get_by_role("button", name="Write note").click()
    expect(guest.locator("#problem")).to_contain_text("Write your name first")
    guest.get_by_label("Your name").fill("Hilde")
    guest.get_by_label("Note on frame").fill("The boot is lost too early")
    guest.get_by_role("button", name="Write note").click()
    expect(guest.locator("#notes > li")).to_contain_text("Hilde (guest)")
    assert not guest.get_by_role("button", name="Done").count()
    assert guest.evaluate("document.documentElement.scrollWidth <= innerWidth")


def test_two_work_side_by_side_and_one_is_taken_out(demo, scenes, guests, tmp_path):
    owner, scene, who = demo, next(scenes[MARIT_READ]), f"brede{tmp_path.name[-8:]}"
    board(owner)
    owner.get_by_role("link", name="People").click()
    other = guests(invited(owner, who, "animator"), who, (1280, 800))
    owner.get_by_role("link", name="Board").click()
    owner.wait_for_selector("#board-page[data-ready]")
    other.goto(f"/scenes/{scene}/reading/")
    desk_ready(other)
    row = owner.locator(f".shot[data-id='{scene}']")
    expect(row.locator(".here")).to_have_text(who)

    owner.goto(f"/scenes/{scene}/reading/")
    desk_ready(owner)
    expect(owner.locator("#present")).to_have_text(who)
    with other.expect_response("**/edit"):
        other.keyboard.press("Home")
        other.keyboard.press("e")
    expect(owner.get_by_role("alert").filter(has_text="changed elsewhere")).to_be_visible()

    owner.keyboard.press("Control+Shift+F")
    owner.get_by_label("Find anything").fill(who[:6])
    owner.locator("#found a").first.wait_for()
    owner.keyboard.press("ArrowDown")
    owner.keyboard.press("Enter")
    owner.wait_for_url("**/people/")
    owner.get_by_label(f"Change {who}").click()
    owner.get_by_role("button", name="Take them out").click()
    expect(other.locator("#trouble")).to_contain_text("You may not see this any more")
    with other.expect_response("**/edit") as refused:
        other.locator("#desk").focus()
        other.keyboard.press("e")
    assert refused.value.status == 404
    assert tab_of(other, "Reading").is_visible()
