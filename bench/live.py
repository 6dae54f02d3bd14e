"""How soon what a performer does is seen: `./dev run .venv/bin/python -m bench.live [--minutes 5]`.

Two performers send 55 channels at 60 packets a second over loopback to the process of feeds. Printed: from a packet's sending to the
same values going out again in our layout, beside a process that does nothing but hand datagrams on; from the press of the panel's
button to the live character that moves, first and then again; from a packet's arrival to its character posed in a page in a real browser
(what the software renderer would draw afterwards is left out: its draw calls do nothing); packets that were lost on the way; how the
process's memory grows over the minutes.
"""

import argparse
import asyncio
import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from fractions import Fraction

import numpy as np
from aiohttp import ClientSession, WSMsgType
from playwright.sync_api import Page

from bench.page import bench_work, drawing_page, served
from dynaface.core.curves.channels import Channels
from dynaface.core.feed.messages import packets_of
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.formats.osc import read_datagram
from dynaface.live.serve import BUFFER
from dynaface.services.feed.tickets import make_ticket
from dynaface.settings import from_environment
from dynaface.sims.actor import act
from dynaface.sims.feed_phone import packets, plain

RATE = 60
PERFORMERS = ("Mara", "Ivo")
FEED, LIVE, OUT, BARE = 8493, 8494, 8495, 8496
SECONDS = 20
BARE_SECONDS = 10
HAND_ON = """
import socket
heard, out = (socket.socket(socket.AF_INET, socket.SOCK_DGRAM) for _ in range(2))
heard.bind(("127.0.0.1", {heard}))
while True:
    out.sendto(heard.recv(65507), ("127.0.0.1", {out}))
"""
REST = 2000  # milliseconds that somebody looks at the desk before they press
DRAWN_NOT = (
    "WebGL2RenderingContext.prototype.drawElements = () => {}; WebGL2RenderingContext.prototype.drawArrays = () => {};"
)


def face(seconds: float, seed: int) -> Channels:
    """Curves that a performer plays."""
    made = act([], seconds, seed, rate=RATE)
    names = SHAPES + HEAD_ANGLES
    return Channels(names, np.stack([made.column(n) for n in names], axis=1), Fraction(RATE))


class Phones:
    """Performers who send, each packet at its time; sent: when each packet of the first went out."""

    def __init__(self, seconds: float, port: int = FEED) -> None:
        self._port = port
        self.sent: dict[int, float] = {}
        self.count = 0
        self._frames = [packets(face(seconds, seed), name) for seed, name in enumerate(PERFORMERS, 3)]
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def _run(self) -> None:
        data = [[plain(p) for p in frames] for frames in self._frames]
        began = time.monotonic()
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
            for n in range(len(data[0])):
                time.sleep(max(0.0, began + n / RATE - time.monotonic()))
                if self._stop.is_set():
                    return
                for which, frames in enumerate(data):
                    if which == 0:
                        self.sent[n] = time.monotonic()
                    out.sendto(frames[n], ("127.0.0.1", self._port))
                self.count = n + 1

    def stop(self) -> None:
        """They end."""
        self._stop.set()
        self._thread.join()


@contextmanager
def feeds() -> Iterator[subprocess.Popen[bytes]]:
    """The process of feeds, once it answers."""
    process = subprocess.Popen([sys.executable, "-m", "dynaface", "live"], env=dict(os.environ))
    for _ in range(120):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{LIVE}/", timeout=1)
        except urllib.error.HTTPError:
            break
        except OSError:
            time.sleep(0.25)
    try:
        yield process
    finally:
        process.terminate()
        process.wait()


def set_ports() -> None:
    """Ports and a folder of the bench's own, for all that it starts."""
    os.environ |= {
        "DYNAFACE_LIVE_PORT": str(LIVE),
        "DYNAFACE_FEED_PORT": str(FEED),
        "DYNAFACE_LIVE_FOLDER": tempfile.mkdtemp(),
    }


def memory(process: "subprocess.Popen[bytes]") -> float:
    """Megabytes that a process holds."""
    with open(f"/proc/{process.pid}/status") as status:
        return next(int(line.split()[1]) for line in status if line.startswith("VmRSS")) / 1024


async def send_on(ticket: str) -> None:
    """Has what is shown sent on to the bench; nobody looks at it then."""
    async with ClientSession() as session, session.ws_connect(f"http://127.0.0.1:{LIVE}/feed?ticket={ticket}") as feed:
        await feed.send_json({"do": "send", "number": 1, "host": "127.0.0.1", "port": OUT})
        async for message in feed:
            if message.type is WSMsgType.TEXT and '"outs":[{' in message.data and PERFORMERS[1] in message.data:
                return


def opened(page: Page) -> float:
    """Seconds from the press of the panel's button to the character of one performer posed by what was heard."""
    pressed = time.monotonic()
    page.get_by_role("button", name="Feed", exact=True).click()
    page.locator("[data-testid=live-character][data-late]").first.wait_for()
    return time.monotonic() - pressed


def posed(page: Page) -> tuple[float, float, float]:
    """[frames, median, 95 of a hundred] of how late the character of one performer is posed in a page, in milliseconds."""
    page.wait_for_timeout(SECONDS * 1000)
    late = page.get_by_test_id("live-character").get_attribute("data-late") or ""
    count, median, high = map(float, late.split())
    return count, median, high


def handed_on() -> np.ndarray:
    """Milliseconds as in sent_on, through a process that hands datagrams on and does nothing else."""
    process = subprocess.Popen([sys.executable, "-c", HAND_ON.format(heard=BARE, out=OUT)])
    phones = Phones(BARE_SECONDS + 5, BARE)
    try:
        time.sleep(1)
        return sent_on(phones, BARE_SECONDS)[0]
    finally:
        phones.stop()
        process.kill()
        process.wait()


def sent_on(phones: Phones, seconds: float) -> tuple[np.ndarray, int]:
    """(milliseconds from the sending of each packet of the first performer to its values going out, packets between the first and the
    last of them that never did)."""
    came = []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as ear:
        ear.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, BUFFER)
        ear.bind(("127.0.0.1", OUT))
        ear.settimeout(0.2)
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            try:
                data = ear.recv(65_507)
            except TimeoutError:
                continue
            came.append((time.monotonic(), data))
    late: dict[int, float] = {}
    for moment, data in came:  # read afterwards: what waits to be read must not count as late
        (packet,) = packets_of(read_datagram(data))
        number = round((packet.seconds or 0.0) * RATE)
        if packet.performer == PERFORMERS[0] and number in phones.sent:
            late[number] = (moment - phones.sent[number]) * 1000
    return np.array(list(late.values())), max(late) - min(late) + 1 - len(late)


def main() -> None:
    """Prints all of it."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=0.5, help="how long memory is watched")
    minutes = parser.parse_args().minutes
    set_ports()
    work, production = bench_work()
    bare = handed_on()
    print(f"datagrams that are only handed on: median {np.median(bare):.1f} ms, 95% {np.percentile(bare, 95):.1f} ms")
    with served() as base, feeds() as process:
        phones = Phones(minutes * 60 + 90)
        asyncio.run(send_on(make_ticket(work, from_environment().secret, production)))
        time.sleep(3)
        out, lost = sent_on(phones, SECONDS)
        print(f"two performers at {RATE} Hz, packet in to feed out: {len(out)} packets, {lost} lost, median {np.median(out):.1f} ms, "
              f"95% {np.percentile(out, 95):.1f} ms")  # fmt: skip
        with drawing_page(DRAWN_NOT) as page:
            page.goto(f"{base}/{production}/gather")
            page.get_by_role("button", name="Feed", exact=True).wait_for()
            page.wait_for_timeout(REST)
            first = opened(page)
            page.get_by_role("button", name="Feed", exact=True).click()
            page.wait_for_timeout(REST)
            print(f"from the press to the moving character: {first:.2f} s, again {opened(page):.2f} s")
            count, median, high = posed(page)
        print(
            f"packet in to character posed in the page: last {count:.0f} frames, median {median:.1f} ms, 95% {high:.1f} ms"
        )
        before = memory(process)
        until = time.monotonic() + minutes * 60 - 2 * SECONDS
        while time.monotonic() < until:
            time.sleep(1)
        print(f"memory of the process after {minutes:g} minutes: {before:.0f} -> {memory(process):.0f} MB")
        phones.stop()


if __name__ == "__main__":
    main()
