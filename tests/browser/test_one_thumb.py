"""One thumb on a roof: the field in focus is never covered, choices stay open, taking back is undone, hints go for good."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.steps import SEVEN, at_visit, kept_bodies

# What lies over the middle of the focused field: itself, or what covers it.
_COVERED_BY = """() => {
  const field = document.activeElement, r = field.getBoundingClientRect();
  const top = document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2);
  return top === field || field.contains(top) ? "" : `${field.id || field.name} ${Math.round(r.top)}: ${top && (top.id || top.className || top.nodeName)}`;
}"""  # noqa: E501


def covered(page: Page) -> list[str]:
    """Fields of a page that something lies over once they have the focus, from top to bottom and back."""
    found = []
    fields = page.locator("main input:visible:not([type=radio]):not([type=checkbox]):not([type=file]), main select:visible")
    handles = fields.element_handles()
    for handle in (*handles, *reversed(handles)):
        handle.focus()
        found.append(page.evaluate(_COVERED_BY))
    return [one for one in found if one]


@pytest.mark.parametrize("height", [844, 464])
def test_the_field_in_focus_is_never_covered_by_dock_tabs_or_keyboard(open_page, shop, height):
    page = at_visit(open_page("phone"), shop)
    page.set_viewport_size({"width": 390, "height": height})  # a keyboard over 45 % of it leaves 464
    for station in ("read", "air", "weigh", "mend", "close", "arrive"):
        page.goto(f"/visits/{shop.visit}?at={station}")
        page.evaluate("document.querySelectorAll('main details').forEach((box) => { box.open = true; })")
        assert covered(page) == [], station


def test_the_rail_shows_where_one_is_and_stays_where_a_thumb_put_it(open_page, shop):
    page = at_visit(open_page("phone"), shop)
    for station in ("close", "weigh", "arrive"):
        page.goto(f"/visits/{shop.visit}?at={station}")
        expect(page.locator(".station.here")).to_be_in_viewport(ratio=0.9)
    page.goto(f"/visits/{shop.visit}?at=read")
    moved = page.locator("#stations").evaluate("rail => { rail.scrollLeft = 70; return rail.scrollLeft; }")
    assert moved > 0
    page.fill("#q-suction_pressure", "118")
    page.keyboard.press("Enter")
    expect(page.locator(".station.here small")).to_have_text("1 read")  # so that the rail was drawn anew
    assert page.locator("#stations").evaluate("rail => rail.scrollLeft") == moved


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_two_taps_of_a_glove_are_one_and_two_presses_two(open_page, shop, owner, size):
    page = at_visit(open_page(size), shop)
    page.goto(f"/visits/{shop.visit}?at=mend")
    for kept in (1, 2):
        page.fill("#timer-form [name=what]", "drain")
        page.fill("#timer-form [name=minutes]", "20")
        page.locator("#timer-form button").dblclick()
        expect(page.locator("#timeline .entries li")).to_have_count(kept)
        page.wait_for_timeout(700)
    assert [body["what"] for body in kept_bodies(owner, shop)] == ["drain", "drain"]


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_taking_back_is_undone_for_a_moment(open_page, shop, size):
    page = at_visit(open_page(size), shop)
    page.fill("#q-suction_pressure", "118")
    page.keyboard.press("Enter")
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible()
    if size == "phone":
        page.click("label[for=tab-timeline]")
    line = page.locator(".entries > li", has_text="Suction")
    line.locator("button").click()
    expect(line).to_have_class("kind-reading going")
    page.wait_for_timeout(700)  # a thumb, not a double tap
    line.locator("button:has-text('undo')").click()
    page.wait_for_timeout(4500)  # longer than it is held back
    expect(page.locator("#timeline h2")).to_have_text("Done so far 1 entry")
    line.locator("button").click()
    page.goto("/")  # whoever leaves meanwhile has taken it back
    page.goto(f"/visits/{shop.visit}")
    if size == "phone":
        page.click("label[for=tab-timeline]")
    expect(page.locator("#timeline h2")).to_contain_text("1 taken back")


def test_units_are_changed_in_one_visit_to_their_menu_on_the_same_station(open_page, shop):
    page = at_visit(open_page("phone"), shop)
    page.goto(f"/visits/{shop.visit}?at=air")
    page.click(".menu summary")
    for name, value in (("temperature_unit", "C"), ("pressure_unit", "kPa"), ("theme", "night")):
        with page.expect_navigation():
            page.click(f"button[name={name}][value={value}]")
        expect(page.locator(f"button[name={name}][value={value}]")).to_be_visible()
    expect(page.locator("#sheet[aria-label=Air]")).to_be_visible()
    assert "#" not in page.url


@pytest.mark.service_worker
@pytest.mark.parametrize("size", ["desk", "phone"])
def test_what_waits_is_said_over_the_title_and_covers_no_row(open_page, shop, size):
    page = at_visit(open_page(size), shop)
    page.context.set_offline(True)
    page.fill("#q-suction_pressure", "118")
    page.keyboard.press("Enter")
    box = page.locator("#outbox")
    expect(box).to_contain_text("1 waiting")
    title = page.locator(".masthead").bounding_box()
    shown = box.bounding_box()
    assert shown["y"] + shown["height"] <= title["y"] + title["height"] + 1
    page.context.set_offline(False)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(box).to_be_hidden()


def test_a_hint_that_was_read_goes_away_for_good(open_page, shop):
    page = at_visit(open_page("phone"), shop)
    page.goto(f"/visits/{shop.visit}?at=weigh")
    expect(page.locator(".panel-sheet .hint")).to_contain_text("Trim is the small step")
    with page.expect_response("**/me/hints"):
        page.click(".panel-sheet .hint button")
    expect(page.locator(".panel-sheet .hint")).to_have_count(0)
    page.reload()
    expect(page.locator("#desk")).to_be_visible()
    expect(page.locator(".panel-sheet .hint")).to_have_count(0)
    page.goto(f"/visits/{shop.visit}?at=leak")
    expect(page.locator(".panel-sheet .hint")).to_be_visible()


EVERYTHING = {
    **SEVEN,
    "liquid_line_temp": "100",
    "discharge_line_temp": "165",
    "coil_outlet_temp": "48",
    "compressor_suction_temp": "58",
    "drier_inlet_temp": "100",
    "drier_outlet_temp": "99",
    "condenser_leaving_air_temp": "108",
    "supply_air_wet_bulb": "53",
}
_WORDS = """(size) => {
  const svg = document.querySelector(`.only-${size} svg.ladder`), page = svg.getBoundingClientRect();
  const words = [...svg.querySelectorAll("text")].map((part) => [part.textContent, part.getBoundingClientRect()]);
  const cut = words.filter(([, r]) => r.left < page.left - 1 || r.right > page.right + 1 || r.top < page.top - 1
    || r.bottom > page.bottom + 1).map(([word]) => word);
  const over = words.flatMap(([word, a], i) => words.slice(i + 1).filter(([, b]) =>
    Math.min(a.right, b.right) - Math.max(a.left, b.left) > 2 && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 5)
    .map(([other]) => `${word} / ${other}`));
  return { count: words.length, cut, over };
}"""


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_with_every_gap_read_no_word_of_the_ladder_is_cut_or_covered(open_page, shop, size):
    page = at_visit(open_page(size), shop)
    page.evaluate("document.querySelectorAll('main details').forEach((box) => { box.open = true; })")
    for name, value in EVERYTHING.items():
        page.fill(f"#q-{name}", value)
        page.keyboard.press("Enter")
        expect(page.locator(f"#said-{name} .kept")).to_be_visible()
    if size == "phone":
        page.click("label[for=tab-ladder]")
    expect(page.locator(f".only-{size} .plate")).not_to_have_count(0)
    found = page.evaluate(_WORDS, size)
    assert (found["cut"], found["over"]) == ([], [])
    assert found["count"] > 40
