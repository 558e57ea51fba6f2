"""At the camera: one frame at a time by key, what was shot, and a connection that drops."""

from playwright.sync_api import expect

from tests.browser.steps import desk_ready, stave_of, view


def test_frames_are_stepped_shot_and_shot_again_and_a_lost_connection_is_caught_up(demo):
    page = demo
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text("2 · The goat").click()
    desk_ready(page)
    track = stave_of(page)["exposures"]
    view(page, "Prompter")
    page.wait_for_selector("#prompter[data-ready=yes]")
    frame, state = page.locator("#prompter-frame"), page.locator("#prompter-state")
    page.get_by_label("Go to frame").fill("104")
    page.get_by_label("Go to frame").press("Tab")
    expect(frame).to_have_text("104")
    expect(page.locator("#prompter-word")).to_have_text("Brede: a")
    now = next(e for e in track if e["frame"] <= 103 < e["frame"] + e["frames"])
    card = page.get_by_role("region", name="Brede")
    expect(card.locator(".now")).to_contain_text(now["drawing"])
    page.locator("#prompter").focus()
    page.keyboard.press("PageDown")
    expect(frame).to_have_text("105")
    page.keyboard.press("PageUp")
    with page.expect_response("**/prompter/log"):
        page.keyboard.press("Enter")
    expect(frame).to_have_text("105")
    page.keyboard.press("ArrowLeft")
    expect(state).to_have_text("shot")
    with page.expect_response("**/prompter/log"):
        page.keyboard.press("Backspace")
    expect(state).to_have_text("shoot again")
    expect(page.locator("#log-count")).to_contain_text("to be shot again: 104")

    page.route("**/prompter/log", lambda route: route.abort())
    for _ in range(3):
        page.keyboard.press("Enter")
    expect(frame).to_have_text("107")
    expect(page.locator("#problem")).to_contain_text("3 of the log wait on this page")
    page.unroute("**/prompter/log")
    expect(page.locator("#problem")).to_be_hidden()
    page.reload()
    page.wait_for_selector("#prompter[data-ready=yes]")
    expect(frame).to_have_text("107")
    expect(page.locator("#log-count")).to_have_text("3 frames")
    page.get_by_label("who").select_option(label="Pock")
    expect(card).to_be_hidden()
    page.get_by_role("button", name="◂ back").click()
    expect(state).to_have_text("shot")


def test_a_camera_takes_the_frames_and_a_telephone_steps(demo, chromium, address):
    page = demo
    page.goto("/scenes/2/prompter/")
    page.wait_for_selector("#prompter[data-ready=yes]")
    frame, of = page.locator("#prompter-frame"), page.locator("#onion-of")
    page.get_by_label("Go to frame").fill("200")
    page.get_by_label("Go to frame").press("Tab")
    page.locator("#prompter").focus()
    for _ in range(4):
        page.keyboard.press("Enter")
    expect(frame).to_have_text("204")
    expect(of).to_have_text("camera: 203, 202, 201")
    skins = page.locator("#onion img")
    expect(skins).to_have_count(3)
    expect(skins.last).to_have_js_property("naturalWidth", 640)
    assert skins.last.get_attribute("alt") == "Frame 203"

    page.get_by_role("button", name="telephone").click()
    expect(page.locator("#phone-how")).to_contain_text("type")
    code = page.locator("#phone-how").inner_text().split()[-1]
    elsewhere = chromium.new_context(viewport={"width": 390, "height": 844}, base_url=address)
    telephone = elsewhere.new_page()
    telephone.goto("/phone/")
    telephone.get_by_label("The code").fill(code)
    telephone.get_by_role("button", name="Pair").click()
    expect(page.locator("#phone-how")).to_have_text("A telephone is paired.")
    shown = telephone.locator("#frame")
    expect(shown).to_have_text("204")
    telephone.get_by_role("button", name="on").click()
    expect(frame).to_have_text("205")
    expect(shown).to_have_text("205")
    telephone.get_by_role("button", name="Shot").click()
    expect(frame).to_have_text("206")
    expect(of).to_have_text("camera: 205, 203, 202")
    telephone.get_by_role("button", name="back").click()
    expect(telephone.locator("#state")).to_have_text("shot")
    telephone.get_by_role("button", name="Shoot again").click()
    expect(telephone.locator("#state")).to_have_text("shoot again")
    assert telephone.evaluate("document.documentElement.scrollWidth") <= 390
    elsewhere.close()
