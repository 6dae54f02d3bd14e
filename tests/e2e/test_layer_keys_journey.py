"""At the Layer desk: keys of a layer in the deck, with the tools of the Tidy desk."""

from playwright.sync_api import Page, expect

from tests.e2e.test_layer_journey import begin_shot
from tests.e2e.test_tidy_journey import deck_at


def draw(page: Page, first: float) -> tuple[float, float]:
    """Draws a stretch of a curve from `first` pixels on, rising from low in the deck: (left end of the deck, where it began)."""
    x, _ = deck_at(page)
    bottom = page.get_by_label("Deck of the shot").bounding_box()
    assert bottom is not None
    low = bottom["y"] + bottom["height"] - 30
    page.get_by_role("button", name="Draw a stretch of the nearest curve").click()
    page.mouse.move(x + first, low)
    page.mouse.down()
    page.mouse.move(x + first + 60, low - 60, steps=8)
    page.mouse.up()
    expect(page.get_by_label("Undo: draw a curve")).to_be_enabled()
    return x, low


def test_a_curve_is_drawn_in_a_layer_and_its_keys_are_chosen_moved_copied_and_removed(plain_page: Page):
    page = plain_page
    begin_shot(page, "Layer keys")
    page.get_by_role("tab", name="Layers").click()
    page.get_by_role("button", name="add", exact=True).click()
    expect(page.get_by_label("Undo: new layer layer 1")).to_be_enabled()
    page.get_by_role("tab", name="Keys").click()
    panel = page.get_by_test_id("layer-keys")
    expect(panel).to_contain_text("No keys yet")
    x, low = draw(page, 300)
    expect(panel).to_contain_text("1 channel keyed in layer 1")
    page.keyboard.press("3")
    page.mouse.move(x + 280, low - 140)
    page.mouse.down()
    for corner in ((280, 20), (380, 20), (380, -140), (280, -140)):
        page.mouse.move(x + corner[0], low + corner[1], steps=4)
    page.mouse.up()
    expect(panel.get_by_text("chosen keys", exact=False).first).to_contain_text("chosen keys")
    page.keyboard.press("Alt+ArrowRight")
    expect(page.get_by_label("Undo: nudge keys")).to_be_enabled()
    page.keyboard.press("Control+c")
    page.keyboard.press("Home")
    page.keyboard.press("Control+v")
    expect(page.get_by_label("Undo: paste keys")).to_be_enabled()
    page.keyboard.press("Control+a")
    page.keyboard.press("Delete")
    expect(page.get_by_label("Undo: delete keys")).to_be_enabled()
    expect(panel).to_contain_text("No keys yet")
    page.reload()
    for label in ("delete keys", "paste keys", "nudge keys", "draw a curve"):
        page.get_by_label(f"Undo: {label}").click()
        expect(page.get_by_text(f"Undone: {label}")).to_be_visible()


def test_a_snag_of_the_result_is_tried_mended_in_a_layer_and_let_be(plain_page: Page):
    page = plain_page
    begin_shot(page, "Layer snags", files=["mara_second.csv", "mara_second.wav"])
    page.get_by_role("tab", name="Snags").click()
    listed = page.get_by_role("listbox", name="Snags")
    pop = listed.locator("[data-kind='head pop']").first
    pop.get_by_role("option").click()
    pop.get_by_role("button", name="Try it").click()
    expect(pop.get_by_role("button", name="Stop")).to_be_visible()
    pop.get_by_role("button", name="Stop").click()
    before = listed.get_by_role("option").count()
    pop.get_by_role("button", name="Accept", exact=True).click()
    expect(page.get_by_label("Undo: mend: head pop")).to_be_enabled()
    expect(listed.get_by_role("option")).not_to_have_count(before)
    listed.get_by_role("option").first.click()
    listed.get_by_role("button", name="Let be…").click()
    listed.get_by_label("Reason").fill("meant")
    page.keyboard.press("Enter")
    expect(page.get_by_text("1 let be")).to_be_visible()
    page.get_by_role("tab", name="Layers").click()
    expect(page.get_by_test_id("layer-row").first).to_contain_text("mends")
