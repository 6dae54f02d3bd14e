"""From a clip to compared solves, with mouse and keyboard, in a real browser."""

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from dynaface.assets import ASSETS
from dynaface.demo.seed import FINE
from tests.e2e.test_journey import begin, desk, viewer_ready
from tests.makers import film


def test_the_demos_clip_is_seen_beside_the_character(page: Page):
    page.goto("/")
    viewer_ready(page)
    row = page.get_by_role("row", name="take 4A / 1 cam")
    row.click()
    expect(row).to_have_attribute("aria-selected", "true")
    desk(page, "Solve")
    drawer = page.get_by_test_id("drawer")
    expect(drawer.get_by_role("button", name="Choose solve 1")).to_have_attribute("aria-pressed", "true")
    expect(drawer.get_by_label("Performer card", exact=True)).to_contain_text("Mara Quill, first day")
    expect(page.get_by_test_id("footage-points")).not_to_have_attribute("data-points", "0")
    expect(page.get_by_text("of 164 at 30 fps")).to_be_visible()
    expect(drawer.get_by_label("Confidence of the lips")).to_be_visible()
    drawer.get_by_label("Confidence of the lips").click()
    expect(page.get_by_test_id("time-readout")).not_to_have_text("0")
    # The film stands at the frame that everything else shows.
    page.keyboard.press("Home")
    for _ in range(3):
        page.keyboard.press("Shift+ArrowRight")
    expect(page.get_by_test_id("time-readout")).to_have_text("30")
    expect(page.get_by_test_id("footage-points")).to_have_attribute("data-shown", re.compile(r"^1\.01"))
    page.get_by_label("Tracked points").click()
    expect(page.get_by_label("Tracked points")).to_have_attribute("aria-pressed", "false")
    # The capture head stands beside it at the same frame, and can be laid over it.
    head = page.get_by_test_id("head-view").get_by_test_id("capture-head")
    expect(head).to_have_attribute("data-ready", "true")
    expect(head).to_have_attribute("data-frame", "30")
    over = page.get_by_label("Head over the footage")
    film = page.get_by_test_id("footage-view")
    for way in ("over", "wipe", "flicker"):
        over.select_option(way)
        expect(film.get_by_test_id("capture-head")).to_have_attribute("data-frame", "30")
    over.select_option("wipe")
    line = film.get_by_test_id("wipe")
    before = line.bounding_box()
    line.hover()
    page.mouse.down()
    page.mouse.move(before["x"] - 60, before["y"] + 200)
    page.mouse.up()
    assert line.bounding_box()["x"] < before["x"] - 40
    views = page.get_by_role("group", name="Views")
    views.get_by_role("button", name="Head").click()
    expect(page.get_by_test_id("head-view")).to_have_count(0)
    views.get_by_role("button", name="Odile").click()
    expect(page.get_by_test_id("viewer-canvas")).to_be_visible()


def test_a_point_is_pinned_by_hand_and_taken_back(page: Page):
    page.goto("/")
    viewer_ready(page)
    row = page.get_by_role("row", name="take 7C / 1 hand")
    row.click()
    expect(row).to_have_attribute("aria-selected", "true")
    desk(page, "Solve")
    drawer = page.get_by_test_id("drawer")
    expect(drawer.get_by_text(re.compile(r"frames unsure"))).to_be_visible()
    drawer.get_by_role("button", name="Next unsure span").click()
    expect(page.get_by_test_id("time-readout")).not_to_have_text("0")
    page.keyboard.press("Home")
    expect(page.get_by_test_id("footage-points")).not_to_have_attribute("data-points", "0")
    page.get_by_label("Tack points by hand").click()
    pad = page.get_by_test_id("tack-pad").bounding_box()
    # The corner of the mouth, where the demo's own landmarks have it in the first frame; the picture fills the view's width.
    corner = np.load(ASSETS / "demo/ivo_footage.npz")["clip"][0][2 * 61 : 2 * 61 + 2] / FINE
    scale = pad["width"] / 480
    x = pad["x"] + corner[0] * scale
    y = pad["y"] + (pad["height"] - pad["width"]) / 2 + corner[1] * scale
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 6, y - 5, steps=3)
    page.mouse.up()
    tacks = drawer.get_by_test_id("tack")
    expect(tacks).to_have_count(1)
    expect(tacks).to_contain_text("point")
    expect(drawer.get_by_text("made before these tacks")).to_be_visible()
    drawer.get_by_label(re.compile("^Span of tack")).first.fill("10")
    page.keyboard.press("Enter")
    expect(page.get_by_label(re.compile("^Undo: span of a tack"))).to_be_enabled()
    page.get_by_label(re.compile("^Undo: span of a tack")).click()
    page.get_by_label(re.compile("^Undo: tack a point")).click()
    expect(tacks).to_have_count(0)


def test_a_clip_is_brought_in_solved_twice_and_chosen(page: Page, tmp_path: Path):
    begin(page, "Before the lens")
    clip, broken = tmp_path / "clip.mp4", tmp_path / "broken.mp4"
    clip.write_bytes(film())
    broken.write_bytes(film()[:300])
    files = [clip, broken, ASSETS / "characters/odile.glb"]
    page.get_by_test_id("file-picker").set_input_files([str(f) for f in files])
    panel = page.get_by_test_id("import-panel")
    expect(panel.get_by_role("alert")).to_contain_text("cannot be opened")
    panel.get_by_label("Forget broken.mp4").click()
    expect(panel.get_by_text("40 over 1.33 s at 30 fps")).to_be_visible()
    panel.get_by_role("button", name="Add the character").click()
    expect(panel.get_by_role("button", name="Add the character")).to_have_count(0)
    panel.get_by_label("Performer").fill("Mara Quill")
    panel.get_by_role("button", name="Make a take").click()
    expect(page.get_by_role("row", name="take clip")).to_be_visible()
    desk(page, "Solve")
    drawer = page.get_by_test_id("drawer")
    solve = drawer.get_by_role("button", name="Solve this clip")
    expect(solve).to_be_enabled(timeout=240_000)
    solve.click()
    first = drawer.get_by_role("button", name="Choose solve 1")
    expect(first).to_have_attribute("aria-pressed", "true", timeout=240_000)
    expect(page.get_by_test_id("footage-points")).to_have_attribute("data-points", "40")
    # Without a card it is said what was taken for neutral, and it is shown.
    neutral = drawer.get_by_test_id("clip-neutral")
    taken = neutral.get_by_title("Show what was taken for neutral").last
    last = re.match(r"\d+", taken.inner_text())
    assert last
    taken.click()
    expect(neutral.get_by_role("button", name=f"Take {last[0]} instead")).to_be_enabled()

    drawer.get_by_role("button", name="Propose").click()
    maker = drawer.get_by_test_id("card-maker")
    maker.get_by_label("First neutral frame").fill("0")
    page.keyboard.press("Enter")
    maker.get_by_label("Last neutral frame").fill("6")
    page.keyboard.press("Enter")
    maker.get_by_label("Name").fill("Mara, small")
    page.keyboard.press("Enter")
    # One expression is taken again before the camera, with a count-in; its extreme is found in the clip of its own.
    maker.get_by_label("Take jawOpen again").click()
    retake = maker.get_by_test_id("retake")
    expect(retake).to_have_attribute("data-phase", "ready")
    retake.get_by_role("button", name="Record after three").click()
    expect(retake).to_have_attribute("data-phase", "kept", timeout=30_000)
    retake.get_by_role("button", name="Use it").click()
    expect(retake).to_have_count(0, timeout=240_000)
    expect(maker.get_by_title("Taken again, in a clip of its own")).to_have_attribute(
        "data-frame", re.compile(r"^\d+$")
    )
    maker.get_by_role("button", name="Measure the face").click()
    card = drawer.get_by_label("Performer card", exact=True)
    expect(card).to_contain_text("Mara, small", timeout=240_000)
    expect(solve).to_be_enabled(timeout=240_000)
    solve.click()
    second = drawer.get_by_role("button", name="Choose solve 2")
    expect(second).to_have_attribute("aria-pressed", "true", timeout=240_000)
    expect(second).to_contain_text("Mara, small")
    first.click()
    expect(first).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_label("Undo: choose solve 1")).to_be_enabled()
    page.get_by_label("Undo: choose solve 1").click()
    expect(second).to_have_attribute("aria-pressed", "true")

    # Both are compared in the deck; a weight is tacked at a frame and is there in the next solve.
    drawer.get_by_role("button", name="Compare with solve 1").click()
    expect(drawer.get_by_test_id("compared")).to_contain_text("RMS")
    expect(page.get_by_label("Shade the difference to solve 1 (D)")).to_be_visible()
    page.keyboard.press("Home")
    page.keyboard.press("Shift+ArrowRight")
    drawer.get_by_label("Weight to tack").fill("0.85")
    page.keyboard.press("Enter")
    expect(drawer.get_by_test_id("tack")).to_contain_text("10 jawOpen = 0.85")
    drawer.get_by_role("button", name="Solve again with tacks").click()
    third = drawer.get_by_role("button", name="Choose solve 3")
    expect(third).to_have_attribute("aria-pressed", "true", timeout=240_000)
    expect(third).to_contain_text("1 tacks")
    expect(drawer.get_by_label("Weight to tack")).to_have_value(re.compile(r"^0\.8[3-7]$"))

    # A region is switched off on the card.
    page.locator("label:has(input[aria-label='nose'])").click()
    expect(drawer.get_by_text("0 of 2")).to_be_visible()
