"""Running as an analyst works with it: views, runs, notes, states, lanes and ways out; by keyboard
alone where a hand may stay on it."""

import csv
import re
from io import StringIO

from playwright.sync_api import Page, expect

from tests.browser.pages import Pages

DAY = "2025-11-10"
DAY_QUERY = f"from={DAY}&to={DAY}"


def to_workspace(page: Page) -> None:
    """Tab until the chart has the focus."""
    for _ in range(60):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement?.dataset.testid") == "workspace":
            return
    raise AssertionError("the chart cannot be reached by Tab")


class RunningRoom(Pages):
    # --- by keyboard ------------------------------------------------------------------------

    def test_through_the_views_and_back_to_the_day(self) -> None:
        page = self.page
        self.go("School house", "running", DAY_QUERY)
        expect(page.get_by_test_id("workspace")).to_be_visible()
        seen = {
            "Runs": page.get_by_role("grid", name="Runs"),
            "Starts": page.get_by_text("Five minutes after a start the display reads"),
            "Defrosts": page.get_by_role("table", name="Defrosts by month"),
            "Hot water": page.get_by_role("table", name="By time of day"),
            "Control": page.get_by_text("A weather curve is followed"),
            "Inside the unit": page.get_by_text("What happens inside the unit is not logged"),
            "Side by side": page.get_by_role("table", name="Meters of School house"),
        }
        for name, shown in seen.items():
            page.keyboard.press("v")
            expect(page.get_by_role("tab", name=name)).to_have_attribute("aria-selected", "true")
            expect(shown.first).to_be_visible()
        page.keyboard.press("v")
        expect(page.get_by_test_id("workspace")).to_be_visible()
        expect(page).to_have_url(re.compile(DAY_QUERY))
        page.keyboard.press("Shift+V")
        expect(page.get_by_role("tab", name="Side by side")).to_have_attribute(
            "aria-selected", "true"
        )

    def test_a_run_is_selected_and_summed(self) -> None:
        page = self.page
        self.go("School house", "running", DAY_QUERY)
        expect(page.get_by_test_id("workspace")).to_be_visible()
        page.keyboard.press("s")
        expect(page).to_have_url(re.compile(r"at=\d+"))
        expect(page.get_by_role("button", name="Note (n)")).to_be_visible()  # the cursor stands
        to_workspace(page)
        page.keyboard.press("Enter")
        expect(page.get_by_test_id("reckoning-title")).to_contain_text("selection")
        start, stop = re.search(r"sel=([^&]+)_([^&]+)", page.url).groups()
        start, stop = (text.replace("%3A", ":") for text in (start, stop))
        mine = self.core("below-rated", start, stop).total.at("H4")
        expect(page.get_by_test_id("cop")).to_have_text(f"{mine.cop.value:.{mine.cop.decimals}f}")
        # The same run stands in the table, and leads back to its day.
        page.keyboard.press("v")
        self.in_grid("Runs", re.compile(rf"10 Nov 2025 {start[11:]}")).click()
        expect(page).to_have_url(re.compile("sel="))
        again = re.search(r"sel=([^&]+)_([^&]+)", page.url).groups()
        self.assertEqual([t.replace("%3A", ":") for t in again], [start, stop])

    def test_a_note_a_state_and_a_stretch_left_out(self) -> None:
        page = self.page
        self.go("Nursery", "running", f"{DAY_QUERY}&sel={DAY}T10:00_{DAY}T11:30")
        expect(page.get_by_test_id("cop")).to_be_visible()
        page.keyboard.press("n")
        page.get_by_role("dialog").get_by_label("note").fill("engineer on site")
        page.keyboard.press("Enter")
        expect(page.get_by_role("dialog")).to_be_hidden()
        expect(page.get_by_title(re.compile("engineer on site"))).to_be_attached()
        page.keyboard.press("c")
        dialog = page.get_by_role("dialog")
        expect(dialog).to_contain_text("Say what the unit did")
        dialog.get_by_label("state").select_option("off")
        dialog.get_by_label("why").fill("isolated")
        page.keyboard.press("Enter")
        expect(dialog).to_be_hidden()
        expect(self.panel()).to_contain_text("state is off", timeout=60_000)
        page.keyboard.press("e")
        page.get_by_role("dialog").get_by_label("why").fill("test mode")
        page.keyboard.press("Enter")
        expect(page.get_by_test_id("left-out")).to_have_attribute(
            "title", "Left out: test mode", timeout=60_000
        )
        self.go("Nursery", "trust")
        table = page.get_by_role("table", name="Corrections in force")
        for what in ("state is off", "left out"):
            row = table.get_by_role("row", name=re.compile(what))
            row.get_by_role("button", name=re.compile("Undo")).focus()
            page.keyboard.press("Enter")
            expect(row).to_be_hidden(timeout=60_000)
        expect(page.get_by_text("Nothing: every figure is made")).to_be_visible()

    # --- with the mouse ---------------------------------------------------------------------

    def test_a_double_click_takes_the_run(self) -> None:
        page = self.page
        self.go("School house", "running", DAY_QUERY)
        box = page.get_by_test_id("workspace").bounding_box()
        page.mouse.dblclick(box["x"] + 0.5 * box["width"], box["y"] + 150)
        expect(page.get_by_test_id("reckoning-title")).to_contain_text("selection")
        start = re.search(r"sel=([^&]+)_", page.url).group(1).replace("%3A", ":")
        page.get_by_role("tab", name="Runs").click()
        self.in_grid("Runs", f"10 Nov 2025 {start[11:]}")

    def test_lanes_are_chosen_and_stay_in_the_address(self) -> None:
        page = self.page
        self.go("Nursery", "running", DAY_QUERY)
        page.get_by_role("button", name="Lanes").click()
        menu = page.get_by_role("group", name="Lanes")
        menu.get_by_label("room temp").click()
        expect(menu.get_by_label("room temp")).to_be_checked()
        menu.get_by_label("Flow", exact=True).click()
        expect(menu.get_by_label("Flow", exact=True)).not_to_be_checked()
        page.keyboard.press("Escape")
        expect(page).to_have_url(re.compile("hide=flow"))
        expect(page).to_have_url(re.compile("lanes=room_temp"))
        expect(page.get_by_test_id("workspace")).to_contain_text("Room")
        page.reload()
        expect(page.get_by_test_id("workspace")).to_contain_text("Room")
        expect(page.get_by_test_id("workspace")).not_to_contain_text("L/min")

    def test_what_is_seen_is_saved(self) -> None:
        page = self.page
        self.go("Nursery", "running", DAY_QUERY)
        expect(page.get_by_test_id("workspace")).to_be_visible()
        kept = {}
        for name in ("Picture (PNG)", "Drawing (SVG)", "Numbers (CSV)"):
            page.get_by_role("button", name="Save as").click()
            with page.expect_download() as download:
                page.get_by_text(name).click()
            kept[name] = download.value.path().read_bytes()
            page.keyboard.press("Escape")
        self.assertEqual(kept["Picture (PNG)"][:8], b"\x89PNG\r\n\x1a\n")
        drawing = kept["Drawing (SVG)"].decode()
        self.assertTrue(drawing.startswith("<svg") and "Nursery" in drawing and "Water" in drawing)
        rows = list(csv.DictReader(StringIO(kept["Numbers (CSV)"].decode())))
        self.assertEqual(len(rows), 1440)

    def test_runs_are_sorted_and_starts_filtered(self) -> None:
        page = self.page
        self.go("School house", "running", "view=runs")
        table = page.get_by_role("grid", name="Runs")
        table.get_by_role("columnheader", name="Length").click()
        expect(table.get_by_role("columnheader", name="Length")).to_have_attribute(
            "aria-sort", "descending"
        )
        first = table.get_by_role("row").nth(1)
        expect(first).to_contain_text("h")
        page.get_by_role("tab", name="Starts").click()
        count = page.get_by_text(re.compile(r"[\d,]+ of [\d,]+ starts"))
        every = count.inner_text().split(" of ")[0]
        page.get_by_role("button", name="hot water", exact=True).click()
        expect(count).not_to_contain_text(f"{every} of")

    def test_gauges_and_heads(self) -> None:
        page = self.page
        self.go("Pump house", "running", "view=inside")
        expect(page.get_by_text("compressor efficiency")).to_be_visible()
        expect(page.get_by_role("heading", name=re.compile("Around a defrost"))).to_be_visible()
        self.go("Tide house", "running", "view=units")
        table = page.get_by_role("table", name="Meters of Tide house")
        expect(table).to_contain_text("lounge")
        expect(table).to_contain_text("bedroom")
