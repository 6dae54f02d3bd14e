"""The page in a real browser on the project's own server, for benches."""

import os
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager

from playwright.sync_api import Page, sync_playwright

from dynaface.assets import ASSETS
from dynaface.services.media.uploaded import keep_upload
from dynaface.services.people.manage_productions import begin_production
from dynaface.services.people.sign_in import local_person
from dynaface.services.take.import_take import import_character
from dynaface.services.work import Work
from dynaface.settings import from_environment
from dynaface.wiring import make_work, prepare
from tools.chromium import ARGUMENTS, PATH

PORT = 8497


def bench_work() -> tuple[Work, str]:
    """(the work of the local person, a fresh production with Odile)."""
    settings = from_environment()
    prepare(settings)
    work = make_work(settings)
    work = work.by(local_person(work.store).id)
    production = begin_production(work, f"Bench {time.time():.0f}").id
    media = keep_upload(work, production, (ASSETS / "characters/odile.glb").read_bytes())
    import_character(work, production, "Odile", {"media": media, "name": "odile.glb"})
    return work, production


@contextmanager
def served() -> Iterator[str]:
    """The address of a server of the environment's database."""
    server = subprocess.Popen([sys.executable, "-m", "dynaface", "serve", "--port", str(PORT)], env=dict(os.environ))
    base = f"http://127.0.0.1:{PORT}"
    for _ in range(80):
        try:
            urllib.request.urlopen(f"{base}/api/health", timeout=1)
            break
        except OSError:
            time.sleep(0.25)
    try:
        yield base
    finally:
        server.terminate()
        server.wait()


def bare_page() -> AbstractContextManager[Page]:
    """A page without its viewer: the software renderer's own drawing of the character is not counted."""
    return drawing_page("localStorage.setItem('dynaface.noviewer', '1')")


@contextmanager
def drawing_page(before: str) -> Iterator[Page]:
    """A page in which a script runs before its own."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=PATH, args=[*ARGUMENTS, "--disable-accelerated-2d-canvas"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script(before)
        yield page
        browser.close()


def drawn_frames(page: Page, least: int) -> list[float]:
    """Milliseconds of our own script in each frame that was drawn since the list was emptied, once there are so many."""
    for _ in range(200):
        times: list[float] = page.evaluate("window.dynafaceBench.drawTimes")
        if len(times) > least:
            return times
        page.wait_for_timeout(100)
    raise TimeoutError(f"{len(times)} frames were drawn in 20 s; {least} were waited for")
