"""Rooms of systems with little metering, in the browser."""

import re

from playwright.sync_api import expect

from tests.browser.pages import Pages


class Little(Pages):
    alone = True

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
        rows = len(self.stack.get(f"/api/v1/systems/{pk}/sheet")["rows"])
        for column, text in (
            ("Time", "2025-11-20 08:00"),
            ("electricity", "2500 kWh"),
            ("heat", "3,5 MWh"),
        ):
            self.type_in(self.cell("Readings by hand", rows + 1, column), text)
        page.get_by_role("button", name=re.compile("^Store")).click()
        self.stack.wait(lambda: len(self.stack.get(f"/api/v1/systems/{pk}/sheet")["rows"]) > rows)
        last = self.stack.get(f"/api/v1/systems/{pk}/sheet")["rows"][-1]
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
        nearest = page.get_by_text("Compared at H4, the metered level nearest to the table")
        expect(nearest).to_be_visible()
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
        page.get_by_role("link", name="Add a system").first.click()
        dialog = page.get_by_role("main")
        dialog.get_by_label("Name", exact=True).fill("Paper house")
        dialog.get_by_role("button", name="Describe it").click()
        expect(page).to_have_url(re.compile(r"/systems/\d+/"))
        pk = self.stack.system("Paper house")
        page.goto(f"{self.stack.base}/systems/{pk}/rating")
        expect(page.get_by_text("Nothing has been logged, so nothing is compared")).to_be_visible()
        page.get_by_role("tab", name="Rated table").click()
        expect(page.get_by_role("grid", name="Rated table")).to_be_visible()

    def test_a_table_alone(self) -> None:
        page = self.page
        self.go("Rope walk", "rating")
        page.get_by_role("button", name="in the house").click()
        row = page.get_by_role("table", name="Tables in the house").get_by_role("row").nth(1)
        expect(row).to_contain_text(re.compile(r"\d\.\d\d ± 0\.\d\d"))
        row.get_by_role("button", name=re.compile(r"^\d\.\d\d ±")).click()
        sheet = page.get_by_role("dialog", name="Proof sheet")
        expect(sheet).to_contain_text("Expected SPF of heating")
        expect(sheet).to_contain_text("Flow temperature")
        page.keyboard.press("Escape")
        page.get_by_label("Weather", exact=True).select_option("colder")
        expect(page.get_by_text("the season in the colder climate")).to_be_visible()
        page.get_by_label("air-to-water 6 kW").check()
        rows = page.get_by_role("table", name="Tables in the house").get_by_role("row")
        expect(rows).to_have_count(3)
        page.get_by_role("button", name="COP", exact=True).click()
        expect(page.get_by_role("heading", name=re.compile("COP at full load"))).to_be_visible()
        for room in ("running", "trust", "money"):
            self.go("Rope walk", room)
            expect(page.get_by_role("link", name="What it does in this house")).to_be_visible()
        page.goto(self.stack.base)
        row = page.get_by_role("row", name=re.compile("Rope walk"))
        expect(row).to_contain_text(re.compile(r"By the rated table: expected SPF \d\.\d"))

    def test_a_capacity_sheet_from_print_is_kept(self) -> None:
        page = self.page
        self.go("Rope walk", "rating", "view=table")
        text = "outdoor  flow  capacity [kW]\n-7  35  6,1¹\n7  35  9.0*\n1) with defrosts"
        expect(page.get_by_role("grid", name="Rated table")).to_contain_text("A7/W35")
        self.paste(self.cell("Rated table", 1, "Outdoors"), text)
        odd = page.get_by_role("region", name="What is odd")
        expect(odd).to_contain_text("kept for its capacity")
        page.get_by_label("Indoor unit").fill("coil 12")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_role("status")).to_contain_text("Saved")
        page.get_by_role("tab", name="In the house").click()
        expect(page.get_by_text("coil 12")).to_be_visible()
        expect(page.get_by_text("no electricity follows from it")).to_be_visible()
        self.go("Rope walk", "setup")
        page.get_by_role("button", name="Put back").first.click()

    def test_a_tank_alone(self) -> None:
        page = self.page
        self.go("Buoy store", "running", "view=hot-water&from=2025-10-01&to=2025-11-14")
        expect(page.get_by_text("COP into the tank")).to_be_visible()
        expect(page.get_by_role("grid", name="Charges")).to_contain_text("water drawn")
        page.get_by_role("button", name=re.compile(r"^\d\.\d ± \d\.\d")).first.click()
        sheet = page.get_by_role("dialog", name="Proof sheet")
        expect(sheet).to_contain_text("in which no water was drawn")
        expect(sheet).to_contain_text("one probe")
        page.keyboard.press("Escape")
        expect(self.panel()).to_contain_text(re.compile(r"Rated table would need\s*\d+ ± \d+"))

    def test_heads_of_one_unit(self) -> None:
        self.go("Tide house", "running", "from=2025-10-10&to=2025-10-31")
        panel = self.panel()
        expect(panel).to_contain_text(re.compile(r"lounge\s*\d+ ± \d+ kWh"))
        expect(panel).to_contain_text("Supply air, while heating")
        expect(panel).to_contain_text("with indoor fans")

    def test_bills_of_the_meter(self) -> None:
        page = self.page
        self.go("Rope walk", "log", "part=bills")
        form = page.get_by_role("form", name="A bill")
        for first, last, amount in (
            ("2025-01-01", "2025-01-31", "620"),
            ("2025-02-01", "2025-02-28", "480"),
        ):
            form.get_by_label("First day").fill(first)
            form.get_by_label("Last day").fill(last)
            form.get_by_label("Amount").fill(amount)
            form.get_by_label("Counts").select_option("main meter")
            form.get_by_role("button", name="Add").click()
            expect(page.get_by_role("grid", name="Bills", exact=True)).to_contain_text(amount)
        pk = self.stack.system("Rope walk")
        self.stack.wait(lambda: self.stack.get(f"/api/v1/systems/{pk}")["start"] is not None)
        self.go("Rope walk", "money")
        expect(page.get_by_test_id("months")).to_contain_text(re.compile(r"1,100 ± \d+"))
        self.go("Rope walk", "log", "part=bills")
        for _ in range(2):
            taken = page.get_by_role("button", name=re.compile("^Take the bill")).first
            before = page.get_by_role("button", name=re.compile("^Take the bill")).count()
            taken.click()
            left = page.get_by_role("button", name=re.compile("^Take the bill"))
            expect(left).to_have_count(before - 1)
