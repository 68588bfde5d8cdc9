"""Rating in the browser: findings and their life, the rated sheet, thresholds, comparing."""

import re

from playwright.sync_api import Locator, expect

from tests.browser.pages import Pages

US = (
    "outdoor\tflow\tcapacity\tinput\n47\t95\t56.8\t4.0\n17\t95\t40\t4.8\n"
    "47\t113\t54\t5.0\n17\t113\t38\t5.8\n"
)


class Rating(Pages):
    def sheet(self) -> Locator:
        return self.page.get_by_role("article", name="Below rated", exact=True)

    def as_before(self) -> None:
        """The first description again, put back from Set up's history, worked out."""
        pk = self.stack.system("School house")
        first = self.stack.get(f"/api/v1/systems/{pk}/setup")["history"][-1]["id"]
        self.stack.post(f"/api/v1/systems/{pk}/setup/{first}/put-back")
        self.stack.wait(lambda: not self.stack.get(f"/api/v1/systems/{pk}/findings")["stale"])

    def test_a_finding_with_its_proof(self) -> None:
        page = self.page
        self.go("School house", "rating")
        listed = page.get_by_role("listbox", name=re.compile("Findings"))
        expect(listed.get_by_role("option").first).to_contain_text("Below rated")
        sheet = self.sheet()
        expect(sheet.get_by_role("heading", level=1)).to_contain_text("below the rated table")
        for words in (
            "Evidence",
            "against 0.90",
            "Likely causes",
            "a suspicion until",
            "Who:",
            "Caution:",
            "Clears when",
        ):
            expect(sheet).to_contain_text(words)
        core = self.core("below-rated", "2025-10-01", "2025-11-14")
        ratio = core.comparison.ratio
        expect(sheet).to_contain_text(f"{ratio.value:.2f}")
        sheet.get_by_role("button", name=re.compile(f"^{ratio.value:.2f}")).click()
        expect(page.get_by_role("dialog", name="Proof sheet")).to_contain_text("Rated table")
        page.keyboard.press("Escape")
        sheet.get_by_role("link", name="show").first.click()
        expect(page.get_by_role("tab", name="Over the weather")).to_have_attribute(
            "aria-selected", "true"
        )
        expect(page.get_by_role("heading", name="Below rated")).to_be_visible()

    def test_dismissed_it_is_found_in_the_history(self) -> None:
        page = self.page
        self.go("School house", "rating")
        standing = page.get_by_role("region", name="Where it stands")
        standing.get_by_role("button", name="Dismiss").click()
        ask = page.get_by_role("dialog")
        ask.get_by_role("button", name="Dismiss").click()
        expect(ask.get_by_role("alert")).to_contain_text("This is needed")
        ask.get_by_label("reason").fill("table of another pairing")
        ask.get_by_role("button", name="Dismiss").click()
        expect(standing).to_contain_text("Dismissed: table of another pairing")
        history = page.get_by_role("table", name="History of below rated")
        expect(history.get_by_role("row").first).to_contain_text("analyst")
        expect(history.get_by_role("row").last).to_contain_text("First seen")
        page.goto(f"{self.stack.base}/fleet")
        row = page.get_by_test_id(f"row-{self.stack.system('School house')}")
        expect(row).not_to_contain_text("below the rated table")
        self.go("School house", "rating")
        page.get_by_role("option", name=re.compile("Below rated")).click()
        page.get_by_role("button", name="Open again").click()
        expect(page.get_by_role("button", name="Accept")).to_be_visible()
        page.goto(f"{self.stack.base}/fleet")
        expect(row).to_contain_text("below the rated table")

    def test_a_us_table_is_pasted_and_the_verdict_changes(self) -> None:
        page = self.page
        self.go("School house", "rating", "view=weather")
        expect(page.get_by_role("heading", name="Below rated")).to_be_visible()
        self.addCleanup(self.as_before)
        page.get_by_role("tab", name="Rated table").click()
        expect(page.get_by_role("grid", name="Rated table")).to_contain_text("A7/W35")
        expect(page.get_by_role("button", name="Save", exact=True)).to_be_disabled()
        self.paste(self.cell("Rated table", 1, "Outdoors"), US)
        odd = page.get_by_role("region", name="What is odd")
        expect(odd).to_contain_text("kBtu/h bare")
        expect(page.get_by_role("button", name="Save", exact=True)).to_be_disabled()
        odd.get_by_role("button").filter(has_text="temperatures as °F").click()
        expect(self.cell("Rated table", 1, "Outdoors")).to_have_text("8.3")
        expect(self.cell("Rated table", 1, "COP")).to_have_text("4.162")
        expect(odd.get_by_role("note")).to_have_count(0)
        page.get_by_role("button", name="Save", exact=True).click()
        page.get_by_role("tab", name="Over the weather").click()
        expect(page.get_by_role("heading", name="As rated")).to_be_visible(timeout=60_000)
        page.get_by_role("tab", name="SCOP").click()
        scops = page.get_by_role("table", name="SCOP by climate and level")
        expect(scops).to_contain_text("not offered")  # four points reach too little of a climate

    def test_cells_are_typed_by_keyboard(self) -> None:
        page = self.page
        self.go("Nursery", "rating", "view=table")
        first = self.cell("Rated table", 1, "COP")
        self.type_in(first, "31")
        expect(page.get_by_role("region", name="What is odd")).to_contain_text("cannot be")
        expect(self.cell("Rated table", 2, "COP")).to_be_focused()
        page.get_by_role("button", name="Discard").click()
        expect(first).not_to_have_text("31")

    def test_same_conditions(self) -> None:
        page = self.page
        self.go("School house", "rating", "view=same")
        grid = page.get_by_role("table", name="Performance ratio by outdoor and flow temperature")
        grid.get_by_role("button").first.click()
        expect(page.get_by_role("dialog", name="Proof sheet")).to_contain_text("measured ÷ rated")
        page.keyboard.press("Escape")
        expect(page.get_by_role("table", name="Performance ratio by month")).to_contain_text(
            "2025-10"
        )
        expect(page.get_by_text("Capacity against need")).to_be_visible()

    def test_thresholds(self) -> None:
        page = self.page
        self.go("School house", "rating", "view=limits")
        label = "performance ratio below which a unit is below rated"
        field = page.get_by_label(label, exact=True)
        field.fill("x")
        expect(page.get_by_role("button", name="Save")).to_be_disabled()
        field.fill("0.5")
        self.addCleanup(self.as_before)
        page.get_by_role("button", name="Save 1").click()
        page.get_by_role("tab", name="Findings").click()
        expect(page.get_by_role("option", name=re.compile("^.?Below rated"))).to_have_count(
            0, timeout=60_000
        )
        expect(page.get_by_role("region", name="Found before")).to_contain_text("No longer found")
        page.get_by_role("tab", name="Thresholds").click()
        page.get_by_role("button", name="All defaults").click()
        page.get_by_role("button", name="Save 1").click()
        page.get_by_role("tab", name="Findings").click()
        expect(page.get_by_role("option", name=re.compile("Below rated"))).to_contain_text(
            "came back", timeout=60_000
        )

    def test_news_filters_and_comparing(self) -> None:
        page = self.page
        page.goto(f"{self.stack.base}/fleet")
        news = page.get_by_role("region", name="New since you last looked")
        expect(news).to_contain_text("What is new from now on")
        news.get_by_role("button", name="Seen").click()
        expect(page.get_by_text("nothing new")).to_be_visible()
        page.get_by_label("Finding", exact=True).select_option("below rated")
        expect(page.get_by_role("row").filter(has_text="air-to-water")).to_have_count(1)
        page.get_by_label("Finding", exact=True).select_option("")
        for name in ("School house", "Nursery"):
            page.get_by_label(f"Compare {name}").check()
        page.get_by_role("button", name="Compare 2").click()
        table = page.get_by_role("table", name="Compared systems")
        expect(table.get_by_role("row")).to_have_count(3)
        expect(table).to_contain_text("below rated")
        common = page.get_by_role("table", name="In the days in common")
        row = common.get_by_role("row").filter(has_text="Nursery")
        row.get_by_role("button", name="Heat by floor and weather").click()
        proof = page.get_by_role("dialog", name="Proof sheet")
        expect(proof).to_contain_text("heat ÷ floor area ÷")
        page.keyboard.press("Escape")
        bought = page.get_by_role("table", name="All fuels, by the bills of each house")
        row = bought.get_by_role("row").filter(has_text="Nursery")
        row.get_by_role("button", name="Energy: electricity").click()
        expect(proof).to_contain_text("bills of electricity that hold other days too")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Back to all").click()
        expect(table).to_have_count(0)
