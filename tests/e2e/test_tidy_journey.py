"""At the Tidy desk: from a snag to an accepted mend, from curves to keys, and two takes side by side."""

import re

from playwright.sync_api import Page, expect

from dynaface.assets import ASSETS
from tests.e2e.test_journey import begin, desk, viewer_ready

DEMO = ASSETS / "demo"


def bring_in(page: Page, name: str, files: dict[str, list[str]], rig: str = "kettle") -> None:
    """A production with takes (slate -> files of the demo) and a character: Kettle is drawn fastest."""
    begin(page, name)
    page.get_by_test_id("file-picker").set_input_files(str(ASSETS / f"characters/{rig}.glb"))
    panel = page.get_by_test_id("import-panel")
    panel.get_by_role("button", name="Add the character").click()
    expect(panel.get_by_role("button", name="Add the character")).to_have_count(0)
    for slate, names in files.items():
        page.get_by_test_id("file-picker").set_input_files([str(DEMO / n) for n in names])
        panel.get_by_label("Slate").fill(slate)
        panel.get_by_label("Performer").fill("Mara Quill")
        panel.get_by_role("button", name="Make a take").click()
        expect(page.get_by_role("row", name=f"take {slate}", exact=True)).to_have_attribute("aria-selected", "true")


def deck_at(page: Page) -> tuple[float, float]:
    box = page.get_by_test_id("deck-canvas").bounding_box()
    assert box
    return box["x"], box["y"]


def test_a_jittery_eyelid_from_snag_to_accepted_mend(page: Page):
    bring_in(page, "Shelf phone", {"second": ["mara_second.csv", "mara_second.wav"]})
    expect(page.get_by_role("row", name="take second")).to_contain_text(re.compile(r"\d+ snags"))
    desk(page, "Tidy")
    viewer_ready(page)
    snags = page.get_by_test_id("snag")
    expect(snags.first).to_be_visible()
    before = snags.count()

    page.keyboard.press("n")  # the first in time
    expect(page.locator("[role=option][aria-selected=true]")).to_have_count(1)
    lids = page.locator('[data-testid=snag][data-kind="jitter burst"]').filter(has=page.get_by_title("lids")).first
    lids.get_by_role("option").click()
    expect(lids).to_contain_text("The lids tremble here")
    expect(page.get_by_text("eyeBlinkLeft").first).to_be_visible()
    lids.get_by_role("button", name="Try it").click()
    expect(page.get_by_test_id("trial")).to_contain_text("mend of jitter burst")
    expect(page.get_by_test_id("trial")).to_contain_text("before")  # it plays in a loop, once so and once so
    lids.get_by_role("button", name="Stop").click()
    expect(page.get_by_test_id("trial")).to_have_count(0)
    lids.get_by_role("button", name="Accept", exact=True).click()
    expect(page.get_by_label("Undo: mend: jitter burst")).to_be_enabled()
    expect(snags).to_have_count(before - 1)

    pops = page.locator('[data-testid=snag][data-kind="head pop"]')
    pops.first.get_by_role("option").click()
    pops.first.get_by_role("button", name="Let be…").click()
    page.get_by_label("Reason").fill("she startles")
    page.keyboard.press("Enter")
    expect(page.get_by_text("1 let be")).to_be_visible()
    expect(page.get_by_text(re.compile("she startles"))).to_be_visible()
    pops.first.get_by_role("option").click()
    pops.first.get_by_role("button", name=re.compile("Accept all")).click()
    expect(pops).to_have_count(0)

    page.get_by_role("button", name="Propose a stack").click()
    proposal = page.get_by_test_id("proposal")
    expect(proposal).to_contain_text("dropped")
    proposal.get_by_role("button", name="Show", exact=True).click()
    expect(page.get_by_test_id("trial")).to_contain_text("after: proposed stack")
    proposal.get_by_role("button", name="Use these steps").click()
    expect(page.get_by_label("Undo: tidy it")).to_be_enabled()
    page.get_by_role("tab", name="Stack").click()
    stack = page.get_by_test_id("tidy-stack")
    expect(stack).to_contain_text("10 places")
    stack.get_by_label("Save this as").fill("for the shelf phone")
    page.keyboard.press("Enter")
    expect(stack.get_by_label("Saved stack")).to_contain_text("for the shelf phone")

    stack.get_by_label("Add a step").select_option("pair sides")
    step = page.get_by_test_id(re.compile("^step-pair"))
    expect(step.get_by_label("Acts on")).to_have_value("region:lids")
    page.keyboard.press("Escape")
    page.get_by_test_id("deck-canvas").click(position={"x": 200, "y": 150})
    page.keyboard.press("[")
    page.get_by_test_id("deck-canvas").click(position={"x": 400, "y": 150})
    page.keyboard.press("]")
    step.get_by_role("button", name="the range", exact=True).click()
    expect(step).to_contain_text(re.compile(r"frames \d+ to \d+"))
    step.get_by_label("Soft edge value").fill("6")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: Pair left and right: where")).to_be_enabled()


def test_keys_are_made_moved_and_drawn(plain_page: Page):
    page = plain_page
    bring_in(page, "Keys", {"keys": ["mara_ferry.csv"]})
    desk(page, "Tidy")
    expect(page.get_by_text("of 331 at 60 fps")).to_be_visible()
    page.get_by_label("jaw left").click()
    page.get_by_role("tab", name="Keys").click()
    panel = page.get_by_test_id("keys-panel")
    panel.get_by_role("button", name="Reduce").click()
    expect(page.get_by_label("Undo: reduce to keys")).to_be_enabled()
    expect(panel).to_contain_text("worst 0.00")
    expect(panel).to_contain_text(re.compile(r"jawOpen\s*\d+ keys"))

    page.keyboard.press("2")
    expect(page.get_by_label("Choose and drag keys (2)")).to_have_attribute("aria-pressed", "true")
    x, y = deck_at(page)
    page.mouse.move(x + 150, y + 90)
    page.mouse.down()
    page.mouse.move(x + 700, y + 205, steps=6)
    page.mouse.up()
    expect(panel.get_by_text(re.compile(r"\d+ chosen keys"))).to_be_visible()
    page.keyboard.press("Alt+ArrowUp")
    expect(page.get_by_label("Undo: nudge keys")).to_be_enabled()
    panel.get_by_label("Tangents").select_option("smooth")
    expect(page.get_by_label("Undo: smooth tangents")).to_be_enabled()
    page.keyboard.press("Escape")
    expect(panel.get_by_text("Chosen keys")).to_be_visible()
    page.keyboard.press(".")  # to the next key
    expect(page.get_by_test_id("time-readout")).not_to_have_text("0")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Undo: nudge keys")).to_be_enabled()

    page.get_by_label("brows left").click()
    page.keyboard.press("4")
    page.mouse.move(x + 200, y + 160)
    page.mouse.down()
    for step in range(12):
        page.mouse.move(x + 200 + 12 * step, y + 160 - 3 * step)
    page.mouse.up()
    expect(page.get_by_label("Undo: draw a curve")).to_be_enabled()
    expect(panel).to_contain_text("keys on top")
    page.keyboard.press("6")
    page.mouse.move(x + 500, y + 190)
    page.mouse.down()
    page.mouse.move(x + 500, y + 140, steps=4)
    page.mouse.up()
    expect(page.get_by_label("Undo: pull the curve")).to_be_enabled()
    panel.get_by_role("button", name="Restore tidied").click()
    expect(page.get_by_label("Undo: restore the tidied curve")).to_be_enabled()
    page.reload()
    expect(page.get_by_label("Undo: restore the tidied curve")).to_be_enabled()


def test_two_takes_of_one_moment_are_compared(plain_page: Page):
    page = plain_page
    bring_in(page, "Two phones", {"first": ["mara_ferry.csv"], "shelf": ["mara_second.csv"]})
    desk(page, "Tidy")
    page.get_by_label("lids left").click()
    page.get_by_role("tab", name="Compare").click()
    page.get_by_label("Compare with take").select_option(label="first Mara Quill")
    expect(page.get_by_test_id("drawer")).to_contain_text(re.compile(r"jitter \d+ here, \d+ there"))
    page.keyboard.press("d")
    page.get_by_label("Compare with take").select_option(label="none")
    expect(page.get_by_test_id("drawer")).to_contain_text("Two recordings of one moment")
