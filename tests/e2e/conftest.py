"""A real server, a real worker and a real browser."""

import os
import subprocess
import sys
import threading
import urllib.request
from pathlib import Path

import av
import pytest
from playwright.sync_api import Page, expect, sync_playwright

from dynaface.assets import ASSETS
from tests.ports import free_port
from tools.chromium import ARGUMENTS, PATH

expect.set_options(timeout=30_000)


@pytest.fixture(scope="package")
def feed_port():
    """Where senders of feeds are heard."""
    return free_port()


@pytest.fixture(scope="package")
def server(settings, feed_port, tmp_path_factory):
    """The address of a server with a worker and the process of feeds beside it; their logs must stay clean."""
    port = free_port()
    folder = tmp_path_factory.mktemp("server")
    commands = {"serve": ["serve", "--port", str(port)], "worker": ["worker"], "live": ["live"]}
    logs = {name: (folder / f"{name}.log").open("wb") for name in commands}
    around = {
        "DYNAFACE_SECRET_FILE": str(folder / "secret"),
        "DYNAFACE_LIVE_PORT": str(free_port()),
        "DYNAFACE_LIVE_FOLDER": str(folder / "live"),
        "DYNAFACE_FEED_PORT": str(feed_port),
    }
    running = [
        subprocess.Popen(
            [sys.executable, "-m", "dynaface", *commands[n]],
            stdout=logs[n],
            stderr=logs[n],
            env={**os.environ, **around},
        )
        for n in commands
    ]
    address = f"http://127.0.0.1:{port}"
    _answered(f"{address}/api/health", running[0])
    yield address
    for process in running:
        process.terminate()
    for process in running:
        process.wait(timeout=30)
    for name in commands:
        assert "Traceback" not in (folder / f"{name}.log").read_text()


def _answered(url: str, process: subprocess.Popen[bytes]) -> None:
    """Once a server answers; it may take long to start beside the other tests, but must not end."""
    wait = threading.Event()
    while process.poll() is None:
        try:
            with urllib.request.urlopen(url, timeout=5):
                return
        except OSError:
            wait.wait(0.25)
    pytest.fail("the server ended before it answered")


def camera_file(clip: Path, out: Path) -> Path:
    """A clip as the motion JPEG that the browser's fake camera shows."""
    with av.open(str(clip)) as given, av.open(str(out), "w", format="mjpeg") as made:
        stream = made.add_stream("mjpeg", rate=30)
        stream.width, stream.height, stream.pix_fmt = (
            given.streams.video[0].width,
            given.streams.video[0].height,
            "yuvj420p",
        )
        for frame in given.decode(video=0):
            for packet in stream.encode(frame.reformat(format="yuvj420p")):
                made.mux(packet)
    return out


@pytest.fixture(scope="package")
def browser(tmp_path_factory):
    """Debian's Chromium, drawing in software; its camera and microphone are the demo's clip."""
    assert Path(PATH).exists(), f"{PATH} is not there"
    camera = camera_file(ASSETS / "demo/mara_clip.mp4", tmp_path_factory.mktemp("camera") / "camera.mjpeg")
    fake = [
        "--use-fake-ui-for-media-stream",
        "--use-fake-device-for-media-stream",
        f"--use-file-for-fake-video-capture={camera}",
        f"--use-file-for-fake-audio-capture={ASSETS / 'demo/mara_clip.wav'}",
    ]
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path=PATH, args=[*ARGUMENTS, *fake])
        yield made
        made.close()


@pytest.fixture
def page(browser, server):
    """A page whose console stays clean, but for what the test lists in its `allowed`."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True, base_url=server)
    made: Page = context.new_page()
    said: list[str] = []
    made.on(
        "console",
        lambda m: (
            said.append(m.text)
            if m.type in ("error", "warning") and "GPU stall" not in m.text and "WebGL" not in m.text
            else None
        ),
    )
    made.on("pageerror", lambda e: said.append(str(e)))
    made.goto("/api/health")
    yield made
    context.close()
    allowed = ["status of 4", *getattr(made, "allowed", [])]
    assert [s for s in said if not any(a in s for a in allowed)] == []


@pytest.fixture
def plain_page(page):
    """A page without its viewer, for journeys that look at no face: drawing in three dimensions without a graphics card is slow."""
    page.add_init_script("localStorage.setItem('dynaface.noviewer', '1')")
    return page
