"""A phone that sends over the network: it moves Odile, gets a neutral, is recorded, and is sent on."""

import re
import socket
import threading
import time
from contextlib import contextmanager
from fractions import Fraction

import numpy as np
from playwright.sync_api import Page, expect

from dynaface.core.curves.channels import Channels
from dynaface.core.feed.messages import packets_of
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.formats.osc import read_datagram
from dynaface.sims.feed_phone import Weather, foreign, packets, through
from tests.e2e.test_handover_journey import LAMP
from tests.e2e.test_journey import desk
from tests.e2e.test_tidy_journey import bring_in

NAMES = SHAPES + HEAD_ANGLES
RATE, SECONDS = 60, 100


class Phone:
    """Another program's layout in percent, through a network that loses packets; its mouth never quite shuts, and it smiles when told."""

    def __init__(self) -> None:
        t = np.arange(RATE * SECONDS) / RATE
        values = np.zeros((len(t), len(NAMES)), np.float32)
        values[:, NAMES.index("jawOpen")] = 0.2
        values[:, NAMES.index("headTurn")], values[:, NAMES.index("cheekPuff")] = (
            15 * np.sin(t),
            0.3 + 0.3 * np.sin(4 * t),
        )
        still = [foreign(p) for p in packets(Channels(NAMES, values, Fraction(RATE)))]
        values[:, [NAMES.index("mouthSmileLeft"), NAMES.index("mouthSmileRight")]] = 0.8
        smiling = [foreign(p) for p in packets(Channels(NAMES, values, Fraction(RATE)))]
        self._frames = still, smiling
        self.smiles = False

    def send(self, port: int, ends: threading.Event) -> None:
        """Until it is told to end."""
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
            began = time.monotonic()
            for number, _ in through(self._frames[0], Weather(0.02, 0.02, 0.02), 3):
                if ends.wait(max(0.0, began + number / RATE - time.monotonic())):
                    return
                out.sendto(self._frames[self.smiles][number], ("127.0.0.1", port))


@contextmanager
def phone(port: int):
    """A phone that sends."""
    made, ends = Phone(), threading.Event()
    thread = threading.Thread(target=made.send, args=(port, ends))
    thread.start()
    try:
        yield made
    finally:
        ends.set()
        thread.join()


def moving(page: Page) -> None:
    """The character's weights change."""
    canvas = page.get_by_test_id("live-character")
    expect(canvas).to_have_attribute("data-weights", re.compile(r"\d"))
    before = canvas.get_attribute("data-weights")
    expect(canvas).not_to_have_attribute("data-weights", before or "")


def test_a_phone_moves_the_character_and_is_recorded(page: Page, feed_port: int):
    bring_in(page, "Live", {"lamp": LAMP}, "odile")
    desk(page, "Gather")
    page.get_by_role("button", name="Feed", exact=True).click()
    panel = page.get_by_test_id("feed-panel")
    expect(panel.get_by_text(str(feed_port), exact=True)).to_be_visible()
    expect(panel.get_by_role("status")).to_contain_text("Only programs on this machine are heard")

    with phone(feed_port) as held:
        expect(panel.get_by_test_id("sender")).to_contain_text("55 of 55")
        moving(page)
        panel.get_by_label("Performer").fill("Mara Quill")
        panel.get_by_label("Performer").press("Enter")
        expect(panel.get_by_test_id("sender")).to_contain_text("Mara Quill")
        panel.get_by_role("button", name="Take neutral in 3").click()
        expect(panel.get_by_text("Neutral is taken.")).to_be_visible()
        expect(page.get_by_label("Undo: take neutral of Mara Quill")).to_be_enabled()

        # A shape at its most, taken back with one step.
        panel.get_by_role("button", name="55 of 55 are read").click()
        panel.get_by_label("Find a value").fill("smile_L")
        expect(panel.get_by_text("mouthSmileLeft")).to_be_visible()
        full = panel.get_by_test_id("signals").get_by_role("button", name="Full")
        held.smiles = True
        expect(panel.get_by_test_id("meter")).to_have_attribute("style", re.compile(r"width: [78]"))
        full.click()
        expect(page.get_by_label("Undo: mouthSmileLeft of Mara Quill at its most")).to_be_enabled()
        page.get_by_label("Undo: mouthSmileLeft of Mara Quill at its most").click()
        expect(full).to_be_visible()

        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as ear:
            ear.bind(("127.0.0.1", 0))
            ear.settimeout(10)
            panel.get_by_role("button", name="Send on…").click()
            panel.get_by_label("To", exact=True).fill(f"127.0.0.1:{ear.getsockname()[1]}")
            panel.get_by_label("To", exact=True).press("Enter")
            panel.get_by_role("button", name="Begin", exact=True).click()
            expect(panel.get_by_test_id("out")).to_contain_text("packets")
            (packet,) = packets_of(read_datagram(ear.recv(65_000)))
            assert packet.performer == "Mara_Quill"
            assert packet.values["jawOpen"] < 0.02
        panel.get_by_label("End sending to").click()

        panel.get_by_label("Slate").fill("lantern")
        panel.get_by_label("Slate").press("Enter")
        panel.get_by_text("Sound", exact=True).click()
        expect(panel.get_by_label("Level")).to_be_visible()
        panel.get_by_role("button", name="Record lantern_01").click()
        expect(panel.get_by_test_id("feed-recorded")).to_contain_text("packets")
        # The recording goes on at other desks, and the top line says so.
        desk(page, "Tidy")
        chip = page.get_by_test_id("live-chip")
        expect(chip).to_contain_text("Recording 0:0")
        chip.click()
        panel.get_by_role("button", name="Stop").click()
        expect(panel.get_by_role("button", name="Record lantern_02")).to_be_visible()
        expect(page.get_by_text("lantern_01").first).to_be_visible()
        panel.get_by_text("Open the last one").click()
    panel.get_by_label("Close the feed").click()
    expect(page.get_by_test_id("live-chip")).to_have_count(0)
    drawer = page.get_by_test_id("drawer")
    expect(drawer.get_by_text("lantern_01 live.jsonl")).to_be_visible()
    expect(drawer.get_by_text("lantern_01.wav")).to_be_visible()
    for undone in ("place the sound", "bring in lantern_01.wav", "bring in lantern_01 live.jsonl"):
        page.get_by_label(f"Undo: {undone}").click()
    expect(drawer.get_by_text("lantern_01 packets.jsonl")).to_be_visible()
