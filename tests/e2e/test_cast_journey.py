"""At the Cast desk: a character with foreign names from import to delivery, and joints whose axes are found."""

import json
import re
import zipfile

from playwright.sync_api import Page, expect

from dynaface.assets import ASSETS
from tests.e2e.test_journey import desk, viewer_ready
from tests.e2e.test_tidy_journey import bring_in, deck_at
from tests.formats.test_gltf_reading import Document, archive

RIGS = ASSETS / "characters"


def at_the_desk(page: Page, name: str, rig: str = "kettle") -> None:
    bring_in(page, name, {"lamp": ["mara_lamp.csv", "mara_lamp.wav"]}, rig)
    desk(page, "Cast")
    viewer_ready(page)


def bring_character(page: Page, name: str) -> None:
    page.get_by_test_id("character-picker").set_input_files(str(RIGS / f"{name}.glb"))
    expect(chosen(page)).to_contain_text(name.title())
    expect(page.get_by_text(name.title(), exact=True).first).to_be_visible()
    viewer_ready(page)


def chosen(page: Page):
    """The name of the character that the take is on, as the list of characters shows it."""
    return page.get_by_test_id("cast-drawer").get_by_label("Character", exact=True).locator("option:checked")


def tab(page: Page, name: str) -> None:
    page.get_by_test_id("cast-drawer").get_by_role("tab", name=name).click()


def test_brindle_from_import_to_delivery(page: Page, tmp_path):
    at_the_desk(page, "Dock sprite")
    bring_character(page, "brindle")
    tab(page, "Matches")
    drawer = page.get_by_test_id("cast-drawer")
    expect(drawer.get_by_role("button", name="52 all")).to_be_visible()
    drawer.get_by_label("Target gawp", exact=True).click()
    expect(drawer.get_by_text(re.compile(r"by shape, 9\d % sure"))).to_be_visible()
    # What nothing drives is one press away; an ear gets a brow by dragging it from the chosen channels.
    page.get_by_role("button", name="brows left").click()
    drawer.get_by_role("button", name="3 unmatched").click()
    drawer.get_by_text("browOuterUpLeft", exact=True).drag_to(drawer.get_by_label("Target ear flick P"))
    expect(drawer.get_by_role("button", name="2 unmatched")).to_be_visible()
    drawer.get_by_label("Target gawp and grin").click()
    drawer.get_by_role("button", name="Combine two").click()
    expect(drawer.get_by_role("button", name="1 unmatched")).to_be_visible()
    drawer.get_by_role("button", name="2 by hand").click()
    expect(drawer.get_by_label("Target gawp and grin")).to_contain_text("jawOpen and mouthSmileLeft")
    drawer.get_by_label("Target ear flick P").click()
    drawer.get_by_label("Gain of browOuterUpLeft on ear flick P").fill("0.6")
    drawer.get_by_label("Gain of browOuterUpLeft on ear flick P").press("Enter")
    expect(drawer.get_by_label("Target ear flick P")).to_contain_text("× 0.6")
    page.keyboard.press("Control+z")
    expect(drawer.get_by_label("Target ear flick P")).not_to_contain_text("× 0.6")
    # The sheet goes out as a file.
    tab(page, "Rig")
    with page.expect_download() as saved:
        drawer.get_by_role("button", name="Export").click()
    written = json.loads(saved.value.path().read_text())
    assert written["matches"] == {"ear flick P": {"browOuterUpLeft": 1.0}}
    page.get_by_role("button", name="Hand over").click()
    page.get_by_test_id("handover-drawer").get_by_role("button", name="Hand over").click()
    expect(page.get_by_text(re.compile("same as the viewer at 20 frames")).first).to_be_visible(timeout=90_000)


def test_contacts_are_held_and_let_go_on_the_deck(page: Page):
    at_the_desk(page, "Contacts", "odile")
    tab(page, "Strengths")
    drawer = page.get_by_test_id("cast-drawer")
    held = drawer.get_by_test_id("held")
    expect(held.get_by_role("button", name=re.compile("Let go lid left"))).not_to_have_count(0)
    blink = held.get_by_role("button", name=re.compile("Let go lid left")).first
    name = (blink.get_attribute("aria-label") or "").removeprefix("Let go ")
    blink.click()
    expect(held.get_by_role("button", name=f"Hold {name}", exact=True)).to_be_visible()
    # On the deck the same span is pressed to be held again.
    x, y = deck_at(page)
    frame = int(name.split()[-1]) + 1
    width = page.get_by_test_id("deck-canvas").bounding_box()["width"]
    page.mouse.click(x + 2 + frame / 328 * (width - 4), y + 93)
    expect(held.get_by_role("button", name=f"Let go {name}", exact=True)).to_be_visible()
    drawer.get_by_text("Lids meet and do not pass").click()
    expect(drawer.get_by_test_id("crossings")).to_contain_text("lids pass each other")
    # What was measured on the mesh is used, and taken back.
    drawer.get_by_role("button", name="Use eyeBlinkLeft").click()
    expect(drawer.get_by_role("button", name="Use eyeBlinkLeft")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(drawer.get_by_role("button", name="Use eyeBlinkLeft")).to_be_visible()


def test_kettle_s_axes_are_found_by_looking(page: Page):
    at_the_desk(page, "Tin")
    tab(page, "Joints")
    drawer = page.get_by_test_id("cast-drawer")
    expect(drawer.get_by_text("18 joint drives")).to_be_visible()
    jaw = drawer.get_by_role("button", name="Drive jaw:jawOpen")
    expect(jaw).to_contain_text("turns about −y")
    drawer.get_by_role("button", name="Show all six ways").click()
    expect(drawer.get_by_test_id("axis-pictures").locator("img")).to_have_count(6, timeout=60_000)
    drawer.get_by_role("button", name="jaw about z", exact=True).click()
    expect(jaw).to_contain_text("turns about z, 20.0 deg, by hand")
    jaw.click()
    drawer.get_by_role("button", name="Other way").click()
    expect(jaw).to_contain_text("turns about −z")
    drawer.get_by_role("button", name="By itself again").click()
    expect(jaw).to_contain_text("turns about −y, 30.0 deg")
    drawer.get_by_label("Millimetres").fill("12")
    drawer.get_by_role("button", name="Aim", exact=True).click()
    expect(jaw).to_contain_text("by hand")
    drawer.get_by_role("button", name="Take away").click()
    expect(drawer.get_by_role("button", name="bring back")).to_be_visible()


def test_the_same_take_on_three_characters_and_its_extremes(page: Page):
    at_the_desk(page, "Company", "odile")
    bring_character(page, "kettle")
    bring_character(page, "brindle")
    views = page.get_by_role("group", name="Views")
    for name in ("Odile", "Kettle"):
        views.get_by_role("button", name=name).click()
    beside = page.get_by_test_id("viewer-other")
    for i in (0, 1):
        expect(beside.nth(i)).to_have_attribute("data-plays", "true", timeout=60_000)
        expect(beside.nth(i)).to_have_attribute("data-loaded", "true", timeout=60_000)
    tab(page, "Extremes")
    pictures = page.get_by_test_id("extremes")
    expect(pictures.get_by_role("button", name="Extreme jaw open").locator("img")).to_be_visible(timeout=60_000)
    pictures.get_by_role("button", name="Extreme lids close").click()
    expect(page.get_by_test_id("time-readout")).not_to_have_text("0")
    # Back on Odile in one action that says what it does first.
    tab(page, "Rig")
    page.get_by_test_id("cast-drawer").get_by_label("Character", exact=True).select_option(label="Odile")
    expect(page.get_by_test_id("swap")).to_contain_text("52 targets")
    page.get_by_role("button", name="Swap the character").click()
    expect(chosen(page)).to_contain_text("Odile")


def test_a_bad_rig_is_refused_and_animated_shapes_become_a_take(page: Page, tmp_path):
    at_the_desk(page, "Files")
    outside = tmp_path / "outside.zip"
    outside.write_bytes(archive(Document().face().apart("../../outside.bin")))
    page.get_by_test_id("character-picker").set_input_files(str(outside))
    expect(page.get_by_text(re.compile("which is not beside it"))).to_be_visible()
    expect(chosen(page)).to_contain_text("Kettle")
    assert zipfile.is_zipfile(outside)
    moving = tmp_path / "hush.glb"
    moving.write_bytes(
        Document()
        .face(("jawOpen", "wart"))
        .animate([i / 24 for i in range(30)], [[(i % 10) / 10, 0] for i in range(30)])
        .glb()
    )
    desk(page, "Gather")
    page.get_by_test_id("file-picker").set_input_files(str(moving))
    clips = page.get_by_test_id("clips")
    expect(clips).to_contain_text("line")
    clips.get_by_role("button", name="Bring in as a take").click()
    expect(page.get_by_role("row", name="take hush", exact=True)).to_have_attribute("aria-selected", "true")
    expect(page.get_by_text("of 30 at 24 fps")).to_be_visible()
