"""At the Layer desk: a touch-up layer on the character's own rig, and lanes of the deck that scroll and are pulled taller."""

from playwright.sync_api import Locator, Page, expect

from tests.e2e.test_layer_journey import begin_shot, mark
from tests.e2e.test_layer_keys_journey import draw
from tests.e2e.test_tidy_journey import deck_at


def rig(page: Page, row: str, kind: str = "") -> Locator:
    """The switch that shows a target, or the turns or slides of a joint."""
    page.get_by_label("Find a target or joint").fill(row)
    return page.get_by_role("button", name=f"Show {kind} of {row}" if kind else f"Show {row}", exact=True)


def test_a_target_and_a_joint_are_touched_up_after_the_cast_sheet(plain_page: Page):
    page = plain_page
    begin_shot(page, "Touching up", rig="odile")
    page.get_by_role("tab", name="Layers").click()
    page.get_by_role("button", name="touch-up", exact=True).click()
    expect(page.get_by_label("Undo: new layer touch-up 1")).to_be_enabled()
    expect(page.get_by_test_id("layer-row").first).to_contain_text("on the rig")
    expect(page.get_by_test_id("face-sliders")).to_contain_text("Choose targets or joints")
    rig(page, "mouthSmileLeft").click()
    rig(page, "head", "turn").click()
    names = page.get_by_test_id("curve-names")
    expect(names).to_contain_text("target mouthSmileLeft")
    expect(names).to_contain_text("joint head turn x")

    # A range that is marked and a slider that is moved make one span, on a target as on a joint.
    mark(page, 200, 320)
    face = page.get_by_test_id("face-sliders")
    face.get_by_label("mouthSmileLeft value").fill("0.5")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: new span: target mouthSmileLeft")).to_be_enabled()
    face.get_by_label("head turn y value").fill("20")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: span: joint head turn y")).to_be_enabled()
    expect(page.get_by_role("button", name="Changed here (2)")).to_be_visible()

    # A hand goes elsewhere, and its arm with it.
    rig(page, "left hand", "reach").click()
    face.get_by_label("handLeft y value").fill("60")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: span: limb handLeft y")).to_be_enabled()
    page.get_by_label("Undo: span: limb handLeft y").click()
    rig(page, "left hand", "reach").click()

    # The key kit works on it as on any layer.
    page.get_by_role("button", name="Leave it").click()
    draw(page, 500)
    page.get_by_role("tab", name="Keys").click()
    expect(page.get_by_test_id("layer-keys")).to_contain_text("1 channel keyed in touch-up 1")
    page.get_by_role("tab", name="Makers").click()
    expect(page.get_by_text("open a layer beneath the cast sheet")).to_be_visible()

    # The capture and its channels are as they were: they are shown again with a layer of the performance.
    page.get_by_role("tab", name="Layers").click()
    page.get_by_role("button", name="add", exact=True).click()
    expect(names).to_contain_text("jawOpen")
    expect(names).not_to_contain_text("target")
    page.reload()
    for label in ("new layer layer 1", "draw a curve", "span: joint head turn y", "new span: target mouthSmileLeft"):
        page.get_by_label(f"Undo: {label}").click()
        expect(page.get_by_text(f"Undone: {label}")).to_be_visible()
    page.get_by_label("Redo: new span: target mouthSmileLeft").click()
    expect(page.get_by_text("Redone: new span: target mouthSmileLeft")).to_be_visible()


def test_lanes_scroll_are_pulled_taller_and_stay_so(plain_page: Page):
    page = plain_page
    begin_shot(page, "Lanes")
    page.get_by_role("tab", name="Layers").click()
    for number in range(1, 8):
        page.get_by_role("button", name="add", exact=True).click()
        expect(page.get_by_label(f"Undo: new layer layer {number}")).to_be_enabled()
    lanes = page.get_by_role("group", name="Lanes")
    if lanes.get_by_text("layers").get_attribute("aria-pressed") == "false":
        lanes.get_by_text("layers").click()
    x, y = deck_at(page)
    box = page.get_by_test_id("deck-canvas").bounding_box()
    assert box is not None
    found = boundary(page, x + box["width"] / 2, y, box["height"])

    # Scrolled to the end, the lowest layer lies right above the boundary: a press there opens it.
    page.mouse.move(x + 200, y + 100)
    page.mouse.wheel(0, 4000)
    page.mouse.click(x + 30, found - 12)
    open_row = page.get_by_test_id("layer-row").filter(has=page.locator("[aria-pressed='true']", has_text="layer 1"))
    expect(open_row).to_have_count(1)

    # The boundary under the lanes is pulled up: fewer of them are in sight, and that is kept.
    page.mouse.move(x + box["width"] / 2, found)
    page.mouse.down()
    page.mouse.move(x + box["width"] / 2, found - 60, steps=4)
    page.mouse.up()
    assert abs(boundary(page, x + box["width"] / 2, y, box["height"]) - (found - 60)) <= 4
    page.reload()
    expect(page.get_by_test_id("curve-names")).to_contain_text("jawOpen")
    assert abs(boundary(page, x + box["width"] / 2, y, box["height"]) - (found - 60)) <= 4


def boundary(page: Page, x: float, y: float, height: float) -> float:
    """Where the lanes end: the lowest place at which the pointer says that something can be pulled."""
    canvas = page.get_by_test_id("deck-canvas")
    for down in range(int(height) - 20, 20, -3):
        page.mouse.move(x, y + down)
        if canvas.evaluate("e => e.style.cursor") == "row-resize":
            return y + down
    raise AssertionError("nothing can be pulled")
