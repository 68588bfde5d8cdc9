"""Season in the browser: months, the estimate of what lacks, the signature and its proof."""

import re

from playwright.sync_api import expect

from ember.assessment.record_analysis import analyse_record
from ember.basis.periods import Period
from ember.cost.fuels import MMBTU
from ember.season import Signature, season_seen
from tests.browser.pages import Pages
from tests.core.test_season import TMY3


class Season(Pages):
    def test_months_and_signature_are_what_the_core_makes_of_them(self) -> None:
        page = self.page
        self.go("School house", "season", "from=2025-10-01&to=2025-11-14")
        analysis = analyse_record(*self.read("below-rated"))
        seen = season_seen(analysis, Period("all", analysis.start, analysis.stop))
        assert isinstance(seen.heat, Signature)
        spf = seen.whole.figures.reckonings[-1].cop
        assert spf is not None
        table = page.get_by_role("table", name="Season by month")
        expect(table.get_by_role("row")).to_have_count(4)  # head, two months, all
        expect(table.get_by_role("row").last).to_contain_text(f"{spf.value:.2f}")
        line = page.get_by_role("table", name="Signature").get_by_role("row").nth(1)
        expect(line).to_contain_text(f"{seen.heat.slope:.1f}")
        line.get_by_role("button", name=re.compile("Slope of the heat")).click()
        proof = page.get_by_role("dialog", name="Proof sheet")
        expect(proof).to_contain_text("Newey and West")
        expect(proof).to_contain_text("scatter of the days")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="day", exact=True).click()
        expect(
            page.get_by_text(re.compile("whole days with outdoor temperature: 1;"))
        ).to_be_visible()

    def test_it_is_one_key_away_and_says_what_it_cannot(self) -> None:
        page = self.page
        self.go("Signal house", "money")
        expect(page.get_by_role("heading", name=re.compile("^Running cost"))).to_be_visible()
        expect(page.get_by_role("table", name="Months")).to_be_visible()
        page.keyboard.press("g")
        page.keyboard.press("s")
        expect(page).to_have_url(re.compile("/season"))
        expect(page.get_by_role("heading", name=re.compile("^Season"))).to_be_visible()

    def test_another_fuel_is_compared(self) -> None:
        page = self.page
        self.go("School house", "money", "from=2025-10-01&to=2025-11-14")
        section = page.get_by_role("region", name="Another fuel")
        expect(section).to_contain_text("Type the price of a kWh")
        section.get_by_role("combobox").first.select_option("propane")
        section.get_by_label("Sold by the").select_option("US gallon")
        expect(section).to_contain_text("91,333 Btu")
        section.get_by_label("Efficiency %").fill("94")
        section.get_by_label("Price a US gallon").fill("1.80")
        expect(section).to_contain_text("20.97 a MMBtu")
        pk = self.stack.system("School house")
        query = "start=2025-10-01&stop=2025-11-14&kind=propane&price=1.8&efficiency=0.94"
        asked = f"/api/v1/systems/{pk}/fuels?{query}&kwh={91_333 / 1e6 * MMBTU}"
        found = self.stack.get(asked)
        expect(section).to_contain_text(f"{found['needed_cop']:.2f}")
        expect(section.get_by_text(re.compile("break-even|of the days seen"))).to_be_visible()
        section.get_by_label("Price a US gallon").fill("0")
        expect(section.get_by_role("alert")).to_contain_text("price: 0 is not above zero")

    def test_what_if_by_keyboard(self) -> None:
        page = self.page
        self.go("School house", "money", "from=2025-10-01&to=2025-11-14")
        expect(page.get_by_role("tab", name="What if")).to_be_visible()
        page.keyboard.press("v")
        expect(page).to_have_url(re.compile("view=what-if"))
        page.get_by_role("button", name="Work it out").click()
        expect(page.get_by_text("Nothing is asked yet")).to_be_visible()
        page.get_by_label("Heating flow lower by").fill("3")
        page.get_by_label("Fewer starts, %").fill("50")
        page.get_by_label("Held by").select_option("battery")
        page.get_by_label("resistance heaters off").check()
        page.keyboard.press("Enter")
        page.get_by_label("Gives a day, kWh").press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("store: type what it gives a day")
        page.get_by_label("Gives a day, kWh").fill("4")
        page.get_by_label("Gives a day, kWh").press("Enter")
        table = page.get_by_role("table", name="What it would have saved")
        expect(table.get_by_role("row")).to_have_count(6)  # head, four, together
        pk = self.stack.system("School house")
        asked = {
            "flow_lower": 3, "fewer_starts": 0.5, "defrosts_as_expected": False,
            "hot_water_lower": 0, "heaters_off": True, "table": None, "tariff": None,
            "store": {"kind": "battery", "kwh_k": None, "swing_k": None, "kwh": 4,
                      "efficiency": 0.9},
        }  # fmt: skip
        path = f"/api/v1/systems/{pk}/what-if?start=2025-10-01&stop=2025-11-14"
        found = self.stack.post(path, asked)
        first = table.get_by_role("row").nth(1)
        expect(first).to_contain_text(f"{found['effects'][0]['electricity']['value']:.0f} ±")
        expect(table.get_by_role("row").nth(3)).to_contain_text("Not told")
        with page.expect_download() as saved:
            page.get_by_role("button", name="CSV", exact=True).click()
        self.assertEqual(saved.value.suggested_filename, "School house what if.csv")
        page.keyboard.press("v")  # elsewhere and back: what was typed is there
        expect(table).to_have_count(0)
        page.get_by_role("tab", name="What if").click()
        expect(page.get_by_label("Gives a day, kWh")).to_have_value("4")
        expect(page.get_by_label("resistance heaters off")).to_be_checked()
        page.get_by_role("button", name="Work it out").click()
        first.get_by_role("button").first.click()
        proof = page.get_by_role("dialog", name="Proof sheet")
        expect(proof).to_contain_text("rated COP at the flow that was")
        expect(proof).to_contain_text("method of this estimate")

    def test_a_change_is_looked_at_in_the_same_weather(self) -> None:
        page = self.page
        self.go("School house", "changes")
        expect(page.get_by_text("No change is noted")).to_be_visible()
        page.get_by_label("Day of the change").fill("2025-10-24")
        worth = page.get_by_role("region", name="What it was worth")
        expect(worth).to_contain_text("Cannot be told yet")  # nothing was changed that day
        expect(page.get_by_test_id("same-rooms")).to_contain_text("As warm as before")
        found = self.stack.get(
            f"/api/v1/systems/{self.stack.system('School house')}/change?at=2025-10-24"
        )
        table = page.get_by_role("table", name="Before and after")
        row = table.get_by_role("row", name=re.compile("^Electricity"))
        expect(row).to_contain_text(f"{found['electricity']['before']['value']:,.0f}"[:3])
        row.get_by_role("button", name=re.compile("Electricity saved")).click()
        proof = page.get_by_role("dialog", name="Proof sheet")
        expect(proof).to_contain_text("Scatter of the days before")
        page.keyboard.press("Escape")
        page.get_by_label("Day of the change").fill("2020-01-01")
        expect(page.get_by_role("alert")).to_contain_text("no whole day before 2020-01-01")

    def test_heating_apart_and_losses_lead_to_their_views(self) -> None:
        page = self.page
        self.go("Nursery", "season", "from=2025-10-01&to=2025-11-14")
        apart = page.get_by_role("table", name="Heating and hot water apart")
        expect(apart).to_contain_text("Hot water")
        expect(apart).to_contain_text("Expected SPF")
        lost = page.get_by_role("table", name="Losses")
        lost.get_by_role("button", name=re.compile("Starts")).first.click()
        expect(page.get_by_role("dialog", name="Proof sheet")).to_contain_text("settled COP")
        page.keyboard.press("Escape")
        lost.get_by_role("link", name="Starts").click()
        expect(page).to_have_url(re.compile("view=starts"))
        self.go("Nursery", "season", "from=2025-10-01&to=2025-11-14")
        with page.expect_download() as given:
            page.get_by_role("link", name="CSV", exact=True).click()
        rows = given.value.path().read_text().splitlines()
        self.assertIn("U of COP", rows[0])
        self.assertEqual(len(rows), 4)  # head, two months, all

    def test_a_trial_is_planned_and_told(self) -> None:
        page = self.page
        self.go("Nursery", "changes")
        form = page.get_by_role("form", name="Plan a trial")
        expect(form).to_contain_text(re.compile(r"it takes \d+ days"))
        form.get_by_label("Setting A, as it is").fill("curve at 45")
        form.get_by_label("Setting B").fill("curve at 42")
        form.get_by_role("button", name="Plan it").click()
        expect(form).to_contain_text("'' is no day")
        form.get_by_label("First day").fill("2025-10-02")
        form.get_by_role("button", name="Plan it").click()
        trial = page.get_by_test_id("trial")
        expect(trial).to_contain_text("A curve at 45 · B curve at 42")
        expect(trial).to_contain_text("Cannot be told yet: between")
        with page.expect_download() as given:
            trial.get_by_role("link", name="Calendar").click()
        self.assertIn("BEGIN:VALARM", given.value.path().read_text())
        trial.get_by_role("button", name=re.compile("Remove the trial")).click()
        expect(page.get_by_test_id("trial")).to_have_count(0)
        page.get_by_role("button", name="Undo").last.click()
        expect(page.get_by_test_id("trial")).to_have_count(1)

    def test_a_change_with_its_cost_and_days_alike(self) -> None:
        page = self.page
        self.go("Nursery", "log", "part=noted")
        note = page.get_by_role("form", name="A note")
        expect(note.get_by_label("Done by")).to_have_count(0)
        note.get_by_role("combobox").select_option("work done")
        note.get_by_label(re.compile("When")).fill("2025-10-24 09:00")
        note.get_by_label("Note", exact=True).fill("pump set lower")
        note.get_by_label(re.compile("^Cost")).fill("180")
        note.get_by_label("Done by").fill("fitter")
        note.get_by_role("button", name="Write down").click()
        expect(page.get_by_role("grid", name="Noted")).to_contain_text("pump set lower")
        self.go("Nursery", "changes", "change=2025-10-24&days=30")
        expect(page.get_by_role("grid", name="Changes")).to_contain_text("180.00")
        worth = page.get_by_role("region", name="What it was worth")
        # Six weeks of autumn tell nothing of the saving; days of the same weather stand there.
        expect(worth).to_contain_text("Cannot be told")
        expect(worth.get_by_role("table", name="Avoided")).to_contain_text("20 are needed")
        alike = worth.get_by_role("table", name="Days of the same weather")
        expect(alike.get_by_role("row").nth(1)).to_contain_text("2025-10")

    def test_a_normal_year_from_a_weather_file(self) -> None:
        page = self.page
        self.go("Nursery", "season", "from=2025-10-01&to=2025-11-14")
        section = page.get_by_role("region", name="In a normal year")
        wrong = self.stack.var / "no-weather.csv"
        wrong.write_text("a,b\n1,2\n")
        section.locator("input").set_input_files(wrong)
        expect(section).to_contain_text("this is no EPW or TMY3 weather file")
        section.locator("input").set_input_files(TMY3)
        expect(section).to_contain_text("colder than nearly all that were measured")
        expect(section.get_by_role("img", name=re.compile("Hours by outdoor"))).to_be_visible()
