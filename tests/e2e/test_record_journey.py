"""Recording in the browser, from a camera and a microphone that are files."""

import re

from playwright.sync_api import Page, expect

from dynaface.assets import ASSETS
from tests.e2e.test_journey import begin


def test_a_take_is_recorded_and_lands_in_gather_with_its_sound(page: Page):
    begin(page, "Live")
    page.get_by_test_id("file-picker").set_input_files(str(ASSETS / "characters/odile.glb"))
    page.get_by_test_id("import-panel").get_by_role("button", name="Add the character").click()
    expect(page.get_by_test_id("import-panel").get_by_role("button", name="Add the character")).to_have_count(0)
    page.get_by_role("button", name="Record", exact=True).click()
    panel = page.get_by_test_id("record-panel")
    expect(panel).to_have_attribute("data-phase", "ready")
    expect(panel.get_by_text("The face stands well.")).to_be_visible()
    expect(panel.get_by_label("Camera", exact=True)).to_be_visible()
    # The plain head follows what the camera shows.
    expect(page.get_by_test_id("live-head")).to_have_attribute("data-weights", re.compile(r"^0\.[1-9]|^[1-9]"))
    # So does the production's character.
    expect(page.get_by_test_id("live-character")).to_have_attribute("data-weights", re.compile(r"^0\.[1-9]|^[1-9]"))
    panel.get_by_role("button", name="Record after three").click()
    expect(panel).to_have_attribute("data-phase", "counting")
    expect(panel).to_have_attribute("data-phase", "recording")
    expect(panel.get_by_text(re.compile(r"^[1-9]\.\d s$"))).to_be_visible()
    panel.get_by_role("button", name="Stop").click()
    expect(panel).to_have_attribute("data-phase", "kept")
    panel.get_by_role("button", name="Throw away").click()
    expect(panel).to_have_attribute("data-phase", "ready")
    panel.get_by_role("button", name="Record after three").click()
    expect(panel).to_have_attribute("data-phase", "recording")
    expect(panel.get_by_text(re.compile(r"^[1-9]\.\d s$"))).to_be_visible()
    panel.get_by_role("button", name="Stop").click()
    panel.get_by_label("Slate").fill("Live 1")
    panel.get_by_label("Performer").fill("Mara Quill")
    panel.get_by_role("button", name="Keep as a take").click()
    expect(page.get_by_role("row", name="take Live 1")).to_be_visible()
    drawer = page.get_by_test_id("drawer")
    expect(drawer.get_by_text("in the clip")).to_be_visible()
    # The job that looks the clip through takes its sound out, too.
    page.get_by_role("navigation").get_by_text("Solve", exact=True).click()
    expect(drawer.get_by_role("button", name="Solve this clip")).to_be_enabled(timeout=90_000)
    page.get_by_role("navigation").get_by_text("Gather", exact=True).click()
    expect(drawer.get_by_text("Live 1.wav")).to_be_visible()
