"""From a clip to compared solves, with mouse and keyboard, in a real browser."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from dynaface.demo.seed import ASSETS
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
    expect(solve).to_be_enabled(timeout=90_000)
    solve.click()
    first = drawer.get_by_role("button", name="Choose solve 1")
    expect(first).to_have_attribute("aria-pressed", "true", timeout=120_000)
    expect(page.get_by_test_id("footage-points")).to_have_attribute("data-points", "40")

    drawer.get_by_role("button", name="Propose").click()
    maker = drawer.get_by_test_id("card-maker")
    maker.get_by_label("First neutral frame").fill("0")
    page.keyboard.press("Enter")
    maker.get_by_label("Last neutral frame").fill("6")
    page.keyboard.press("Enter")
    maker.get_by_label("Name").fill("Mara, small")
    page.keyboard.press("Enter")
    maker.get_by_role("button", name="Measure the face").click()
    card = drawer.get_by_label("Performer card", exact=True)
    expect(card).to_contain_text("Mara, small", timeout=120_000)
    expect(solve).to_be_enabled(timeout=60_000)
    solve.click()
    second = drawer.get_by_role("button", name="Choose solve 2")
    expect(second).to_have_attribute("aria-pressed", "true", timeout=120_000)
    expect(second).to_contain_text("Mara, small")
    first.click()
    expect(first).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_label("Undo: choose solve 1")).to_be_enabled()
    page.get_by_label("Undo: choose solve 1").click()
    expect(second).to_have_attribute("aria-pressed", "true")
