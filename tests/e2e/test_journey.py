"""What a new user does, with mouse and keyboard, in a real browser."""

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from dynaface.assets import ASSETS
from dynaface.formats.entries.curve_table import read_table
from dynaface.formats.gltf.bake import sample_glb

DEMO = ASSETS / "demo"


def desk(page: Page, name: str) -> None:
    page.get_by_role("navigation").get_by_text(name, exact=True).click()


def viewer_ready(page: Page) -> None:
    expect(page.get_by_test_id("viewer-canvas")).to_have_attribute("data-loaded", "true")


def test_the_demo_opens_and_plays(page: Page):
    page.goto("/")
    expect(page.get_by_role("row", name="take 4A / 1", exact=True)).to_have_attribute("aria-selected", "true")
    viewer_ready(page)
    expect(page.get_by_text("22 frames")).to_be_visible()
    expect(page.get_by_text("of 328 at 60 fps")).to_be_visible()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    expect(page.get_by_test_id("time-readout")).to_have_text("11")
    page.get_by_label("Time shown as").select_option("timecode")
    expect(page.get_by_test_id("time-readout")).to_have_text("10:14:22:41")
    page.get_by_label("Time shown as").select_option("frames")
    page.get_by_test_id("deck-canvas").click(position={"x": 400, "y": 150})
    expect(page.get_by_test_id("time-readout")).not_to_have_text("11")
    page.keyboard.press("n")  # the next fault of the device's frames
    page.get_by_label("Play (Space)").click()
    expect(page.get_by_label("Pause (Space)")).to_be_visible()
    before = page.get_by_test_id("time-readout").inner_text()
    expect(page.get_by_test_id("time-readout")).not_to_have_text(before)
    page.keyboard.press(" ")
    expect(page.get_by_label("Play (Space)")).to_be_visible()
    page.get_by_role("button", name="Estimate from lips").click()
    expect(page.get_by_test_id("sync-estimate")).to_contain_text("sure")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    page.get_by_placeholder("Search takes, desks, channels").fill("eyes first")
    page.keyboard.press("Enter")
    expect(page.get_by_role("row", name="take 7C / 1", exact=True)).to_have_attribute("aria-selected", "true")


def begin(page: Page, name: str) -> None:
    """A new production, then the files of a take and a character."""
    page.goto("/")
    page.get_by_label("Production").select_option("new")
    page.get_by_label("Name of the new production").fill(name)
    page.keyboard.press("Enter")
    expect(page.get_by_text("Nothing gathered yet")).to_be_visible()


def test_the_whole_path_in_an_empty_production(page: Page, tmp_path: Path):
    begin(page, "Harbour lights")
    bad = tmp_path / "broken.csv"
    bad.write_text("time,jawOpen\n0,0.1\n0.1,open\n")
    files = [
        DEMO / "mara_ferry.csv",
        DEMO / "mara_ferry.wav",
        DEMO / "mara_ferry_body.bvh",
        ASSETS / "characters/odile.glb",
        bad,
    ]
    page.get_by_test_id("file-picker").set_input_files([str(f) for f in files])
    panel = page.get_by_test_id("import-panel")
    expect(panel.get_by_role("alert")).to_contain_text("'open' is no number")
    expect(panel.get_by_role("alert")).to_contain_text("line 3, column 'jawOpen'")
    panel.get_by_label("Forget broken.csv").click()
    expect(panel.get_by_text("Dropped")).to_be_visible()
    panel.get_by_role("button", name="Correct the reading").click()
    expect(panel.get_by_label("Time is in")).to_have_value("milliseconds")
    panel.get_by_role("button", name="Add the character").click()
    expect(panel.get_by_role("button", name="Add the character")).to_have_count(0)
    panel.get_by_label("Slate").fill("1A")
    panel.get_by_label("Performer").fill("Mara Quill")
    panel.get_by_role("button", name="Make a take").click()
    expect(page.get_by_role("row", name="take 1A")).to_be_visible()
    viewer_ready(page)

    page.get_by_label("Sound offset in frames").fill("-9")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: slide the sound")).to_be_enabled()
    expect(page.get_by_label("Sound offset in ms")).to_have_value("-150")

    desk(page, "Solve")
    expect(page.get_by_test_id("drawer")).to_contain_text("mara_ferry.csv")
    desk(page, "Tidy")
    page.get_by_role("tab", name="Stack").click()
    stack = page.get_by_test_id("tidy-stack")
    smooth = stack.get_by_test_id("step-smooth")
    smooth.get_by_text("off", exact=True).click()
    expect(page.get_by_label("Undo: Smooth on")).to_be_enabled()
    smooth.get_by_label("lips value").fill("0.6")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: Smooth: Amount")).to_be_enabled()
    smooth.get_by_text("on", exact=True).click()
    expect(page.get_by_label("Undo: Smooth off")).to_be_enabled()

    page.get_by_label("jaw left").click()
    desk(page, "Cast")
    cast = page.get_by_test_id("cast-drawer")
    health = cast.get_by_test_id("health")
    expect(health).to_contain_text("52 of 52")
    expect(health).to_contain_text("Nothing is wrong with it.")
    cast.get_by_role("button", name="Play all shapes").click()
    expect(health).to_contain_text("playing")
    cast.get_by_role("button", name="Stop").click()
    cast.get_by_role("tab", name="Matches").click()
    expect(cast.get_by_role("button", name="52 all")).to_be_visible()
    cast.get_by_role("tab", name="Strengths").click()
    slider = cast.get_by_role("slider", name="lips", exact=True).first
    slider.focus()
    for _ in range(10):
        page.keyboard.press("ArrowLeft")
    expect(page.get_by_label("Undo: strength of the lips")).to_be_enabled()
    expect(cast.get_by_label("lips value")).to_have_value("0.90")
    cast.get_by_role("button", name="Begin").click()
    cast.get_by_label("jawOpen value").last.fill("0.8")
    page.keyboard.press("Enter")

    desk(page, "Join")
    join = page.get_by_test_id("join-drawer")
    expect(join.get_by_text("3.000 s into the body, by timecode")).to_be_visible()
    join.get_by_role("tab", name="Match").click()
    expect(join.get_by_label("Body joint of head")).to_have_value("Head")
    join.get_by_role("tab", name="Head").click()
    join.get_by_label("Face weight value").fill("0.7")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: head weight")).to_be_enabled()
    # It is keyed over time.
    join.get_by_role("button", name="Key Face weight here").click()
    expect(join.get_by_role("button", name="Take the key of Face weight away here")).to_be_visible()
    # A camera that stood still saw the body turn, too.
    join.get_by_label("What filmed the face").select_option("fixed")
    expect(page.get_by_label("Undo: what filmed the face")).to_be_enabled()
    # Feet that stood in the body take stand.
    join.get_by_role("tab", name="Contacts").click()
    join.get_by_text("Feet that stood stand").click()
    expect(page.get_by_label("Undo: feet stand")).to_be_enabled()
    # The suit lost an arm: the mend is played, and taken; a step of one's own comes after it.
    join.get_by_role("tab", name="Snags").click()
    lost = join.locator('[data-testid="snag"][data-kind="joints lost"]').first
    lost.get_by_role("option").click()
    lost.get_by_role("button", name="Try it").click()
    expect(lost.get_by_role("button", name="Stop")).to_be_visible()
    lost.get_by_role("button", name="Accept", exact=True).click()
    expect(page.get_by_label("Undo: mend: joints lost")).to_be_enabled()
    expect(join.locator('[data-kind="joints lost"]')).to_have_count(0)
    join.get_by_role("tab", name="Tidy").click()
    expect(join.get_by_test_id("body-step")).to_have_count(1)
    join.get_by_label("Add a step for the body").select_option("smooth")
    expect(join.get_by_test_id("body-step")).to_have_count(2)
    join.get_by_role("button", name="right hand").click()
    expect(page.get_by_label("Undo: Smooth: joints")).to_be_enabled()
    join.get_by_role("tab", name="Body", exact=True).click()
    # What both recordings saw says where the body belongs; nothing moves until somebody says so.
    join.get_by_role("button", name="Find where the body belongs").click()
    expect(join.get_by_test_id("body-fit").or_(join.get_by_text("By a clap:")).first).to_be_visible()
    page.get_by_label("Frame the body").click()

    page.get_by_role("button", name="Hand over").first.click()
    drawer = page.get_by_test_id("handover-drawer")
    drawer.get_by_role("button", name="Hand over").click()
    made = drawer.get_by_test_id("handover")
    expect(made).to_contain_text("glTF validator: 0 errors, 0 warnings", timeout=60_000)
    expect(made).to_contain_text("same as the viewer at 20 frames")
    kept = {}
    for name in ("1A.glb", "1A.csv"):
        with page.expect_download() as download:
            made.get_by_text(name).click()
        kept[name] = Path(download.value.path()).read_bytes()
    assert ("hips", "translation") in sample_glb(kept["1A.glb"], [0])
    assert read_table(kept["1A.csv"])[1].timing.uneven == 0
    drawer.get_by_label("Close handovers").click()

    page.reload()
    viewer_ready(page)
    labels = [
        "Smooth: joints",
        "add Smooth to the body",
        "mend: joints lost",
        "feet stand",
        "what filmed the face",
        "key the head weight",
        "head weight",
        "strength of the lips",
        "Smooth off",
        "Smooth: Amount",
        "Smooth on",
        "slide the sound",
    ]
    for label in labels:
        expect(page.get_by_label(f"Undo: {label}")).to_be_enabled()
        page.keyboard.press("Control+z")
        expect(page.get_by_label(f"Redo: {label}")).to_be_enabled()
    expect(page.get_by_label("Nothing to undo")).to_be_disabled()
    for label in reversed(labels):
        expect(page.get_by_label(f"Redo: {label}")).to_be_enabled()
        page.keyboard.press("Control+y")
        expect(page.get_by_label(f"Undo: {label}")).to_be_enabled()
        if label == "Smooth: Amount":
            page.reload()
            viewer_ready(page)
    desk(page, "Tidy")
    page.get_by_role("tab", name="Stack").click()
    expect(page.get_by_test_id("step-smooth").get_by_text("off", exact=True)).to_be_visible()


def test_a_table_without_time_asks_for_its_rate(plain_page: Page, tmp_path: Path):
    page = plain_page
    begin(page, "No clock")
    file = tmp_path / "plain.csv"
    file.write_text("jawOpen,eyeBlinkLeft\n" + "".join(f"{i / 100},0\n" for i in range(60)))
    page.get_by_test_id("file-picker").set_input_files(str(file))
    panel = page.get_by_test_id("import-panel")
    expect(panel.get_by_role("alert")).to_contain_text("no time column")
    panel.get_by_role("button", name="30 fps").click()
    expect(panel.get_by_text("60 over 1.97 s")).to_be_visible()
    panel.get_by_role("button", name="Make a take").click()
    expect(page.get_by_role("row", name="take plain")).to_be_visible()


@pytest.mark.parametrize("size", [(1920, 1080)])
def test_takes_are_circled_searched_archived_and_restored(plain_page: Page, size):
    page = plain_page
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.goto("/")
    row = page.get_by_role("row", name="take 4B / 2", exact=True)
    row.get_by_label("Circle this take").click()
    expect(row.get_by_label("Circled")).to_be_visible()
    page.get_by_label("Search takes").fill("smile")
    expect(page.get_by_role("row")).to_have_count(1)
    page.get_by_label("Search takes").fill("")
    row.click()
    expect(row).to_have_attribute("aria-selected", "true")
    page.get_by_role("button", name="Archive", exact=True).click()
    expect(row).to_have_count(0)
    page.get_by_role("button", name="Archived").click()
    expect(row).to_be_visible()
    row.click()
    page.get_by_role("button", name="Restore").click()
    page.get_by_role("button", name="Back to takes").click()
    expect(row).to_be_visible()
    row.get_by_label("Circled").click()
