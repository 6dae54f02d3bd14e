"""At the Layer desk: from takes to a shot that is cut, layered, taken hold of and handed over; all of it undone across a reload."""

import re
from collections.abc import Sequence

from playwright.sync_api import Page, expect

from tests.e2e.test_tidy_journey import bring_in, deck_at

RULER, LANE = 8, 100  # pixels from the deck's top: the ruler, the first role's clips


LAMP = ("mara_lamp.csv", "mara_lamp.wav")


def begin_shot(page: Page, name: str, rig: str = "kettle", files: Sequence[str] = LAMP) -> None:
    """A production with one take and a shot of it, open at the Layer desk."""
    bring_in(page, name, {"line": list(files)}, rig)
    page.get_by_role("navigation", name="Desks").get_by_role("button", name="Layer").click()
    page.get_by_label("Name", exact=True).fill("Landing")
    page.locator("label").filter(has_text="line").click()
    page.get_by_role("button", name="Begin with 1 take").click()
    expect(page.get_by_test_id("curve-names")).to_contain_text("jawOpen")
    if page.get_by_test_id("stage-canvas").count():  # a page without its viewer has no stage
        expect(page.get_by_test_id("stage-canvas")).to_have_attribute("data-loaded", "true")


def mark(page: Page, first: float, last: float) -> None:
    """Marks a range between parts of the deck's width."""
    x, y = deck_at(page)
    page.keyboard.down("Shift")
    page.mouse.move(x + first, y + RULER)
    page.mouse.down()
    page.mouse.move(x + last, y + RULER, steps=4)
    page.mouse.up()
    page.keyboard.up("Shift")


def test_a_clip_is_cut_repeated_and_moved_and_all_is_undone_after_a_reload(plain_page: Page):
    page = plain_page
    begin_shot(page, "Cutting")
    x, y = deck_at(page)
    page.mouse.click(x + 300, y + LANE)
    drawer = page.get_by_test_id("layer-drawer")
    expect(drawer.get_by_role("button", name="Split here")).to_be_visible()
    page.mouse.click(x + 400, y + RULER)
    page.keyboard.press("x")
    expect(page.get_by_label("Undo: split a clip")).to_be_enabled()
    drawer.get_by_label("Passes value").fill("3")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: repeat a clip")).to_be_enabled()
    expect(drawer.get_by_text("beyond the end")).to_be_visible()  # said, not cut
    drawer.get_by_role("button", name="Make it longer").click()
    expect(drawer.get_by_text("beyond the end")).to_have_count(0)
    page.mouse.move(x + 200, y + LANE)
    page.mouse.down()
    page.mouse.move(x + 260, y + LANE, steps=4)
    page.mouse.up()
    expect(page.get_by_label("Undo: move a clip")).to_be_enabled()
    page.reload()
    for label in ("move a clip", "length of the shot", "repeat a clip", "split a clip"):
        page.get_by_label(f"Undo: {label}").click()
        expect(page.get_by_text(f"Undone: {label}")).to_be_visible()
    expect(page.get_by_label("Nothing to undo")).to_be_visible()
    page.keyboard.press("Control+y")
    expect(page.get_by_text("Redone: split a clip")).to_be_visible()


def test_a_range_that_is_marked_and_a_face_that_is_changed_make_one_span(plain_page: Page):
    page = plain_page
    begin_shot(page, "Spans")
    page.get_by_role("tab", name="Layers").click()
    page.get_by_role("button", name="add", exact=True).click()
    expect(page.get_by_test_id("landing")).to_have_text(re.compile("keys at frame"))
    mark(page, 200, 320)
    expect(page.get_by_test_id("landing")).to_have_text(re.compile("a new span"))
    page.get_by_label("jawOpen value").fill("0.3")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("span-fields")).to_be_visible()
    expect(page.get_by_label("Undo: new span: jawOpen")).to_be_enabled()
    page.get_by_label("Lead-in value").fill("20")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: lead-in of a span")).to_be_enabled()
    page.get_by_label("Key Weight here").click()
    expect(page.get_by_label("Undo: weight of layer 1")).to_be_enabled()
    page.get_by_role("button", name="Lock", exact=True).click()
    expect(page.get_by_label("Undo: lock a layer")).to_be_enabled()
    page.get_by_label("jawOpen value").fill("0.1")
    page.keyboard.press("Enter")
    expect(page.get_by_text("is locked")).to_be_visible()
    page.get_by_label("lips value").fill("0.5")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: capture of lips")).to_be_enabled()
    versions = page.get_by_test_id("layer-versions")
    page.get_by_role("button", name="Unlock", exact=True).click()
    expect(page.get_by_label("Undo: unlock a layer")).to_be_enabled()
    versions.get_by_role("button", name="Keep this one").click()
    expect(page.get_by_label("Undo: keep a version of layer 1")).to_be_enabled()
    page.get_by_label("jawOpen value").fill("0.2")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: span: jawOpen")).to_be_enabled()
    versions.get_by_role("button", name="Swap").click()
    expect(page.get_by_label("Undo: swap with version 1")).to_be_enabled()
    page.get_by_role("button", name="Bake to keys").click()
    expect(page.get_by_label("Undo: bake to keys")).to_be_enabled()
    expect(page.get_by_test_id("layer-row").first).to_contain_text("baked")
    rows = page.get_by_test_id("layer-row")
    rows.last.hover()
    page.mouse.down()
    rows.first.hover()
    rows.first.hover()  # the browser asks once whether it may, then drops
    page.mouse.up()
    expect(page.get_by_label("Undo: order of layer 1")).to_be_enabled()


def test_captured_blinks_are_replaced_and_become_keys(plain_page: Page):
    page = plain_page
    begin_shot(page, "Blinks")
    page.get_by_role("tab", name="Makers").click()
    page.get_by_role("button", name="Replace the captured blinks").click()
    maker = page.get_by_test_id("maker")
    expect(maker.get_by_label("Captured ones")).to_have_value("replace")
    maker.get_by_label("By chance value").fill("12")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: Blinks: By chance")).to_be_enabled()
    maker.get_by_role("button", name="Edit the profile").click()
    lid = page.locator("circle[data-lid=upper]").first
    expect(lid).to_be_visible()
    lid.scroll_into_view_if_needed()
    box = lid.bounding_box()
    assert box
    page.mouse.move(box["x"] + 4, box["y"] + 4)
    page.mouse.down()
    page.mouse.move(box["x"] + 30, box["y"] + 4, steps=3)
    page.mouse.up()
    expect(page.get_by_label("Undo: the upper lid of plain")).to_be_enabled()
    maker.get_by_role("button", name="Make keys of it").click()
    expect(maker).to_have_count(0)
    expect(page.get_by_label("Undo: make keys of blinks")).to_be_enabled()


def test_a_lip_is_taken_hold_of_and_the_shot_is_handed_over(page: Page):
    begin_shot(page, "Grabbing", "odile")
    page.get_by_role("tab", name="Layers").click()
    page.get_by_role("button", name="add", exact=True).click()
    expect(page.get_by_test_id("layer-row")).to_have_count(1)
    mark(page, 300, 400)
    box = page.get_by_test_id("stage-canvas").bounding_box()
    assert box
    # Odile's mouth, where she is framed from the front.
    place = box["x"] + 0.5 * box["width"], box["y"] + 0.66 * box["height"]
    page.mouse.move(*place)
    expect(page.get_by_test_id("grab-mark")).to_be_visible()
    page.mouse.down()
    page.mouse.move(place[0], place[1] + 9, steps=3)
    expect(page.get_by_test_id("grab-words")).to_have_text(re.compile(r"[+-]0\.\d\d"))
    page.mouse.up()
    expect(page.get_by_test_id("span-fields")).to_be_visible()
    page.get_by_role("button", name="Hand over").first.click()
    page.get_by_test_id("handover-drawer").get_by_role("button", name="Hand over", exact=True).click()
    made = page.get_by_test_id("handover")
    expect(made).to_be_visible(timeout=240_000)
    expect(made).to_contain_text("Landing_Odile.wav")


def test_an_aim_is_picked_and_the_eyes_go_there(plain_page: Page):
    page = plain_page
    begin_shot(page, "Looking")
    page.get_by_role("tab", name="Makers").click()
    page.get_by_label("Add an aim").select_option("point")
    expect(page.get_by_test_id("aim")).to_have_count(1)
    page.get_by_label("To the side value").fill("-1.2")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: move point")).to_be_enabled()
    x, y = deck_at(page)
    page.mouse.click(x + 200, y + RULER)
    page.get_by_role("button", name="look", exact=True).click()
    looks = page.get_by_test_id("looks")
    expect(looks.get_by_label("Frame of a look")).to_have_count(1)
    expect(page.get_by_label("Undo: look at point")).to_be_enabled()
    page.get_by_role("button", name="Take the looks of the capture").click()
    expect(page.get_by_text(re.compile(r"\d+ looks found"))).to_be_visible()
    expect(page.get_by_label("Undo: looks of the capture")).to_be_enabled()
    page.reload()
    page.get_by_label("Undo: looks of the capture").click()
    expect(page.get_by_text("Undone: looks of the capture")).to_be_visible()
    page.get_by_role("tab", name="Makers").click()
    expect(page.get_by_label("Frame of a look")).to_have_count(1)


def test_words_are_found_corrected_and_lead(plain_page: Page):
    page = plain_page
    begin_shot(page, "Words")
    page.get_by_role("tab", name="Words").click()
    page.get_by_label(re.compile("^Text of")).fill("The lamp burns low before the morning boat.")
    page.get_by_role("button", name="Find the words").click()
    expect(page.get_by_text("8 words in the deck")).to_be_visible(timeout=60_000)
    x, y = deck_at(page)
    lane = y + 78  # under the wave
    page.mouse.click(x + 500, lane)
    expect(page.get_by_label("Its lips value")).to_be_visible()
    page.get_by_label("Its lips value").fill("0.4")
    page.keyboard.press("Enter")
    expect(page.get_by_label(re.compile("^Undo: lips of"))).to_be_enabled()
    page.mouse.move(x + 500, lane)
    page.mouse.down()
    page.mouse.move(x + 520, lane, steps=3)
    page.mouse.up()
    expect(page.get_by_label("Undo: move a word")).to_be_enabled()
    page.get_by_role("button", name="Let the words lead").click()
    expect(page.get_by_label("Undo: words lead on lips, jaw")).to_be_enabled()
    page.get_by_role("button", name="Say the words").click()
    expect(page.get_by_label("Undo: say the words")).to_be_enabled()
    page.get_by_role("tab", name="Makers").click()
    expect(page.get_by_test_id("maker").get_by_label("Louder is wider value")).to_be_visible()
    page.reload()
    for label in ("say the words", "new layer mouth", "words lead on lips, jaw", "move a word"):
        page.get_by_label(f"Undo: {label}").click()
        expect(page.get_by_text(f"Undone: {label}")).to_be_visible()


def test_blocking_is_stepped_and_then_smoothed(plain_page: Page):
    page = plain_page
    begin_shot(page, "Blocking")
    page.get_by_role("tab", name="Layers").click()
    page.get_by_role("button", name="replace", exact=True).click()
    x, y = deck_at(page)
    for number, place in enumerate((100, 300, 500)):
        page.mouse.click(x + place, y + RULER)
        page.get_by_label("jawOpen value").fill(str(0.2 + 0.3 * (number % 2)))
        page.keyboard.press("Enter")
        expect(page.get_by_label("Undo: keys: jawOpen")).to_be_enabled()
    stepped = page.get_by_role("group", name="Lanes").get_by_role("button", name="stepped")
    page.keyboard.press("Escape")
    stepped.click()
    expect(stepped).to_have_attribute("aria-pressed", "true")
    stepped.click()
    expect(stepped).to_have_attribute("aria-pressed", "false")
    page.mouse.click(x + 50, y + RULER)
    page.keyboard.press("Shift+H")
    expect(page.get_by_label("Undo: smooth from here")).to_be_enabled()


def test_a_voice_alone_gets_a_face(page: Page):
    bring_in(page, "Voice", {"voice": ["ivo_hush.wav"]}, "odile")
    page.get_by_role("navigation", name="Desks").get_by_role("button", name="Layer").click()
    page.get_by_label("What is said").fill("Hush. Something moved by the moorings.")
    page.get_by_role("button", name="Give it a face").click()
    expect(page.get_by_test_id("stage-canvas")).to_be_visible(timeout=60_000)
    expect(page.get_by_test_id("layer-drawer")).to_be_visible(timeout=60_000)
    page.get_by_role("tab", name="Layers").click()
    expect(page.get_by_test_id("layer-row")).to_have_count(3)
    page.get_by_role("tab", name="Words").click()
    expect(page.get_by_text("6 words in the deck")).to_be_visible()


def test_a_pose_is_kept_and_laid_on_elsewhere(page: Page):
    begin_shot(page, "Poses", "odile")
    page.get_by_role("tab", name="Layers").click()
    page.get_by_role("button", name="add", exact=True).click()
    page.get_by_role("tab", name="Poses").click()
    x, y = deck_at(page)
    page.mouse.click(x + 400, y + RULER)
    page.get_by_label("Name", exact=True).fill("speaking")
    page.get_by_role("button", name="Keep it as a pose").click()
    pose = page.get_by_label("Pose speaking", exact=True)
    expect(pose.locator("img")).to_have_count(1)  # the renderer took its picture
    mark(page, 100, 180)
    box = pose.bounding_box()
    assert box
    page.mouse.move(box["x"] + 8, box["y"] + 20)
    page.mouse.down()
    page.mouse.move(box["x"] + 63, box["y"] + 20, steps=4)
    expect(page.get_by_text("50 %")).to_be_visible()
    page.mouse.up()
    expect(page.get_by_label(re.compile("^Undo: new span"))).to_be_enabled()
    page.get_by_label("Put speaking away").click()
    expect(page.get_by_test_id("pose")).to_have_count(0)
