"""What the page costs, in a real browser on the project's own server: `./dev run .venv/bin/python -m bench.screen`.

Prints our own script time per drawn frame while the deck is panned and zoomed with 52 channels of 36,000 frames, the
time from a slider's move to new curves and weights on a one-minute take, and the time to open a take. The software
renderer's own drawing of the character is not counted: the viewer is taken out of the page for these.
"""

import os
import subprocess
import sys
import time
import urllib.request
from fractions import Fraction

import numpy as np
from playwright.sync_api import Page, sync_playwright

from dynaface.core.curves.channels import Channels
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.demo.seed import ASSETS
from dynaface.formats.entries.curve_table import write_table
from dynaface.services.import_take import import_character, import_take
from dynaface.services.manage_productions import begin_production
from dynaface.services.sign_in import local_person
from dynaface.settings import from_environment
from dynaface.sims.actor import act
from dynaface.wiring import make_work, prepare
from tools.chromium import ARGUMENTS, PATH

PORT = 8497


def take_of(work, production: str, slate: str, frames: int) -> str:
    """A take of made curves."""
    made = act([], frames / 60, 11, rate=60)
    names = SHAPES + HEAD_ANGLES
    values = np.stack([made.column(n)[:frames] for n in names], axis=1)
    values = values + np.random.default_rng(1).normal(0, 0.01, values.shape).astype(np.float32)
    media, _ = work.media.put_bytes(write_table(Channels(names, values, Fraction(60))))
    return import_take(work, production, slate, "Bench", [{"media": media, "name": f"{slate}.csv"}]).id


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
    page.wait_for_function("window.dynafaceBench.drawTimes.length > 40")
    times = np.array(page.evaluate("window.dynafaceBench.drawTimes"))
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


def main() -> None:
    """Command line."""
    settings = from_environment()
    prepare(settings)
    work = make_work(settings)
    work = work.by(local_person(work.store).id)
    production = begin_production(work, f"Bench {time.time():.0f}").id
    media, _ = work.media.put_bytes((ASSETS / "characters/odile.glb").read_bytes())
    import_character(work, production, "Odile", {"media": media, "name": "odile.glb"})
    long, minute = take_of(work, production, "long", 36_000), take_of(work, production, "minute", 3600)
    server = subprocess.Popen([sys.executable, "-m", "dynaface", "serve", "--port", str(PORT)], env=dict(os.environ))
    base = f"http://127.0.0.1:{PORT}"
    for _ in range(80):
        try:
            urllib.request.urlopen(f"{base}/api/health", timeout=1)
            break
        except OSError:
            time.sleep(0.25)
    try:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(
                executable_path=PATH, args=[*ARGUMENTS, "--disable-accelerated-2d-canvas"]
            )
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.add_init_script("localStorage.setItem('dynaface.noviewer', '1')")
            deck(page, f"{base}/{production}/tidy/{long}")
            slider(page, f"{base}/{production}/tidy/{minute}", "tidy")
            slider(page, f"{base}/{production}/cast/{minute}", "cast")
            opening(page, f"{base}/{production}/tidy/{minute}")
            browser.close()
    finally:
        server.terminate()
        server.wait()


if __name__ == "__main__":
    main()
