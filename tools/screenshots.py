"""Takes docs/screenshots anew from a running demo: `python -m tools.screenshots http://127.0.0.1:8460`."""

import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from dynaface.settings import FEED_PORT
from dynaface.sims.edited import edited_glb, edited_table
from tools.chromium import ARGUMENTS, PATH

FOLDER = Path(__file__).parents[1] / "docs/screenshots"


def desk(page: Page, name: str) -> None:
    page.get_by_role("navigation").get_by_text(name, exact=True).click()


def keep(page: Page, name: str) -> None:
    page.wait_for_timeout(1500)  # the software renderer needs a moment for the last frame
    page.screenshot(path=FOLDER / f"{name}.png")


def cast(page: Page) -> None:
    """The Cast desk: three characters, then each of its pages on the one that it is for."""
    page.wait_for_selector("[data-loaded=true]")
    views = page.get_by_role("group", name="Views")
    drawer = page.get_by_test_id("cast-drawer")
    for name in ("Brindle", "Kettle"):
        views.get_by_role("button", name=name).click()
    for i in (0, 1):
        page.locator("[data-testid=viewer-other][data-loaded=true][data-plays=true]").nth(i).wait_for()
    keep(page, "cast")
    for name in ("Brindle", "Kettle"):
        views.get_by_role("button", name=name).click()
    swap(page, "Brindle")
    drawer.get_by_role("tab", name="Matches").click()
    drawer.get_by_label("Target gawp", exact=True).click()
    keep(page, "matches")
    swap(page, "Odile")
    drawer.get_by_role("tab", name="Strengths").click()
    drawer.get_by_test_id("measured").get_by_role("button").first.wait_for()
    keep(page, "strengths")


def feed(page: Page) -> None:
    """A phone that sends Mara's line over and over to this machine's feed."""
    desk(page, "Gather")
    table = Path(__file__).parents[1] / "dynaface/assets/demo/mara_lamp.csv"
    sending = [
        sys.executable,
        "-m",
        "dynaface",
        "send",
        str(table),
        "--performer",
        "Mara",
        "--loop",
        "--to",
        str(FEED_PORT),
    ]
    phone = subprocess.Popen(sending, stdout=subprocess.DEVNULL)
    try:
        page.get_by_role("button", name="Feed", exact=True).click()
        panel = page.get_by_test_id("feed-panel")
        panel.get_by_label("Performer").fill("Mara Quill")
        panel.get_by_label("Performer").press("Enter")
        panel.get_by_role("button", name="are read").click()
        page.locator("[data-testid=live-character][data-loaded=true]").wait_for()
        keep(page, "feed")
        panel.get_by_label("Close the feed").click()
    finally:
        phone.kill()


def returned(page: Page) -> None:
    """What was handed over, edited by a stand-in for another program, and brought back."""
    drawer = page.get_by_test_id("handover-drawer")
    with page.expect_download() as download, tempfile.TemporaryDirectory() as folder:
        drawer.get_by_test_id("handover").first.get_by_text("all as .zip").click()
        with zipfile.ZipFile(download.value.path()) as archive:
            files = {n: archive.read(n) for n in archive.namelist()}
        for name, data in files.items():
            if name.endswith(".glb"):
                changed = edited_glb(data, slice(90, 140), "mouthSmileLeft", 0.35, "head", -12.0, prefix="show:")
                (Path(folder) / name).write_bytes(changed)
            if name.endswith(".csv"):
                (Path(folder) / name).write_bytes(data)
                (Path(folder) / f"retouched_{name}").write_bytes(
                    edited_table(data, "browInnerUp", slice(200, 230), 0.4)
                )
        drawer.get_by_role("tab", name="Bring back").click()
        drawer.get_by_test_id("return-picker").set_input_files([str(f) for f in sorted(Path(folder).iterdir())])
        drawer.get_by_test_id("returned").nth(2).wait_for()
    keep(page, "returns")


def swap(page: Page, name: str) -> None:
    drawer = page.get_by_test_id("cast-drawer")
    drawer.get_by_role("tab", name="Rig").click()
    drawer.get_by_label("Character", exact=True).select_option(label=name)
    drawer.get_by_role("button", name="Swap the character").click()
    page.get_by_test_id("swap").wait_for(state="detached")
    page.wait_for_timeout(2500)


def layers(page: Page) -> None:
    """The Layer desk: the demo's shot, a lip taken hold of over a marked range, then its clips and the lantern."""
    desk(page, "Layer")
    page.get_by_role("button", name="Ferry landing").click()
    page.locator("[data-testid=stage-canvas][data-loaded=true]").wait_for()
    page.get_by_test_id("curve-names").wait_for()
    page.get_by_role("tab", name="Layers").click()
    page.get_by_role("button", name="warmer").click()
    page.get_by_label("lips left").click()
    deck, stage = (page.get_by_test_id(t).bounding_box() for t in ("deck-canvas", "stage-canvas"))
    assert deck
    assert stage
    page.keyboard.down("Shift")
    page.mouse.move(deck["x"] + 185, deck["y"] + 8)
    page.mouse.down()
    page.mouse.move(deck["x"] + 215, deck["y"] + 8, steps=4)
    page.mouse.up()
    page.keyboard.up("Shift")
    page.mouse.click(deck["x"] + 200, deck["y"] + 8)
    page.wait_for_timeout(1500)
    # The stage may still be on its way to this frame, and the lip is not always just there: the pointer asks about until a place answers.
    for turn in range(70):
        aside, down = 0.245 + 0.015 * (turn % 6), 0.72 + 0.02 * (turn // 6)
        place = stage["x"] + aside * stage["width"], stage["y"] + down * stage["height"]
        page.mouse.move(*place)
        page.wait_for_timeout(400)
        if page.get_by_test_id("grab-mark").count():
            break
    page.get_by_test_id("grab-mark").wait_for()
    page.mouse.down()
    page.mouse.move(place[0], place[1] + 3, steps=3)
    page.get_by_test_id("grab-words").wait_for()
    keep(page, "layer")
    page.mouse.up()
    page.get_by_test_id("span-fields").wait_for()
    page.get_by_role("tab", name="Clips").click()
    page.mouse.click(deck["x"] + 360, deck["y"] + 134)
    page.get_by_role("button", name="Split here").wait_for()
    page.get_by_label("Frame the bodies").click()
    page.mouse.click(deck["x"] + 514, deck["y"] + 8)  # where the lantern is passed on
    keep(page, "clips")
    page.get_by_label("Frame the faces").click()
    page.get_by_label("Odile", exact=True).or_(page.get_by_role("button", name="Odile", exact=True)).first.click()
    page.mouse.click(deck["x"] + 165, deck["y"] + 60)
    page.get_by_label("Its lips value").wait_for()
    page.mouse.click(deck["x"] + 165, deck["y"] + 8)
    page.wait_for_timeout(1500)
    keep(page, "words")


def markers(page: Page) -> None:
    """The Solve desk on markers of the stage, and on colour dots of a head mount."""
    desk(page, "Gather")
    page.get_by_role("row", name="take 12A / 2").click()
    desk(page, "Solve")
    page.locator("[data-testid=marker-view] canvas[data-head=true]").wait_for()
    page.get_by_text("of 721 at 120 fps").wait_for()
    for _ in range(32):
        page.keyboard.press("Shift+ArrowRight")
    page.get_by_test_id("layout-panel").get_by_role("button", name="mouth corner left", exact=False).click()
    keep(page, "markers")
    desk(page, "Gather")
    page.get_by_role("row", name="take 15A / 2 mount").click()
    desk(page, "Solve")
    page.get_by_text("of 164 at 30 fps").wait_for()
    drawer = page.get_by_test_id("drawer")
    drawer.get_by_role("button", name="Open", exact=True).click()
    for _ in range(5):
        page.keyboard.press("Shift+ArrowRight")
    drawer.get_by_test_id("dots-report").scroll_into_view_if_needed()
    keep(page, "dots")


def contacts(page: Page) -> None:
    """The Join desk: a hand at the chin, with what is looked at of two joints."""
    looks = ("height of hips", "trail of handRight")

    def toggle() -> None:
        page.get_by_role("tab", name="Tidy").click()
        for look in looks:
            page.get_by_label("Find a joint").fill(look.split()[-1])
            page.get_by_role("button", name=look, exact=True).click()

    toggle()
    page.get_by_role("tab", name="Contacts").click()
    page.get_by_text("Hands that touched touch").wait_for()
    box = page.get_by_test_id("time-deck").locator("canvas").first.bounding_box()
    assert box
    page.mouse.click(box["x"] + 0.73 * box["width"], box["y"] + 8)
    keep(page, "contacts")
    toggle()


def matched(page: Page) -> None:
    """The Join desk: a hand of both skeletons from near, a joint chosen."""
    desk(page, "Join")
    page.get_by_role("tab", name="Match").click()
    page.get_by_test_id("skeletons").wait_for()
    page.get_by_role("group", name="Look at").get_by_role("button", name="Left hand").click()
    page.get_by_test_id("joints").last.get_by_role("button", name="index2Left").click()
    page.get_by_test_id("turn-ring").wait_for()
    keep(page, "match")


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=PATH, args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.set_default_timeout(120_000)
        page.goto(sys.argv[1])
        page.wait_for_selector("[data-loaded=true]")
        for _ in range(8):
            page.keyboard.press("Shift+ArrowRight")
        page.keyboard.press("ArrowRight")
        keep(page, "gather")
        page.get_by_role("row", name="take 4A / 1 cam").click()
        desk(page, "Solve")
        page.wait_for_selector("[data-testid=capture-head][data-ready=true]")
        page.get_by_text("of 164 at 30 fps").wait_for()
        for _ in range(6):
            page.keyboard.press("Shift+ArrowRight")
        keep(page, "solve")
        markers(page)
        feed(page)
        desk(page, "Gather")
        page.get_by_role("row", name="take 4A / 1", exact=True).click()
        page.get_by_text("of 328 at 60 fps").wait_for()
        for _ in range(8):
            page.keyboard.press("Shift+ArrowRight")
        desk(page, "Gather")
        page.get_by_role("row", name="take 4B / 2 second phone").click()
        page.get_by_text("of 331 at 60 fps").wait_for()
        desk(page, "Tidy")
        page.get_by_test_id("snag").first.wait_for()
        page.locator("[data-testid=snag][data-kind='jitter burst']").filter(
            has=page.get_by_title("lids")
        ).first.get_by_role("option").click()
        keep(page, "tidy")
        page.get_by_role("button", name="Propose a stack").click()
        page.get_by_test_id("proposal").wait_for()
        page.get_by_role("button", name="Show", exact=True).click()
        page.get_by_test_id("trial").wait_for()
        keep(page, "tidy-it")
        page.get_by_role("button", name="Use these steps").click()
        page.get_by_label("Undo: tidy it").wait_for()
        page.get_by_label("jaw left").click()
        page.get_by_role("tab", name="Keys").click()
        page.get_by_role("button", name="Reduce").click()
        page.get_by_label("Undo: reduce to keys").wait_for()
        page.keyboard.press("2")
        box = page.get_by_test_id("deck-canvas").bounding_box()
        assert box
        page.mouse.move(box["x"] + 240, box["y"] + 95)
        page.mouse.down()
        page.mouse.move(box["x"] + 420, box["y"] + 205, steps=5)
        page.mouse.up()
        keep(page, "keys")
        desk(page, "Gather")
        page.get_by_role("row", name="take 4A / 1", exact=True).click()
        page.get_by_text("of 328 at 60 fps").wait_for()
        for _ in range(8):
            page.keyboard.press("Shift+ArrowRight")
        desk(page, "Cast")
        page.get_by_label("jaw left").click()
        page.get_by_label("lids left").click(modifiers=["Control"])
        cast(page)
        desk(page, "Join")
        page.get_by_label("Frame the body").click()
        page.get_by_role("button", name="Find where the body belongs").click()
        page.get_by_test_id("body-fit").first.wait_for()
        contacts(page)
        page.get_by_role("tab", name="Line up").click()
        page.get_by_role("button", name="Compare, by").click()
        page.get_by_text("Every recording has its place.").wait_for(timeout=120_000)
        page.get_by_role("button", name="4A / 1 cam, sound").click()
        keep(page, "join")
        page.get_by_role("tab", name="Body").click()
        page.get_by_label("Frame the face").click()
        page.get_by_role("button", name="Hand over").first.click()
        drawer = page.get_by_test_id("handover-drawer")
        if not drawer.get_by_test_id("handover").count():
            drawer.get_by_text("USD stage").click()
            drawer.get_by_role("button", name="Hand over", exact=True).click()
        drawer.get_by_test_id("handover").first.wait_for()
        keep(page, "handover")
        page.get_by_label("Close handovers").click()
        layers(page)
        page.get_by_role("button", name="Hand over").first.click()
        returned(page)
        page.get_by_label("Close handovers").click()
        page.get_by_label("Light or dark").click()
        matched(page)
        browser.close()


if __name__ == "__main__":
    main()
