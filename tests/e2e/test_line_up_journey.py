"""At the Join desk: every recording of a moment on one ruler, by one click, compared, nudged, and begun as a shot."""

import re

from playwright.sync_api import Page, expect

from tests.e2e.test_access_journey import open_demo
from tests.e2e.test_journey import desk

LAMP, WEBCAM = "4A / 1", "4A / 1 cam"


def bar(page: Page, slate: str, part: str):
    """The bar of a recording; its name says where it begins."""
    return page.get_by_test_id("line-up-bars").get_by_role("button", name=f"{slate}, {part}:")


def test_recordings_are_lined_up_by_one_click_compared_nudged_and_put_in_a_shot(plain_page: Page, server: str):
    page = open_demo(plain_page, server)
    desk(page, "Join")
    page.get_by_role("tab", name="Line up").click()
    panel = page.get_by_test_id("line-up")
    panel.get_by_role("button", name="Begin a line-up").click()
    panel.get_by_label("Name", exact=True).fill("both cameras")
    panel.get_by_role("button", name="None").click()
    for slate in (LAMP, WEBCAM):
        panel.locator("label").filter(has_text=f"{slate} Mara").click()
    panel.get_by_role("button", name="Begin with 2 takes").click()
    expect(bar(page, LAMP, "body")).to_have_accessible_name(re.compile("not placed"))

    # By one click all that have a count lie where it says, and the sound where its take has it.
    panel.get_by_role("button", name="By timecode").click()
    expect(bar(page, LAMP, "face")).to_have_accessible_name(re.compile(r"10:14:22:30.*by timecode"))
    expect(bar(page, LAMP, "body")).to_have_accessible_name(re.compile(r"10:14:19:30.*by timecode"))
    expect(bar(page, LAMP, "sound")).to_have_accessible_name(re.compile("as its take has it"))
    expect(panel.get_by_text("2 of 5 recordings have no place yet")).to_be_visible()

    # What has none is compared with what has one, and says how sure that is; the worker may be at the clips of a fresh demo first.
    bar(page, LAMP, "sound").click()
    bar(page, WEBCAM, "sound").click(modifiers=["Control"])
    panel.get_by_label("Compare by").select_option("sound")
    panel.get_by_role("button", name="Compare, by").click()
    expect(bar(page, WEBCAM, "sound")).to_have_accessible_name(re.compile(r"by what both heard, sure"), timeout=300_000)

    # A nudge by a part of a frame, undone and made again.
    bar(page, WEBCAM, "sound").click()
    panel.get_by_text("The whole take moves").click()
    before = bar(page, WEBCAM, "sound").get_attribute("aria-label")
    bar(page, WEBCAM, "sound").focus()
    page.keyboard.press("Alt+ArrowRight")
    expect(bar(page, WEBCAM, "sound")).to_have_accessible_name(re.compile("set by hand"))
    page.keyboard.press("Control+z")
    expect(bar(page, WEBCAM, "sound")).to_have_accessible_name(before)

    # Dragged: what was not placed gets a place.
    box = bar(page, WEBCAM, "face").bounding_box()
    page.mouse.move(box["x"] + 20, box["y"] + 6)
    page.mouse.down()
    page.mouse.move(box["x"] + 140, box["y"] + 6, steps=5)
    page.mouse.up()
    expect(bar(page, WEBCAM, "face")).to_have_accessible_name(re.compile("set by hand"))
    panel.get_by_role("button", name="Put bodies and sounds in their place").click()
    expect(page.get_by_test_id("line-up-used")).to_contain_text(f"{WEBCAM}: sound")

    panel.get_by_role("button", name="Begin a shot of it").click()
    expect(page.get_by_text("both cameras").first).to_be_visible()
    expect(page).to_have_url(re.compile("/layer/"))
