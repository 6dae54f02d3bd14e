"""The page by keyboard and for screen readers: axe at each desk, the take list without a mouse, dialogs, splitters."""

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.test_journey import desk, viewer_ready

AXE = (Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js").read_text()
DESKS = ("Gather", "Solve", "Tidy", "Cast", "Join")


def open_demo(page: Page, server: str) -> Page:
    """The demo production at Gather with its first take open."""
    page.goto(f"{server}/")
    page.get_by_label("Production").select_option(label="The Salt Lantern")
    page.get_by_role("row", name="take 4A / 1", exact=True).click()
    expect(page.get_by_test_id("curve-names")).to_be_visible()
    return page


@pytest.fixture
def demo(page: Page, server: str) -> Page:
    """The demo with its viewer."""
    viewer_ready(open_demo(page, server))
    return page


@pytest.fixture
def plain_demo(plain_page: Page, server: str) -> Page:
    """The demo without its viewer."""
    return open_demo(plain_page, server)


def violations(page: Page) -> list[str]:
    """What axe finds, as rule and place, once colours have stopped changing."""
    page.wait_for_function("() => document.getAnimations().every(a => a.playState !== 'running')")
    page.evaluate(AXE)
    found = page.evaluate("axe.run(document, { resultTypes: ['violations'] })")
    return [f"{v['id']}: {n['target']} {n['html'][:140]}" for v in found["violations"] for n in v["nodes"]]


@pytest.mark.parametrize("light", [False, True], ids=["dark", "light"])
def test_axe_finds_nothing_at_any_desk(demo: Page, light: bool) -> None:
    if light:
        demo.get_by_role("button", name="Light or dark").click()
    for name in DESKS:
        desk(demo, name)
        expect(demo.get_by_test_id("curve-names")).to_be_visible()
        assert violations(demo) == [], name
    demo.get_by_role("tab", name="Line up").click()
    expect(demo.get_by_test_id("line-up-bars").get_by_role("button", name="4A / 1, body")).to_be_visible()
    assert violations(demo) == [], "Line up"
    demo.get_by_role("tab", name="Body").click()
    for opened, name in (("?", "Keys"), ("Control+k", "Search")):
        demo.keyboard.press(opened)
        expect(demo.get_by_role("dialog", name=name)).to_be_visible()
        assert violations(demo) == [], name
        demo.keyboard.press("Escape")
        expect(demo.get_by_role("dialog")).to_have_count(0)
    if light:
        demo.get_by_role("button", name="Light or dark").click()


def test_the_take_list_by_keyboard(plain_demo: Page) -> None:
    demo = plain_demo
    demo.get_by_role("row", name="take 4A / 1", exact=True).focus()
    demo.keyboard.press("ArrowDown")
    expect(demo.get_by_role("row", name="take 4B / 2", exact=True)).to_be_focused()
    demo.keyboard.press("Enter")
    expect(demo.get_by_role("row", name="take 4B / 2", exact=True)).to_have_attribute("aria-current", "true")
    expect(demo.get_by_role("banner").get_by_text("4B / 2", exact=True)).to_be_visible()
    demo.keyboard.press("Shift+ArrowDown")
    expect(demo.get_by_text("2 chosen")).to_be_visible()
    demo.keyboard.press("Space")
    expect(demo.get_by_text("1 chosen")).to_be_visible()
    demo.keyboard.press("ArrowRight")
    expect(demo.get_by_role("row", name="take 4B / 2 second phone").get_by_role("button")).to_be_focused()
    demo.keyboard.press("ArrowLeft")
    expect(demo.get_by_role("row", name="take 4B / 2 second phone")).to_be_focused()


def test_dialogs_hold_the_focus_and_give_it_back(plain_demo: Page) -> None:
    demo = plain_demo
    opener = demo.get_by_role("button", name="Keys (?)")
    opener.click()
    sheet = demo.get_by_role("dialog", name="Keys")
    expect(sheet.get_by_role("button", name="Close")).to_be_focused()
    demo.keyboard.press("Tab")
    assert demo.evaluate("document.activeElement.closest('[role=dialog]') !== null")
    demo.keyboard.press("Escape")
    expect(sheet).to_have_count(0)
    expect(opener).to_be_focused()


def test_a_command_is_found_by_its_name_and_space_presses_what_has_the_focus(plain_demo: Page) -> None:
    demo = plain_demo
    demo.keyboard.press("Control+k")
    search = demo.get_by_role("dialog", name="Search")
    search.get_by_role("textbox").fill("to solve")
    search.get_by_role("button", name="To Solve").wait_for()
    demo.keyboard.press("Enter")
    expect(demo.get_by_role("navigation").get_by_text("Solve", exact=True)).to_have_attribute("aria-current", "page")
    demo.get_by_role("button", name="Loop", exact=True).focus()
    demo.keyboard.press("Space")
    expect(demo.get_by_role("button", name="Loop", exact=True)).to_have_attribute("aria-pressed", "false")
    expect(demo.get_by_role("button", name="Play (Space)")).to_be_visible()


def test_the_deck_is_made_taller_and_stays_so(demo: Page) -> None:
    desk(demo, "Tidy")
    deck = demo.get_by_test_id("deck-canvas")
    expect(deck).to_be_visible()
    names = demo.get_by_test_id("curve-names").bounding_box()
    before = deck.bounding_box()
    assert before["y"] >= names["y"] + names["height"] - 1
    assert before["height"] - 22 - 10 - 46 >= 200
    line = demo.get_by_role("separator", name="Height of the deck")
    box = line.bounding_box()
    demo.mouse.move(box["x"] + 200, box["y"] + 2)
    demo.mouse.down()
    demo.mouse.move(box["x"] + 200, box["y"] - 58)
    demo.mouse.up()
    demo.wait_for_function(
        "h => document.querySelector('[data-testid=deck-canvas]').clientHeight > h + 50", arg=before["height"]
    )
    demo.reload()
    demo.wait_for_function(
        "h => document.querySelector('[data-testid=deck-canvas]')?.clientHeight > h + 50", arg=before["height"]
    )
    line.focus()
    demo.keyboard.press("ArrowDown")
    line.dblclick()
    demo.wait_for_function(
        "h => document.querySelector('[data-testid=deck-canvas]').clientHeight < h + 5", arg=before["height"]
    )
