"""At the Layer desk: a prop is brought in, put into a hand, its hold dragged in the deck, passed to the other hand, and undone."""

from playwright.sync_api import Page, expect

from dynaface.assets import ASSETS
from tests.e2e.test_layer_journey import begin_shot
from tests.e2e.test_match_journey import drag_edge, over_deck, says

LANTERN = str(ASSETS / "props/lantern.glb")


def test_a_lantern_is_brought_held_and_passed_on(page: Page):
    begin_shot(page, "Props", rig="odile")
    page.get_by_role("tab", name="Props").click()
    expect(page.get_by_text("Things that stand in the shot or are held")).to_be_visible()

    # What is no prop is refused in words, and nothing is there then.
    picker = page.get_by_test_id("prop-file")
    picker.set_input_files({"name": "rope.glb", "mimeType": "model/gltf-binary", "buffer": b"glTF but nothing more"})
    expect(page.get_by_text("rope.glb")).to_be_visible()
    expect(page.get_by_test_id("prop")).to_have_count(0)
    page.get_by_role("button", name="Dismiss").first.click()
    picker.set_input_files(LANTERN)
    expect(page.get_by_test_id("prop")).to_contain_text("no holds")

    # A hand of this character holds it from the playhead on; the other one takes it.
    page.get_by_role("button", name="Add a hold").click()
    hold = page.get_by_test_id("hold")
    expect(hold).to_contain_text("Odile, right hand")
    expect(hold).to_contain_text("0 to 59")
    page.get_by_text("Hangs", exact=True).click()
    expect(page.get_by_label("Undo: lantern hangs")).to_be_enabled()

    # The end of its bar is dragged.
    box = page.get_by_test_id("deck-canvas").bounding_box()
    assert box is not None
    row = over_deck(page, 60, "lantern is held by Odile, right hand, frames 0 to 59")
    end = next(x for x in range(40, int(box["width"]), 2) if says(page, box["x"] + x, row, "lantern: drag the edge"))
    drag_edge(page, box["x"] + end, row, 80)
    expect(page.get_by_label("Undo: edge of a hold")).to_be_enabled()
    expect(hold).not_to_contain_text("0 to 59")

    # A double click beside it lets the other hand hold it there; its fields say where and how.
    page.mouse.dblclick(box["x"] + box["width"] * 0.8, row)
    expect(hold).to_have_count(2)
    chosen = page.get_by_test_id("chosen-hold")
    chosen.get_by_label("Hand that holds").select_option(label="Odile, left hand")
    expect(page.get_by_label("Undo: another hand holds it")).to_be_enabled()
    chosen.get_by_label("Along value").fill("-20")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: place in the palm")).to_be_enabled()
    chosen.get_by_label("Fingers value").fill("100")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: fingers about it")).to_be_enabled()

    # Nothing moves by itself here, and it stands in her hand: where no other hand comes is said.
    page.get_by_role("button", name="Take this hold away").click()
    expect(hold).to_have_count(1)
    page.get_by_label("Where lantern is before it is held").select_option(label="where it stands")
    expect(page.get_by_label("To the side value")).to_be_visible()

    # All of it is there after a reload, and goes back step by step.
    page.reload()
    page.get_by_role("tab", name="Props").click()
    expect(hold).to_have_count(1)
    for label in ("where lantern begins", "no hold", "fingers about it", "place in the palm", "another hand holds it"):
        page.get_by_label(f"Undo: {label}").click()
        expect(page.get_by_text(f"Undone: {label}")).to_be_visible()
    expect(hold).to_have_count(2)
    page.get_by_role("button", name="Take away", exact=True).click()
    expect(page.get_by_test_id("prop")).to_have_count(0)
    page.get_by_label("Undo: take a prop away").click()
    expect(page.get_by_test_id("prop")).to_contain_text("2 holds")
