"""What the page costs, in a real browser on the project's own server: `./dev run .venv/bin/python -m bench.screen`.

Prints our own script time per drawn frame while the deck is panned and zoomed with 52 channels of 36,000 frames, the
time from a slider's move to new curves and weights on a one-minute take, the time to open a take, and what the page receives
after an edit of one channel of a five-minute take on a character with its body. The software
renderer's own drawing of the character is not counted: the viewer is taken out of the page for these.
"""

import re
import time
from fractions import Fraction

import numpy as np
from playwright.sync_api import Page

from bench.page import bare_page, bench_work, drawn_frames, served
from dynaface.core.clock.timecode import from_seconds
from dynaface.core.curves.channels import Channels
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.formats.entries import bvh
from dynaface.formats.entries.curve_table import write_table
from dynaface.services.media.uploaded import keep_upload
from dynaface.services.take.import_take import import_take
from dynaface.sims import body_suit
from dynaface.sims.actor import act


def take_of(work, production: str, slate: str, frames: int, body: bool = False) -> str:
    """A take of made curves, with a body take under it where one is asked for."""
    made = act([], frames / 60, 11, rate=60)
    names = SHAPES + HEAD_ANGLES
    values = np.stack([made.column(n)[:frames] for n in names], axis=1)
    values = values + np.random.default_rng(1).normal(0, 0.01, values.shape).astype(np.float32)
    media = keep_upload(work, production, write_table(Channels(names, values, Fraction(60))))
    files = [{"media": media, "name": f"{slate}.csv"}]
    if body:
        motion = body_suit.move(frames / 60, from_seconds(0.0, Fraction(120)), 1, steps=200)
        media = keep_upload(work, production, bvh.write(motion))
        files.append({"media": media, "name": f"{slate}.bvh"})
    return import_take(work, production, slate, "Bench", files).id


def deck(page: Page, address: str) -> None:
    """Pans and zooms with all channels chosen."""
    page.goto(address)
    page.get_by_text("of 36000 at 60 fps").wait_for()
    page.get_by_role("button", name="all", exact=True).click()
    box = page.get_by_test_id("deck-canvas").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.evaluate("window.dynafaceBench.drawTimes.length = 0")
    for turn in range(60):
        page.mouse.wheel(0, -60 if turn % 30 < 15 else 60)
    for turn in range(60):
        page.mouse.wheel(60 if turn % 30 < 15 else -60, 0)
    times = np.array(drawn_frames(page, 40))
    print(
        f"deck, 52 x 36,000: {len(times)} drawn frames, our script per frame median {np.median(times):.1f} ms, 95% {np.percentile(times, 95):.1f} ms"
    )


def slider(page: Page, address: str, what: str) -> None:
    """Drags a slider and reads how long new values took."""
    page.goto(address)
    page.get_by_text("of 3600 at 60 fps").wait_for()
    if what == "tidy":
        page.get_by_role("tab", name="Stack").click()
        page.get_by_test_id("step-smooth").get_by_text("off", exact=True).click()
        page.get_by_label("Undo: Smooth on").wait_for()
    else:
        page.get_by_role("tab", name="Strengths").click()
    thumb = page.get_by_role("slider", name="lips", exact=True).first
    box = thumb.bounding_box()
    assert box
    page.mouse.move(box["x"] + 6, box["y"] + 6)
    page.mouse.down()
    for step in range(40):
        page.mouse.move(box["x"] + 6 - (step % 20), box["y"] + 6)
        page.wait_for_timeout(40)
    page.mouse.up()
    times = np.array(page.evaluate("window.dynafaceBench.previewTimes"))
    print(
        f"slider to new values, one minute ({what}): {len(times)} answers, median {np.median(times):.0f} ms, 95% {np.percentile(times, 95):.0f} ms"
    )


def opening(page: Page, address: str) -> None:
    """From the address to curves on the deck."""
    taken = []
    for _ in range(5):
        began = time.perf_counter()
        page.goto(address)
        page.get_by_text("of 3600 at 60 fps").wait_for()
        taken.append(time.perf_counter() - began)
    print(f"opening a one-minute take, page and all: median {np.median(taken) * 1000:.0f} ms")


def wire(page: Page, address: str) -> None:
    """Bytes that the page receives when a take is opened, and after each of some edits of one channel."""
    received: list[float] = []
    network = page.context.new_cdp_session(page)
    network.send("Network.enable")
    network.on("Network.loadingFinished", lambda event: received.append(event["encodedDataLength"]))
    page.goto(address)
    page.get_by_text("of 18000 at 60 fps").wait_for()
    page.wait_for_load_state("networkidle")
    whole = sum(received)
    page.get_by_label("tongue left").click()
    page.get_by_role("tab", name="Keys").click()
    panel = page.get_by_test_id("keys-panel")
    panel.get_by_role("button", name="Reduce").click()
    page.get_by_label("Undo: reduce to keys").wait_for()
    page.wait_for_load_state("networkidle")
    page.keyboard.press("2")
    box = page.get_by_test_id("deck-canvas").bounding_box()
    assert box
    page.mouse.move(box["x"] + 300, box["y"] + 120)
    page.mouse.down()
    page.mouse.move(box["x"] + 320, box["y"] + box["height"] - 3, steps=4)
    page.mouse.up()
    panel.get_by_text(re.compile(r"\d+ chosen key")).wait_for()
    edits = []
    for _ in range(5):
        received.clear()
        with page.expect_response(lambda r: r.request.method == "POST"):
            page.keyboard.press("Alt+ArrowUp")
        page.wait_for_timeout(3000)
        edits.append(sum(received))
    print(
        f"received, five minutes with a body: opening {whole / 1e6:.2f} MB, "
        f"an edit of one channel median {np.median(edits) / 1e3:.1f} kB, most {max(edits) / 1e3:.1f} kB"
    )


def main() -> None:
    """Command line."""
    work, production = bench_work()
    long, minute = take_of(work, production, "long", 36_000), take_of(work, production, "minute", 3600)
    five = take_of(work, production, "five", 18_000, body=True)
    with served() as base, bare_page() as page:
        deck(page, f"{base}/{production}/tidy/{long}")
        slider(page, f"{base}/{production}/tidy/{minute}", "tidy")
        slider(page, f"{base}/{production}/cast/{minute}", "cast")
        opening(page, f"{base}/{production}/tidy/{minute}")
        wire(page, f"{base}/{production}/tidy/{five}")


if __name__ == "__main__":
    main()
