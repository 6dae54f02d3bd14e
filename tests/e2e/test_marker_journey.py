"""Optical markers in the page: brought in, laid out on the face chart, solved, a marker left out, solved again."""

from dataclasses import replace
from pathlib import Path

from playwright.sync_api import Page, expect

from dynaface.assets import ASSETS
from dynaface.formats.entries import c3d
from tests.core.test_markers import optical_take
from tests.e2e.test_journey import begin
from tests.e2e.test_solve_journey import desk


def test_a_c3d_is_laid_out_solved_and_solved_again(page: Page, tmp_path: Path):
    begin(page, "On the stage")
    take, _ = optical_take()
    named = replace(take, labels=tuple(f"M{i:02}" for i in range(len(take.labels))))
    stage, broken = tmp_path / "stage.c3d", tmp_path / "broken.c3d"
    stage.write_bytes(c3d.write(named))
    broken.write_bytes(c3d.write(named)[:2500])
    page.get_by_test_id("file-picker").set_input_files([str(stage), str(broken), str(ASSETS / "characters/kettle.glb")])
    panel = page.get_by_test_id("import-panel")
    expect(panel.get_by_role("alert")).to_contain_text("the file says that it has 240 frames")
    panel.get_by_label("Forget broken.c3d").click()
    panel.get_by_role("button", name="Add the character").click()
    expect(panel.get_by_role("button", name="Add the character")).to_have_count(0)
    panel.get_by_label("Performer").fill("Mara Quill")
    panel.get_by_role("button", name="Make a take").click()
    expect(page.get_by_role("row", name="take stage")).to_be_visible()
    desk(page, "Solve")
    drawer = page.get_by_test_id("drawer")
    view = page.get_by_label("Markers in space")
    expect(view).to_have_attribute("data-markers", "74")
    expect(drawer.get_by_role("button", name="Solve these markers")).to_be_disabled()

    # Proposed at once; the neutral is the stillest half second.
    drawer.get_by_role("button", name="New from this take").click()
    layout = drawer.get_by_test_id("layout-panel")
    expect(layout.get_by_text("74 of 74 markers on places")).to_be_visible()
    expect(view).to_have_attribute("data-placed", "74")

    # A place is chosen on the chart, its marker taken off and, after an undo, put back with the partner mirrored.
    corner = layout.get_by_role("button", name="mouth corner left", exact=False)
    corner.click()
    label = (corner.get_attribute("aria-label") or "").split(", ")[1]
    expect(page.get_by_test_id("marker-name")).to_contain_text(label)
    layout.get_by_role("button", name="Take off").click()
    expect(layout.get_by_text("73 of 74 markers on places")).to_be_visible()
    expect(corner).to_have_attribute("aria-label", "mouth corner left, empty")
    page.get_by_label(f"Undo: take {label} off").click()
    expect(layout.get_by_text("74 of 74 markers on places")).to_be_visible()
    layout.get_by_role("button", name="Clear").click()
    expect(layout.get_by_text("0 of 74 markers on places")).to_be_visible()
    expect(layout.get_by_text("Only 0 markers sit on places")).to_be_visible()
    expect(drawer.get_by_role("button", name="Solve these markers")).to_be_disabled()
    page.get_by_label("Undo: clear the layout").click()
    expect(layout.get_by_text("74 of 74 markers on places")).to_be_visible()

    drawer.get_by_role("button", name="Solve these markers").click()
    first = drawer.get_by_role("button", name="Choose solve 1")
    expect(first).to_have_attribute("aria-pressed", "true", timeout=240_000)
    expect(view).to_have_attribute("data-head", "true")
    expect(drawer.get_by_text("What the layout sees")).to_be_visible()

    # A channel is driven by the distance of two markers, from where the playhead stands.
    drawer.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_label("Undo: drive jawOpen")).to_be_enabled()
    expect(drawer.get_by_test_id("drive").get_by_label("Driven channel")).to_have_value("jawOpen")
    rest = float(drawer.get_by_label("Rest of jawOpen").input_value())
    assert 20 < rest < 90
    # Or a joint is: by a distance that is no shape of the face.
    drawer.get_by_label("Driven channel").select_option("distance1")
    expect(page.get_by_label("Undo: drive distance1")).to_be_enabled()

    # The worst marker is left out and the take solved again in a moment.
    worst = drawer.get_by_role("button", name="Leave out", exact=False).first
    left = (worst.get_attribute("aria-label") or "").removeprefix("Leave out ")
    worst.click()
    expect(drawer.get_by_role("button", name=f"Use {left}")).to_be_visible()
    drawer.get_by_role("button", name="Solve again").click()
    second = drawer.get_by_role("button", name="Choose solve 2")
    expect(second).to_have_attribute("aria-pressed", "true", timeout=240_000)
    expect(view).to_have_attribute("data-markers", "73")
    expect(page.get_by_role("button", name="extra left")).to_be_visible()
    desk(page, "Tidy")
    expect(page.get_by_test_id("deck-canvas")).to_be_visible()

    desk(page, "Cast")
    cast = page.get_by_test_id("cast-drawer")
    cast.get_by_role("tab", name="Joints").click()
    cast.get_by_label("Joint", exact=True).select_option("jaw")
    cast.get_by_label("Channel", exact=True).select_option("distance1")
    cast.get_by_role("button", name="Aim", exact=True).click()
    expect(cast.get_by_role("button", name="Drive jaw:distance1")).to_contain_text("by hand")
