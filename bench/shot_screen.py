"""What the Layer desk costs, in a real browser on the project's own server: `./dev run .venv/bin/python -m bench.shot_screen`.

A shot of ten minutes with 60 clips, 12 layers and Odile: our own script time per drawn frame while the deck is panned and zoomed and
while it plays, the time from a slider's move to new curves and weights in place, and the time to open it. The software renderer's own
drawing of the character is not counted: the viewer is taken out of the page.
"""

import time
from fractions import Fraction

import numpy as np
from playwright.sync_api import Page

from bench.page import bare_page, bench_work, drawn_frames, served
from bench.screen import take_of
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.services.edit_document import edit_document
from dynaface.services.shot.make_shot import add_layer, add_to_reel, make_shot
from dynaface.services.take.open_take import open_take
from dynaface.services.work import Work

MINUTES, CLIPS, LAYERS, RATE = 10, 60, 12, 60
FRAMES = MINUTES * 60 * RATE


def big_shot(work: Work, production: str) -> str:
    """Ten minutes of clips of one take, with layers that key four channels and hold spans on four."""
    seconds = MINUTES * 60 // CLIPS
    take = take_of(work, production, "line", (seconds + 2) * RATE)
    version = open_take(work, take).take.version
    character = open_take(work, take).character
    assert character
    edit_document(work, take, version, "character", [{"path": "character", "value": character.id}])
    shot = make_shot(work, production, "Ten minutes", takes=[take])
    role = shot.body.ordered[0]
    changes = [{"path": "length", "value": str(MINUTES * 60)}]
    changes += [{"path": f"roles/{role}/placements/{key}", "remove": True} for key in shot.body.roles[role].placements]  # type: ignore[dict-item]
    for n in range(CLIPS):
        first, last = str(Fraction(n % 7, 10)), str(Fraction(n % 7, 10) + seconds)
        clip = add_to_reel(work, take, first, last, f"part {n}")
        value = {"clip": clip.id, "start": str(n * seconds), "first": first, "last": last}
        changes.append({"path": f"roles/{role}/placements/p{n}", "value": value})  # type: ignore[dict-item]
    edit_document(work, shot.id, shot.version, "clips", changes)
    rng = np.random.default_rng(2)
    for n in range(LAYERS):
        layer = add_layer(work, shot.id, role, f"layer {n}", "add" if n % 3 else "replace", [])
        names = rng.permutation([*SHAPES, *HEAD_ANGLES])[:8].tolist()
        keys = {
            c: {f"k{f}": [float(f), float(rng.uniform(0, 0.2)), 0, 0, "smooth"] for f in range(0, FRAMES, 300)}
            for c in names[:4]
        }
        spans = {
            f"s{f}": {"first": f, "last": f + 60, "offset": dict.fromkeys(names[4:], 0.1)}
            for f in range(100, FRAMES, 900)
        }
        values = [{"path": "keys", "value": keys}, {"path": "spans", "value": spans}]
        edit_document(work, layer.id, layer.version, "fill", values)
    return shot.id


def drawn(page: Page, what: str, least: int) -> None:
    """Prints our script time of the frames that were drawn since the last call, once there are so many."""
    times = np.array(drawn_frames(page, least))
    print(f"{what}: {len(times)} drawn frames, our script per frame median {np.median(times):.1f} ms, 95% {np.percentile(times, 95):.1f} ms "
          "(wanted 8)")  # fmt: skip
    page.evaluate("window.dynafaceBench.drawTimes.length = 0")


def over_deck(page: Page) -> None:
    """Puts the pointer over the curves."""
    box = page.get_by_label("Deck of the shot").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] - 40)


def deck(page: Page) -> None:
    """Pans, zooms and plays with all channels chosen and all lanes there."""
    for lane in ("words", "clips", "layers"):
        switch = page.get_by_role("group", name="Lanes").get_by_role("button", name=lane)
        if switch.get_attribute("aria-pressed") != "true":
            switch.click()
    over_deck(page)
    page.evaluate("window.dynafaceBench.drawTimes.length = 0")
    for turn in range(60):
        page.mouse.wheel(0, -60 if turn % 30 < 15 else 60)
    for turn in range(60):
        page.mouse.wheel(60 if turn % 30 < 15 else -60, 0)
    drawn(page, "deck panned and zoomed, 3 channels of 36,000 frames", 40)
    page.get_by_role("button", name="all", exact=True).click()
    page.wait_for_timeout(1000)
    over_deck(page)
    page.evaluate("window.dynafaceBench.drawTimes.length = 0")
    for turn in range(60):
        page.mouse.wheel(0, -60 if turn % 30 < 15 else 60)
    drawn(page, "the same with all 55 channels", 20)
    page.get_by_role("button", name="none", exact=True).click()
    page.get_by_label("jaw left").click()
    page.evaluate("window.dynafaceBench.drawTimes.length = 0")
    page.get_by_role("button", name="Play", exact=False).first.click()
    page.wait_for_timeout(4000)
    page.get_by_role("button", name="Pause", exact=False).first.click()
    drawn(page, "playing", 20)


def mark(page: Page) -> None:
    """Marks a range on the ruler, some five seconds long."""
    page.get_by_role("button", name="Fit (F)").click()
    box = page.get_by_label("Deck of the shot").bounding_box()
    assert box
    page.keyboard.down("Shift")
    page.mouse.move(box["x"] + 400, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 408, box["y"] + 8, steps=4)
    page.mouse.up()
    page.keyboard.up("Shift")


def slider(page: Page, what: str) -> None:
    """Drags a slider of the top layer and reads how long new values took."""
    page.get_by_role("tab", name="Layers").click()
    page.evaluate("window.dynafaceBench.previewTimes.length = 0")
    thumb = page.get_by_test_id("face-sliders").get_by_role("slider").first
    thumb.scroll_into_view_if_needed()
    box = thumb.bounding_box()
    assert box
    page.mouse.move(box["x"] + 6, box["y"] + 6)
    page.mouse.down()
    for step in range(40):
        page.mouse.move(box["x"] + 6 + (step % 20), box["y"] + 6)
        page.wait_for_timeout(60)
    page.mouse.up()
    times = np.array(page.evaluate("window.dynafaceBench.previewTimes"))
    print(
        f"slider to new values, {what}: {len(times)} answers, median {np.median(times):.0f} ms, 95% {np.percentile(times, 95):.0f} ms (wanted 150)"
    )


def main() -> None:
    """Prints all of it."""
    work, production = bench_work()
    shot = big_shot(work, production)
    with served() as base, bare_page() as page:
        began = time.perf_counter()
        page.goto(f"{base}/{production}/layer/{shot}")
        page.get_by_text(f"of {FRAMES} at {RATE} fps").wait_for()
        print(
            f"opening {MINUTES} minutes, {CLIPS} clips, {LAYERS} layers: {(time.perf_counter() - began) * 1000:.0f} ms"
        )
        deck(page)
        mark(page)
        slider(page, "a span over a range")


if __name__ == "__main__":
    main()
