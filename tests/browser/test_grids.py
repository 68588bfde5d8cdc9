"""Grids, forms and what a person chooses for herself: by keyboard, with the way back."""

import re

from playwright.sync_api import expect

from tests.browser.pages import Pages


class Grids(Pages):
    def test_cell_by_cell_to_a_proof_and_to_the_day(self) -> None:
        page = self.page
        self.go("School house", "running", "view=runs")
        grid = page.get_by_role("grid", name="Runs")
        grid.locator("[role=columnheader][data-field=time]").focus()
        page.keyboard.press("ArrowDown")
        for _ in range(5):
            page.keyboard.press("ArrowRight")
        cell = page.locator("[role=gridcell]:focus")
        expect(cell).to_have_attribute("data-field", "cop")
        shown = cell.inner_text()
        page.keyboard.press("Enter")
        sheet = page.get_by_role("dialog", name="Proof sheet")
        expect(sheet).to_contain_text(shown.split(" ")[0])
        page.keyboard.press("Escape")
        expect(sheet).to_be_hidden()
        grid.get_by_role("gridcell").first.focus()
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("sel="))

    def test_runs_are_filtered_by_the_server(self) -> None:
        page = self.page
        self.go("School house", "running", "view=runs")
        every = page.get_by_role("heading", name=re.compile(r"^[\d,]+ runs$")).inner_text()
        page.get_by_role("button", name="Filter").click()
        page.get_by_role("combobox", name="Column").select_option("cop")
        page.get_by_role("combobox", name="Operator").select_option("<=")
        page.get_by_role("spinbutton", name="Value").fill("2.5")
        said = page.get_by_role("heading", name=re.compile("of .* runs"))
        expect(said).to_contain_text(every.split(" ")[0])
        page.keyboard.press("Escape")
        grid = page.get_by_role("grid", name="Runs")
        cops = grid.locator("[role=gridcell][data-field=cop]").all_inner_texts()
        self.assertTrue(cops)
        for text in cops:
            self.assertLessEqual(float(text.split(" ")[0]), 2.55)

    def test_starts_one_by_one(self) -> None:
        page = self.page
        self.go("School house", "running", "view=starts")
        grid = page.get_by_role("grid", name="Starts")
        expect(grid.get_by_role("row").nth(1)).to_be_visible()
        grid.get_by_role("columnheader", name="loss, Wh").click()
        losses = grid.locator("[role=gridcell][data-field=loss]")
        expect(losses.first).not_to_have_text("–")
        grid.get_by_role("button", name=re.compile("202[56]")).first.click()
        expect(page).to_have_url(re.compile("sel="))

    def test_what_was_taken_out_is_put_back(self) -> None:
        page = self.page
        self.go("Nursery", "log", "part=noted")
        rows = page.get_by_role("grid", name="Noted").get_by_role("row")
        expect(rows.nth(1)).to_be_visible()
        before = rows.count() + 1
        page.get_by_role("button", name="Defrost begins", exact=True).click()
        expect(rows).to_have_count(before)
        page.get_by_role("button", name=re.compile("Take Defrost begins")).first.click()
        said = page.get_by_text("The note is taken out.")
        expect(said).to_be_visible()
        expect(rows).to_have_count(before - 1)
        page.get_by_role("button", name="Undo", exact=True).click()
        expect(rows).to_have_count(before)

    def test_nothing_typed_is_lost_unasked(self) -> None:
        page = self.page
        self.go("Nursery", "log", "part=bills")
        form = page.get_by_role("form", name="A bill")
        form.get_by_label("First day").fill("2026-02-30")
        page.get_by_role("button", name="Noted", exact=True).click()
        asked = page.get_by_role("dialog", name="Leave without storing?")
        expect(asked).to_be_visible()
        page.keyboard.press("Enter")  # Stay has the focus
        expect(asked).to_be_hidden()
        expect(form.get_by_label("First day")).to_have_value("2026-02-30")
        form.get_by_label("Last day").fill("2026-03-30")
        form.get_by_label("Amount").fill("10")
        form.get_by_role("button", name="Add").click()
        # What the server refuses stands at its field, which has the focus.
        expect(page.get_by_role("alert")).to_contain_text("'2026-02-30' is no day")
        expect(form.get_by_label("First day")).to_be_focused()
        page.get_by_role("button", name="Noted", exact=True).click()
        asked.get_by_role("button", name="Leave").click()
        expect(page).to_have_url(re.compile("part=noted"))

    def test_numbers_and_dates_as_a_person_writes_them(self) -> None:
        page = self.page
        self.go("School house", "running", "view=runs")
        expect(self.panel()).to_contain_text(re.compile(r"Heat\s*\d,\d{3}"))
        as_before = {"numbers": "", "dates": ""}
        self.addCleanup(self.stack.post, "/api/v1/me/written", as_before, method="PUT")
        page.get_by_role("button", name="Settings").click()
        dialog = page.get_by_role("dialog", name="Settings")
        dialog.get_by_label("Numbers").select_option("1.234,5")
        dialog.get_by_label("Dates").select_option("2026-01-22")
        dialog.get_by_role("button", name="Close").click()
        self.settle()  # both are kept
        other = self.open(self.new_context())  # another browser of the same person
        self.addCleanup(other.context.close)
        other.goto(page.url)
        panel = other.get_by_role("complementary", name="Reckoning")
        expect(panel).to_contain_text(re.compile(r"Heat\s*\d\.\d{3}"))
        grid = other.get_by_role("grid", name="Runs")
        dated = grid.get_by_role("button", name=re.compile(r"^\d{4}-\d\d-\d\d "))
        expect(dated).not_to_have_count(0)

    def test_the_table_one_key_away(self) -> None:
        page = self.page
        self.go("School house", "running", "from=2025-11-10&to=2025-11-10")
        page.get_by_test_id("workspace").focus()
        page.keyboard.press("t")
        dialog = page.get_by_role("dialog", name="Readings")
        grid = dialog.get_by_role("grid", name="Readings")
        first = grid.locator("[role=gridcell][data-field=c0]").first
        expect(first).to_have_text(re.compile(r"^2025-11-10 00:0"))
        page.keyboard.press("Escape")
        expect(dialog).to_be_hidden()
        page.get_by_role("slider", name=re.compile("Season ribbon")).focus()
        page.keyboard.press("t")
        days = page.get_by_role("dialog", name="Day by day").get_by_role("grid")
        expect(days.locator("[role=gridcell][data-field=c0]").first).to_have_text("2025-10-01")
        page.keyboard.press("Escape")
        self.go("School house", "running", "view=runs")
        page.get_by_role("button", name=re.compile("^Table: Starts by hour")).press("Enter")
        behind = page.get_by_role("dialog", name="What the chart draws").get_by_role("grid")
        expect(behind.get_by_role("row")).not_to_have_count(1)

    def test_a_meter_that_only_the_file_knows(self) -> None:
        page = self.page
        lines = ["time,cellar heat kWh"]
        lines += [f"2024-01-01 {k // 60:02d}:{k % 60:02d},{100 + k // 10}" for k in range(600)]
        file = {"name": "cellar.csv", "mimeType": "text/csv", "buffer": "\n".join(lines).encode()}
        self.go("Flat 4", "log", "part=files")
        page.get_by_label("Log files").set_input_files(file)
        column = page.get_by_label("cellar heat kWh is", exact=True)
        column.select_option("environmental_yield")
        page.get_by_role("button", name="Describe it …").click()
        dialog = page.get_by_role("dialog", name=re.compile("Describe environmental yield"))
        dialog.get_by_label("Name").fill("cellar yield")
        dialog.get_by_role("button", name="Add the meter").click()
        expect(page.get_by_text("“cellar yield” is described.")).to_be_visible()
        expect(page.get_by_role("button", name="Describe it …")).to_be_hidden()
        pk = self.stack.system("Flat 4")
        described = self.stack.get(f"/api/v1/systems/{pk}/installation.json")
        self.assertEqual(described["yields"][-1]["name"], "cellar yield")
