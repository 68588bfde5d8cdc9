"""Rooms of systems with little metering, in the browser."""

import re

from playwright.sync_api import expect

from tests.browser.pages import Pages


class Little(Pages):
    def test_a_sheet_is_a_system(self) -> None:
        page = self.page
        page.goto(self.stack.base)
        row = page.get_by_role("row", name=re.compile("Signal house"))
        expect(row).to_contain_text(re.compile(r"\d\.\d+ ± \d\.\d+"))
        self.go("Signal house", "log")
        expect(page.get_by_text(re.compile(r"\d+ readings by hand:"))).to_be_visible()
        expect(page.get_by_role("button", name="By hand")).to_have_attribute("aria-pressed", "true")
        self.go("Signal house", "running")
        expect(page.get_by_test_id("cop")).to_have_text(re.compile(r"\d\.\d+"))
        expect(self.panel()).to_contain_text("Modes not told apart")
        page.get_by_role("tab", name="Runs").click()
        expect(page.get_by_text("Only the sum between two readings is known")).to_be_visible()
        self.go("Signal house", "rating", "view=weather")
        expect(page.get_by_text("whole intervals between readings").first).to_be_visible()
        self.go("Signal house", "money")
        expect(page.get_by_text("do not tell the hours")).to_be_visible()
        expect(page.get_by_test_id("months")).not_to_contain_text("night")

    def test_a_reading_with_its_unit_is_stored_and_told_to_the_rooms(self) -> None:
        page = self.page
        self.go("Signal house", "log")
        pk = self.stack.system("Signal house")
        rows = len(self.stack.get(f"/api/systems/{pk}/sheet")["rows"])
        page.get_by_placeholder("new reading").fill("2025-11-20 08:00")
        # The row being typed is the last but one: another empty one follows it.
        page.get_by_label(re.compile("^electricity, row")).nth(-2).fill("2500 kWh")
        page.get_by_label(re.compile("^heat, row")).nth(-2).fill("3,5 MWh")
        page.get_by_role("button", name=re.compile("^Store")).click()
        self.stack.wait(lambda: len(self.stack.get(f"/api/systems/{pk}/sheet")["rows"]) > rows)
        last = self.stack.get(f"/api/systems/{pk}/sheet")["rows"][-1]
        self.assertEqual(last["cells"], {"electricity": "2500.0", "heat": "3500"})

    def test_what_a_controller_reports(self) -> None:
        page = self.page
        page.goto(self.stack.base)
        row = page.get_by_role("row", name=re.compile("Beacon hut"))
        expect(row).to_contain_text("As reported by the controller")
        expect(row).to_contain_text("no COP")
        self.go("Beacon hut", "running")
        panel = self.panel()
        expect(panel).to_contain_text(re.compile(r"COP at H4 as reported\s*\d\.\d"))
        expect(panel).to_contain_text("reported by the controller, not measured")
        expect(panel).to_contain_text("A day")

    def test_electricity_alone(self) -> None:
        self.go("Flat 4", "running")
        panel = self.panel()
        expect(panel).to_contain_text("no heat is measured")
        expect(panel).to_contain_text(re.compile(r"While it runs\s*[\d,]+ ± \d+"))

    def test_one_meter_for_everything(self) -> None:
        page = self.page
        self.go("Salt store", "rating", "view=weather")
        expect(page.get_by_text("Compared at H4, the narrowest level")).to_be_visible()
        self.go("Salt store", "setup")
        meters = page.get_by_role("table", name="Meters")
        expect(meters.get_by_text("the whole: H4").first).to_be_visible()
        # What serves hot water alone is no meter of the whole any more.
        meters.get_by_label("heat meter serves").select_option("hot_water")
        meters.get_by_label("heat register serves").select_option("heating")
        expect(meters.get_by_text("the whole: H4").first).to_be_visible()
        meters.get_by_label("main meter serves").select_option("hot_water")
        expect(meters.get_by_text("hot water: H4").first).to_be_visible()
        lacking = page.get_by_text("for heating not metered").filter(visible=True)
        expect(lacking.first).to_be_visible()
        page.get_by_label("The backup heater surely rests").check()
        expect(page.get_by_role("button", name="Store", exact=True)).to_be_enabled()

    def test_the_rated_table_needs_no_log(self) -> None:
        page = self.page
        page.goto(self.stack.base)
        page.get_by_role("button", name="Add a system").first.click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Name", exact=True).fill("Paper house")
        dialog.get_by_role("button", name="Describe it").click()
        expect(page).to_have_url(re.compile(r"/systems/\d+/"))
        pk = self.stack.system("Paper house")
        page.goto(f"{self.stack.base}/systems/{pk}/rating")
        expect(page.get_by_text("Nothing has been logged, so nothing is compared")).to_be_visible()
        page.get_by_role("tab", name="Rated table").click()
        expect(page.get_by_role("table", name="Rated table")).to_be_visible()
