"""A face and a body that come over the network: on Odile, beside another performer, in the program that is driven, and in a take."""

import re
import subprocess
import sys
from contextlib import contextmanager

import pytest
from playwright.sync_api import Page, expect

from dynaface.formats.entries import bvh
from dynaface.formats.entries.curve_table import write_table
from dynaface.sims.body_suit import move
from tests.e2e.test_feed_journey import moving
from tests.e2e.test_handover_journey import LAMP
from tests.e2e.test_journey import desk
from tests.e2e.test_tidy_journey import bring_in
from tests.makers import channels
from tests.ports import free_port


@contextmanager
def command(*words: str):
    """A command that runs beside."""
    process = subprocess.Popen([sys.executable, "-m", "dynaface", *words], stdout=subprocess.PIPE, text=True)
    try:
        yield process
    finally:
        process.terminate()
        process.wait(timeout=20)


@pytest.fixture
def recorded(tmp_path):
    """A face and a walk, as files."""
    (tmp_path / "face.csv").write_bytes(write_table(channels(frames=240)))
    (tmp_path / "walk.bvh").write_bytes(bvh.write(move(4.0, None, 3)))
    return str(tmp_path / "face.csv"), str(tmp_path / "walk.bvh")


def test_a_body_beside_a_face_is_shown_sent_on_and_recorded(page: Page, feed_port: int, recorded):
    face, walk = recorded
    heard, shown = free_port(), free_port()
    mara = ("send", face, walk, "--to", str(feed_port), "--performer", "Mara", "--rate", "20", "--loop")
    ivo = ("send", face, "--to", str(feed_port), "--performer", "Ivo", "--rate", "20", "--loop")
    bring_in(page, "Live bodies", {"lamp": LAMP}, "odile")
    desk(page, "Gather")
    with command(*mara), command(*ivo), command("receive", "--at", str(heard), "--page", str(shown)) as receiver:
        page.get_by_role("button", name="Feed", exact=True).click()
        panel = page.get_by_test_id("feed-panel")
        row = panel.get_by_test_id("sender").filter(has_text="Mara")
        expect(row).to_contain_text("52 joints")
        row.click()
        moving(page)
        panel.get_by_role("button", name="Show Ivo beside").click()
        expect(page.get_by_test_id("live-character")).to_have_count(2)
        page.get_by_role("button", name="Frame the body").first.click()
        expect(page.get_by_role("button", name="Frame the body").first).to_have_attribute("aria-pressed", "true")
        panel.get_by_role("button", name="Show Ivo beside").click()
        expect(page.get_by_test_id("live-character")).to_have_count(1)

        assert "shown at" in receiver.stdout.readline()
        panel.get_by_role("button", name="Send on…").click()
        panel.get_by_label("To", exact=True).fill(f"127.0.0.1:{heard}")
        panel.get_by_label("To", exact=True).press("Enter")
        panel.get_by_role("button", name="Begin", exact=True).click()
        expect(panel.get_by_test_id("out")).to_contain_text("packets")
        driven = page.context.new_page()
        wrong = []
        driven.on("console", lambda said: wrong.append(said.text) if said.type == "error" else None)
        driven.goto(f"http://127.0.0.1:{shown}")
        card = driven.get_by_test_id("received").filter(has_text="Mara")
        expect(card).to_contain_text("52 joints")
        expect(card.get_by_test_id("live-character")).to_have_attribute("data-weights", re.compile(r"\d"))
        driven.close()
        assert not wrong
        panel.get_by_label("End sending to").click()

        panel.get_by_label("Slate").fill("walk")
        panel.get_by_label("Slate").press("Enter")
        panel.get_by_text("Count in", exact=True).click()
        panel.get_by_role("button", name="Record walk_01").click()
        expect(panel.get_by_test_id("feed-recorded")).to_contain_text("packets")
        panel.get_by_role("button", name="Stop").click()
        expect(page.get_by_text("walk_01 Mara").first).to_be_visible()
    panel.get_by_label("Close the feed").click()
    page.get_by_text("walk_01 Mara").first.click()
    expect(page.get_by_test_id("drawer").get_by_text("walk_01 Mara body.jsonl")).to_be_visible()
