"""At the Join desk: a body whose joints have names that say nothing, matched in the viewer by mirror, kept, and found again in another take."""

import re

from playwright.sync_api import Page, expect

from dynaface.formats.entries import bvh
from dynaface.sims.walk import walk
from tests.e2e.test_access_journey import open_demo
from tests.e2e.test_journey import desk
from tests.formats.test_bodies import SHORT, gltf
from tests.services.test_hands import gloves
from tests.services.test_matches import OF, suit


def bring_suit(page: Page, slate: str) -> None:
    """Another body for a take of the demo, and its match."""
    desk(page, "Gather")
    page.get_by_role("row", name=f"take {slate}", exact=True).click()
    desk(page, "Join")
    drawer = page.get_by_test_id("join-drawer")
    drawer.get_by_role("tab", name="Body").click()
    drawer.get_by_test_id("body-picker").set_input_files(
        {"name": "suit.bvh", "mimeType": "text/plain", "buffer": suit()}
    )
    expect(drawer.get_by_text("suit.bvh")).to_be_visible()
    drawer.get_by_role("tab", name="Match").click()
    expect(page.get_by_test_id("skeletons")).to_be_visible()


def press(page: Page, joint: str) -> None:
    """Presses a joint in the viewer."""
    box = page.locator(f'[data-joint="{joint}"] circle').first.bounding_box()
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)


def test_joints_are_matched_by_mirror_kept_and_found_again(page: Page, server: str):
    open_demo(page, server)
    bring_suit(page, "4B / 2")
    panel = page.get_by_test_id("match-panel")
    expect(panel.get_by_label("Body joint of thumb2Left")).to_have_value(OF["L finger 1 2"])
    expect(panel.get_by_text("Nothing: every part")).to_be_visible()

    # A joint of one is pointed at, and that of the other answers; both sides are matched at once.
    page.get_by_role("group", name="Look at").get_by_role("button", name="Left hand").click()
    press(page, "index2Left")
    expect(page.get_by_test_id("turn-ring")).to_be_visible()
    expect(page.locator(f'[data-joint="{OF["L finger 2 2"]}"] circle')).to_have_count(3)
    press(page, OF["L finger 3 2"])
    expect(panel.get_by_label("Body joint of index2Left")).to_have_value(OF["L finger 3 2"])
    expect(panel.get_by_label("Body joint of index2Right")).to_have_value(OF["R finger 3 2"])
    expect(panel.get_by_text("moved by the same as another").first).to_be_visible()
    page.keyboard.press("Control+z")
    expect(panel.get_by_label("Body joint of index2Right")).to_have_value(OF["R finger 2 2"])

    # A rest is turned by the ring about a joint, and the pose that is held counts as the body's rest.
    page.get_by_role("group", name="Look at").get_by_role("button", name="Whole").click()
    press(page, "upperArmLeft")
    ring = page.get_by_test_id("turn-ring").locator("circle").first.bounding_box()
    x, y = ring["x"] + ring["width"] / 2, ring["y"]
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 12, y + 2, steps=4)
    page.mouse.up()
    expect(page.get_by_label(re.compile("Undo: turn the rest of upperArmLeft"))).to_be_enabled()
    expect(panel.get_by_label("About ahead value")).not_to_have_value("0.0")
    panel.get_by_test_id("held-pose").get_by_role("button", name="Use it").click()
    expect(panel.get_by_text("As it is held at")).to_be_visible()

    # Left alone on both sides, kept under a name, and known again by its skeletons in another take.
    panel.get_by_label("Body joint of toeLeft").select_option("")
    expect(panel.get_by_label("Body joint of toeRight")).to_have_value("")
    panel.get_by_label("Name of the match").fill("suit of the pier")
    panel.get_by_role("button", name="Keep", exact=True).click()
    expect(panel.get_by_test_id("kept-match")).to_contain_text("suit of the pier is used wherever")
    expect(panel.get_by_text("As it is kept with the match")).to_be_visible()
    bring_suit(page, "4B / 2 second phone")
    expect(panel.get_by_test_id("kept-match")).to_contain_text("suit of the pier is used wherever")
    expect(panel.get_by_label("Body joint of toeLeft")).to_have_value("")
    with page.expect_download() as saved:
        panel.get_by_role("button", name="Export").click()
    assert saved.value.suggested_filename == "suit_of_the_pier_match.json"
    panel.get_by_role("button", name="Let it go").click()
    expect(panel.get_by_label("Body joint of toeLeft")).to_have_value(OF["L toe"])
    page.get_by_test_id("match-picker").set_input_files(saved.value.path())
    expect(panel.get_by_label("Body joint of toeLeft")).to_have_value("")

    # What becomes of the way, and hands that arrive.
    page.get_by_role("tab", name="Body").click()
    page.get_by_label("How the body travels").select_option("metres")
    page.get_by_text("Starts where the character stands").click()
    expect(page.get_by_label("Undo: start where the character stands")).to_be_enabled()
    page.get_by_label("Hands arrive value").fill("1")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: hands arrive")).to_be_enabled()

    # Hands of another take, whose names of fingers mislead, and one performer of a file with two.
    page.get_by_role("tab", name="Hands").click()
    page.get_by_test_id("hands-picker").set_input_files(
        {"name": "gloves.bvh", "mimeType": "text/plain", "buffer": gloves()}
    )
    expect(page.get_by_text("gloves.bvh")).to_be_visible()
    page.get_by_label("Which hands it moves").select_option("left")
    expect(page.get_by_label("Undo: hands: the left hand")).to_be_enabled()
    page.get_by_role("tab", name="Match").click()
    page.get_by_role("button", name="Of the hands").click()
    expect(panel.get_by_label("Body joint of index2Left")).to_have_value("LeftMiddle2")
    expect(panel.get_by_text("of 32 matched")).to_be_visible()

    # The gloves' match is its own: a finger's rest is turned, kept under a name, and said by it from then on.
    press(page, "index2Left")
    panel.get_by_label("About ahead value").fill("12")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: turn the rest of index2Left")).to_be_enabled()
    panel.get_by_label("Name of the match").fill("gloves of the pier")
    panel.get_by_role("button", name="Keep", exact=True).click()
    expect(panel.get_by_test_id("kept-match")).to_contain_text("gloves of the pier is used wherever")
    expect(panel.get_by_label("About ahead value")).to_have_value("12.0")

    # Of the body's spine and neck the last may be doubled in place of sharing the turn.
    page.get_by_role("button", name="Of the body").click()
    panel.get_by_label("What extra joints of spine and neck do").select_option("last")
    expect(panel.get_by_text("moved by the same as another").first).to_be_visible()
    page.keyboard.press("Control+z")
    expect(panel.get_by_label("What extra joints of spine and neck do")).to_have_value("share")
    page.get_by_role("tab", name="Body").click()
    page.get_by_test_id("body-picker").set_input_files(
        {"name": "both.glb", "mimeType": "model/gltf-binary", "buffer": gltf([SHORT, SHORT])}
    )
    page.get_by_test_id("performers").get_by_role("button", name="Take rig").last.click()
    expect(page.get_by_text("1.50 s at 60 fps")).to_be_visible()


def says(page: Page, x: float, y: float, words: str) -> bool:
    """Whether the pointer is told these words at a place, once what it is told was drawn."""
    page.mouse.move(x, y)
    page.evaluate("() => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)))")
    return page.get_by_text(words).is_visible()


def drag_edge(page: Page, x: float, y: float, by: float) -> None:
    """Takes what lies at a place and lets it go so many pixels farther."""
    page.mouse.move(x + 1, y)
    page.mouse.down()
    page.mouse.move(x + by, y, steps=5)
    page.mouse.up()


def over_deck(page: Page, x: float, words: str) -> float:
    """The height in the deck at which the pointer, so far to the right, is told these words."""
    box = page.get_by_test_id("deck-canvas").bounding_box()
    for y in range(40, 220, 3):
        if says(page, box["x"] + x, box["y"] + y, words):
            return box["y"] + y
    raise AssertionError(f"nothing in the deck says {words!r}")


def test_a_contact_is_drawn_longer_locked_and_taken_away(plain_page: Page, server: str):
    page = open_demo(plain_page, server)
    desk(page, "Gather")
    page.get_by_role("row", name="take 4A / 1 cam", exact=True).click()
    desk(page, "Join")
    walked = bvh.write(walk(60, 3).motion)
    page.get_by_test_id("body-picker").set_input_files({"name": "walk.bvh", "mimeType": "text/plain", "buffer": walked})
    expect(page.get_by_text("walk.bvh")).to_be_visible()
    page.get_by_role("tab", name="Contacts").click()
    page.get_by_text("Feet that stood stand").click()
    expect(page.get_by_label("Undo: feet stand")).to_be_enabled()
    page.get_by_role("tab", name="Body", exact=True).click()

    # Its performer is measured by it, then by a tape; both go back, and what is no length is refused.
    page.get_by_role("button", name="Measure this body").click()
    hips = page.get_by_label("Hip height", exact=True)
    expect(hips).to_have_value("91")
    hips.fill("1,02 m")
    page.keyboard.press("Enter")
    expect(page.get_by_text("1,02 m is no length in centimetres")).to_be_visible()
    expect(hips).to_have_value("91")
    hips.fill("102")
    page.keyboard.press("Enter")
    page.get_by_label("Undo: hip height of Mara Quill").click()
    expect(hips).to_have_value("91")
    page.get_by_label("Undo: measure Mara Quill").click()
    expect(hips).to_have_value("")

    # A joint of the character is looked at in the deck and in the viewer.
    page.get_by_role("tab", name="Tidy").click()
    page.get_by_label("Find a joint").fill("handLeft")
    page.get_by_role("button", name="height of handLeft").click()
    expect(page.get_by_role("button", name="height of handLeft")).to_have_attribute("aria-pressed", "true")
    box = page.get_by_test_id("time-deck").locator("canvas").first.bounding_box()
    over_deck(page, 400, "height of handLeft")
    page.get_by_role("button", name="height of handLeft").click()
    page.get_by_role("tab", name="Contacts").click()
    page.get_by_text("Hands that touched touch").click()
    expect(page.get_by_label("Undo: hands touch")).to_be_enabled()
    page.get_by_role("tab", name="Body", exact=True).click()

    # The first contact of the left foot, by its end.
    box = page.get_by_test_id("time-deck").locator("canvas").first.bounding_box()
    row = over_deck(page, 8, "left foot stands, frames 0")
    ends = next(x for x in range(12, int(box["width"]), 2) if says(page, box["x"] + x, row, "left foot: drag the edge"))
    drag_edge(page, box["x"] + ends, row, 22)
    expect(page.get_by_label("Undo: contact: left foot")).to_be_enabled()
    chosen = page.get_by_test_id("chosen-contact")
    expect(chosen).to_contain_text("Left foot, frames 0 to")
    expect(chosen).to_contain_text("set by hand")
    chosen.get_by_role("button", name="As found").click()
    expect(page.get_by_label("Undo: contact as found: left foot")).to_be_enabled()
    page.wait_for_load_state("networkidle")  # the deck draws what is stored by now

    # It is shown where contacts are, whatever was shown before. Another is locked, taken away, and everything is as it was found again.
    page.mouse.click(box["x"] + 8, row)
    expect(chosen).to_contain_text("as found")
    chosen.get_by_role("button", name="Lock").click()
    expect(chosen).to_contain_text("set by hand")
    chosen.get_by_role("button", name="Take away").click()
    expect(page.get_by_label("Undo: no contact: left foot")).to_be_enabled()
    page.get_by_role("button", name="All as found").click()
    expect(page.get_by_role("button", name="All as found")).not_to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="All as found")).to_be_visible()
