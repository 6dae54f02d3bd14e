"""Colour dots in the page: picked one after the other with their partners, their colours shown, followed and solved."""

from pathlib import Path

from playwright.sync_api import Page, expect

from dynaface.assets import ASSETS
from dynaface.sims.footage.dots import PLACES
from tests.e2e.test_journey import begin
from tests.e2e.test_solve_journey import desk
from tests.services.test_dot_takes import dotted

OFFERED = ("bridge of the nose", "hairline", "hairline side right", "brow inner right", "brow mid right", "cheek mid right",
           "mouth corner right", "upper lip mid")  # fmt: skip


def test_dots_are_picked_followed_and_solved(page: Page, tmp_path: Path):
    begin(page, "On the mount")
    data, centres, _ = dotted()
    clip = tmp_path / "mount.mp4"
    clip.write_bytes(data)
    page.get_by_test_id("file-picker").set_input_files([str(clip), str(ASSETS / "characters/kettle.glb")])
    panel = page.get_by_test_id("import-panel")
    panel.get_by_role("button", name="Add the character").click()
    expect(panel.get_by_role("button", name="Add the character")).to_have_count(0)
    panel.get_by_label("Performer").fill("Mara Quill")
    panel.get_by_role("button", name="Make a take").click()
    expect(page.get_by_role("row", name="take mount")).to_be_visible()
    desk(page, "Solve")
    drawer = page.get_by_test_id("drawer")
    expect(drawer.get_by_role("button", name="Solve this clip")).to_be_enabled(timeout=240_000)
    drawer.get_by_role("button", name="Open", exact=True).click()
    drawer.get_by_role("button", name="New from this clip").click()
    dots = drawer.get_by_test_id("dot-panel")
    pad = page.get_by_test_id("dot-pad")

    def click_on(place: str) -> None:
        expect(pad).to_contain_text(place)
        box = pad.bounding_box()
        assert box
        scale = min(box["width"] / 640, box["height"] / 480)
        x, y = centres[0][PLACES.index(place)]
        left, top = (box["width"] - 640 * scale) / 2, (box["height"] - 480 * scale) / 2
        pad.click(position={"x": left + x * scale, "y": top + y * scale})

    # A place is offered after the other; partners are found by themselves.
    for number, place in enumerate(OFFERED):
        click_on(place)
        if number == 2:
            expect(dots.get_by_text("4 dots, 4 carry the head")).to_be_visible()
    expect(dots.get_by_text("13 dots, 4 carry the head")).to_be_visible()
    dots.get_by_role("button", name="chin pad, empty").click()
    click_on("chin pad")
    expect(dots.get_by_text("14 dots, 4 carry the head")).to_be_visible()
    page.get_by_label("Undo: pick chin pad").click()
    expect(dots.get_by_text("13 dots, 4 carry the head")).to_be_visible()
    dots.get_by_role("button", name="chin pad, empty").click()
    click_on("chin pad")
    expect(page.get_by_test_id("dots-over")).to_have_attribute("data-dots", "14")
    dots.get_by_label("Show what is of their colours").check(force=True)
    dots.get_by_label("Last neutral frame of the dots").fill("6")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Undo: move neutral")).to_be_enabled()
    dots.get_by_role("button", name="Follow and solve").click()
    first = drawer.get_by_role("button", name="Choose solve 1")
    expect(first).to_have_attribute("aria-pressed", "true", timeout=240_000)
    expect(dots.get_by_test_id("dots-report")).to_contain_text("shapes are seen well")

    # A ring is dragged off its dot: what is put by hand waits for the next solve, and can be taken back.
    tracks = dots.get_by_test_id("dot-tracks")
    put = next(n for n, place in enumerate(PLACES) if place == "upper lip mid")
    hand = page.get_by_test_id("hand-pad")
    box = hand.bounding_box()
    assert box
    scale = min(box["width"] / 640, box["height"] / 480)
    left, top = box["x"] + (box["width"] - 640 * scale) / 2, box["y"] + (box["height"] - 480 * scale) / 2
    page.keyboard.press("Home")
    x, y = centres[0][put]
    page.mouse.move(left + x * scale, top + y * scale)
    page.mouse.down()
    page.mouse.move(left + (x + 3) * scale, top + (y + 6) * scale, steps=4)
    page.mouse.up()
    expect(tracks.get_by_test_id("dot-correction")).to_contain_text("put in its place")
    expect(tracks).to_contain_text("Put right by hand since this solve.")
    tracks.get_by_role("button", name="Drop", exact=True).click()
    expect(tracks.get_by_test_id("dot-correction")).to_have_count(2)
    page.get_by_label("Undo: drop").click()
    expect(tracks.get_by_test_id("dot-correction")).to_have_count(1)
    tracks.get_by_role("button", name="Follow and solve again").click()
    expect(drawer.get_by_role("button", name="Choose solve 2")).to_have_attribute(
        "aria-pressed", "true", timeout=240_000
    )
    expect(tracks.get_by_text("Put right by hand since this solve.")).to_have_count(0)
