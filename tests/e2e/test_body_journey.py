"""At the Layer desk: a take with its body in a shot, cut and taken apart, the head between both, a second walk that goes on from the first."""

from playwright.sync_api import Page, expect

from tests.e2e.test_layer_journey import LAMP, LANE, RULER, begin_shot
from tests.e2e.test_tidy_journey import deck_at


def test_a_body_goes_along_in_a_shot_and_is_cut_with_its_face(plain_page: Page):
    page = plain_page
    begin_shot(page, "Bodies", "odile", (*LAMP, "mara_lamp_body.bvh"))
    x, y = deck_at(page)
    drawer = page.get_by_test_id("layer-drawer")
    page.mouse.click(x + 300, y + LANE)
    shows = drawer.get_by_label("What of the take is shown")
    expect(shows).to_have_value("both")

    # Another pass of the same walk goes on where the first one ended.
    drawer.get_by_role("button", name="Again").click()
    expect(page.get_by_label("Undo: a clip again")).to_be_enabled()
    drawer.get_by_text("Goes on where the body before stands").click()
    expect(page.get_by_label("Undo: go on from the body before")).to_be_enabled()

    # Cut at the playhead, face and body stay together; then they are taken apart, the body on a lane of its own.
    page.mouse.click(x + 300, y + LANE)
    page.mouse.click(x + 400, y + RULER)
    page.keyboard.press("x")
    expect(page.get_by_label("Undo: split a clip")).to_be_enabled()
    drawer.get_by_role("button", name="Take apart").click()
    expect(page.get_by_label("Undo: take face and body apart")).to_be_enabled()
    expect(shows).to_have_value("body")
    expect(drawer.get_by_role("button", name="2", exact=True)).to_have_attribute("aria-pressed", "true")
    shows.select_option("face")
    expect(page.get_by_label("Undo: show face")).to_be_enabled()
    page.keyboard.press("Control+z")
    expect(shows).to_have_value("body")

    # The head is between the body's and the face's, keyed over time.
    drawer.get_by_label("Face weight value").fill("0.4")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: head weight")).to_be_enabled()
    drawer.get_by_role("button", name="Key Face weight here").click()
    expect(page.get_by_label("Undo: key the head weight")).to_be_enabled()
    page.reload()
    for label in ("key the head weight", "head weight", "take face and body apart", "split a clip"):
        page.get_by_label(f"Undo: {label}").click()
        expect(page.get_by_text(f"Undone: {label}")).to_be_visible()
    expect(page.get_by_label("Undo: go on from the body before")).to_be_enabled()
