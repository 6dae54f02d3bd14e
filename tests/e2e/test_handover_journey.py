"""Handing over: a marked range in several forms, kept as a preset, then several takes with one report."""

import io
import json
import zipfile
from pathlib import Path

from playwright.sync_api import Page, expect

from dynaface.formats.entries import video, wav
from tests.e2e.test_journey import desk, viewer_ready
from tests.e2e.test_tidy_journey import bring_in

LAMP = ["mara_lamp.csv", "mara_lamp.wav"]


def files_of(page: Page, made) -> dict[str, bytes]:
    with page.expect_download() as download:
        made.get_by_text("all as .zip").click()
    with zipfile.ZipFile(io.BytesIO(Path(download.value.path()).read_bytes())) as archive:
        return {n: archive.read(n) for n in archive.namelist()}


def test_a_range_goes_over_in_several_forms_and_all_takes_by_its_preset(page: Page):
    bring_in(page, "Handing over", {"second": ["mara_second.csv"], "lamp": LAMP}, "kettle")
    desk(page, "Cast")
    viewer_ready(page)
    # Keys move the playhead once the take's length is known.
    expect(page.get_by_text("of 328 at 60 fps")).to_be_visible()
    for key in ("[", "]"):
        for _ in range(6):
            page.keyboard.press("Shift+ArrowRight")
        page.keyboard.press(key)
    page.get_by_role("button", name="Hand over").first.click()
    drawer = page.get_by_test_id("handover-drawer")
    begin = drawer.get_by_role("button", name="Hand over", exact=True)
    # What cannot be begun says why.
    for form in ("Character with its motion", "Curve table"):
        drawer.get_by_text(form).click()
    expect(drawer.get_by_text("Choose at least one file")).to_be_visible()
    expect(begin).to_be_disabled()
    for form in ("Sound (.wav)", "USD stage", "Movie (.mp4)"):
        drawer.get_by_text(form).click()
    drawer.get_by_label("Size", exact=True).select_option("640 x 360")
    drawer.get_by_role("button", name="marked range").click()
    expect(drawer.get_by_test_id("handover-range")).not_to_have_text("all")
    drawer.get_by_label("Rate of the handover").select_option("24")
    drawer.get_by_role("button", name="More options").click()
    drawer.get_by_label("File names").fill("{take}_{character}_{date}")
    page.keyboard.press("Enter")
    drawer.get_by_role("button", name="keep as…").click()
    drawer.get_by_label("Name of preset").fill("dailies")
    page.keyboard.press("Enter")
    expect(drawer.get_by_label("Preset of the handover").locator("option:checked")).to_have_text("dailies")
    begin.click()
    made = drawer.get_by_test_id("handover")
    expect(made).to_contain_text("movie reads back", timeout=240_000)
    expect(made).to_contain_text("plays what the viewer shows at 20 frames: worst difference")
    expect(made).to_contain_text("0 errors")
    files = files_of(page, made)
    manifest = json.loads(next(data for name, data in files.items() if name.endswith(".manifest.json")))
    assert manifest["rate"] == "24"
    seconds = manifest["frames"] / 24
    film = video.read(next(data for name, data in files.items() if name.endswith(".mp4")))
    assert (film.frames, film.height) == (manifest["frames"], 360)
    assert abs(wav.read(next(d for n, d in files.items() if n.endswith(".wav"))).seconds - seconds) < 0.01
    assert all(name.startswith("lamp_Kettle_") for name in files if not name.endswith(".jpg"))

    # By another preset both takes go over in one go; what the second lacks does not stop the first.
    drawer.get_by_label("Preset of the handover").select_option("edit")
    drawer.get_by_label("What is handed over").select_option("chosen")
    expect(drawer.get_by_text("Choose takes or shots below")).to_be_visible()
    for take in ("lamp", "second"):
        drawer.locator("label").filter(has_text=take).click()
    begin.click()
    report = drawer.get_by_test_id("handover-report")
    expect(report).to_contain_text("1 of 2 came off", timeout=120_000)
    expect(report).to_contain_text("there is no sound to hand over")
    expect(drawer.get_by_test_id("handover")).to_have_count(2)

    # The preset is there for whoever opens the page, and can be forgotten.
    page.reload()
    viewer_ready(page)
    page.get_by_role("button", name="Hand over").first.click()
    chosen = drawer.get_by_label("Preset of the handover")
    chosen.select_option("dailies")
    drawer.get_by_role("button", name="forget").click()
    expect(chosen.locator("option", has_text="dailies")).to_have_count(0)
