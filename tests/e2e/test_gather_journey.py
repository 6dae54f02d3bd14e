"""A day's files: numbered pictures, several clips named by a pattern, a notes sheet, a large file in pieces."""

from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from tests.e2e.test_journey import begin
from tests.makers import noise_film, zipped


def bring(page: Page, *files: Path):
    page.get_by_test_id("file-picker").set_input_files([str(f) for f in files])


def test_a_folder_of_clips_is_named_and_circled_by_the_notes_sheet(plain_page: Page, tmp_path: Path):
    page = plain_page
    begin(page, "A day of clips")
    clips = [tmp_path / "mara_4A_1.mp4", tmp_path / "ivo_7C_2.mp4", tmp_path / "mara_4A_3.zip"]
    clips[0].write_bytes(noise_film(seed=1))
    clips[1].write_bytes(noise_film(seed=2))
    clips[2].write_bytes(zipped(rate="25"))
    bring(page, *clips)
    panel = page.get_by_test_id("import-panel")
    expect(panel.get_by_text("8 over 0.32 s at 25 fps")).to_be_visible()
    panel.get_by_label("Names are").fill("{performer}_{slate}_{take}")
    page.keyboard.press("Enter")
    expect(panel.get_by_test_id("named")).to_contain_text("4A / 3, mara")
    panel.get_by_role("button", name="Make 3 takes").click()
    for slate in ("4A / 1", "7C / 2", "4A / 3"):
        expect(page.get_by_role("row", name=f"take {slate}")).to_be_visible()

    sheet = tmp_path / "notes.csv"
    sheet.write_text("Slate,Circled,Notes\n4a 1,yes,the pause\n7C/2,no,\n9Z,yes,lost\n")
    bring(page, sheet)
    panel.get_by_role("button", name="Circle and note the takes").click()
    expect(page.get_by_text("notes.csv: 1 takes changed")).to_be_visible()
    expect(page.get_by_text("No take has the slate 9Z")).to_be_visible()
    row = page.get_by_role("row", name="take 4A / 1")
    expect(row.get_by_label("Circled")).to_be_visible()
    expect(row).to_contain_text("the pause")
    # A desk that is chosen before the page has drawn the take that was clicked is that take's.
    row.click()
    expect(page.get_by_role("banner")).to_contain_text("4A / 1")
    other = page.get_by_role("row", name="take 7C / 2").element_handle()
    solve = page.get_by_role("navigation").get_by_text("Solve", exact=True).element_handle()
    page.evaluate("([take, desk]) => { take.click(); desk.click(); }", [other, solve])
    expect(page.get_by_role("banner")).to_contain_text("7C / 2")
    page.get_by_role("navigation").get_by_text("Gather", exact=True).click()

    wrong = tmp_path / "wrong.csv"
    wrong.write_text("Slate,Circled\n4A / 1,perhaps\n")
    bring(page, wrong)
    expect(panel.get_by_role("alert")).to_contain_text("line 2")


def test_a_large_file_comes_in_pieces_and_goes_on_after_a_break(plain_page: Page, tmp_path: Path):
    page = plain_page
    begin(page, "Long sound")
    large = tmp_path / "long.wav"
    times = np.arange(48_000 * 100) / 48_000
    large.write_bytes(wav.write(Sound((0.3 * np.sin(2 * np.pi * 110 * times)).astype(np.float32)[:, None], 48_000)))
    assert large.stat().st_size > 8 << 20
    broken: list[str] = []

    def breaks(route):
        # The second piece arrives, but its answer does not; then the line is there again.
        if "/uploads/" in route.request.url and not route.request.url.endswith("/0") and not broken:
            broken.append(route.request.url)
            route.fetch()
            route.abort("connectionreset")
        else:
            route.continue_()

    page.route("**/api/uploads/**", breaks)
    page.allowed = ["ERR_CONNECTION_RESET"]
    bring(page, large)
    expect(page.get_by_test_id("import-panel").get_by_text("100.00 s, 48 kHz")).to_be_visible(timeout=60_000)
    assert broken
