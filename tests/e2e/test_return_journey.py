"""Handed over, edited by a script as another program would, and brought back: layers of what is different."""

from pathlib import Path

from playwright.sync_api import Page, expect

from dynaface.sims.edited import edited_glb, edited_table
from tests.e2e.test_handover_journey import LAMP, files_of
from tests.e2e.test_journey import desk, viewer_ready
from tests.e2e.test_tidy_journey import bring_in


def test_what_was_edited_elsewhere_comes_back_as_layers(page: Page, tmp_path: Path):
    bring_in(page, "Bringing back", {"lamp": LAMP}, "odile")
    desk(page, "Cast")
    viewer_ready(page)
    expect(page.get_by_text("of 328 at 60 fps")).to_be_visible()
    page.get_by_role("button", name="Hand over").first.click()
    drawer = page.get_by_test_id("handover-drawer")
    drawer.get_by_role("button", name="Hand over", exact=True).click()
    made = drawer.get_by_test_id("handover")
    expect(made).to_contain_text("same as the viewer at 20 frames", timeout=120_000)
    files = files_of(page, made)
    name, data = next((n, d) for n, d in files.items() if n.endswith(".glb"))
    table, rows = next((n, d) for n, d in files.items() if n.endswith(".csv"))
    (tmp_path / name).write_bytes(edited_glb(data, slice(100, 130), "mouthSmileLeft", 0.3, prefix="rig:"))
    (tmp_path / table).write_bytes(rows)
    (tmp_path / f"retouched_{table}").write_bytes(edited_table(rows, "browInnerUp", slice(200, 230), 0.4))
    (tmp_path / "broken.glb").write_bytes(data[:3000])

    drawer.get_by_role("tab", name="Bring back").click()
    expect(drawer.get_by_text("what is called otherwise is compared with lamp")).to_be_visible()
    drawer.get_by_test_id("return-picker").set_input_files([str(p) for p in sorted(tmp_path.iterdir())])
    cards = drawer.get_by_test_id("returned")
    expect(cards).to_have_count(4, timeout=120_000)
    expect(cards.filter(has_text="nothing is different")).to_have_count(1)
    expect(cards.filter(has_text="broken.glb:")).to_have_count(1)
    brows = cards.filter(has_text="browInnerUp by 0.40")
    expect(brows).to_contain_text("frames 200 to 229")
    smile = cards.filter(has_text="mouthSmileLeft by 0.30")
    expect(smile).to_contain_text("namespaces taken off")
    expect(smile).to_contain_text("frames 100 to 129")

    # The layer lies in a shot that was begun for it, in which everything else stays live.
    smile.get_by_text("Open the shot").click()
    expect(page.get_by_test_id("stage-canvas")).to_have_attribute("data-loaded", "true")
    panel = page.get_by_test_id("drawer")
    expect(panel.get_by_text(Path(name).stem, exact=True).first).to_be_visible()
    expect(panel.get_by_text("touch-up").first).to_be_visible()

    # A second time it is the shot that is open that files are compared with; undo takes the layer away again.
    again = tmp_path / f"again_{table}"
    again.write_bytes((tmp_path / f"retouched_{table}").read_bytes())
    page.get_by_role("button", name="Hand over").first.click()
    drawer.get_by_role("tab", name="Bring back").click()
    drawer.get_by_test_id("return-picker").set_input_files(str(again))
    expect(cards).to_have_count(5, timeout=120_000)
    cards.first.get_by_text("Open the layer").click()
    heading = panel.get_by_text(again.stem, exact=True)
    expect(heading.first).to_be_visible()
    page.get_by_label(f"Undo: new layer {again.stem}").click()
    expect(heading).to_have_count(0)
