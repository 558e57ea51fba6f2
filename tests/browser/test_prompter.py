"""At the camera: one frame at a time by key, what was shot, and a connection that drops."""

from playwright.sync_api import expect

from tests.browser.steps import desk_ready, stave_of, view


def test_frames_are_stepped_shot_and_shot_again_and_a_lost_connection_is_caught_up(demo):
    page = demo
    page.get_by_text("The Salt Ferry").click()
    page.get_by_text("2 · The goat").click()
    desk_ready(page)
    track = stave_of(page)["exposures"]
    view(page, "Prompter")
    page.wait_for_selector("#prompter[data-ready=yes]")
    frame, state = page.locator("#prompter-frame"), page.locator("#prompter-state")
    page.get_by_label("Go to frame").fill("104")
    page.get_by_label("Go to frame").press("Tab")
    expect(frame).to_have_text("104")
    expect(page.locator("#prompter-word")).to_have_text("a")
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
