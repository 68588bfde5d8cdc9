"""Season in the browser: months, the estimate of what lacks, the signature and its proof."""

import re

from playwright.sync_api import expect

from ember.assessment.record_analysis import analyse_record
from ember.basis.periods import Period
from ember.cost.fuels import MMBTU
from ember.season import Signature, season_seen
from tests.browser.pages import Pages


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
        page.keyboard.press("g")
        page.keyboard.press("s")
        expect(page).to_have_url(re.compile("/season"))
        expect(page.get_by_role("heading", name=re.compile("^Season"))).to_be_visible()

    def test_another_fuel_is_compared(self) -> None:
        page = self.page
        self.go("School house", "money", "from=2025-10-01&to=2025-11-14")
        section = page.get_by_role("region", name="Another fuel")
        expect(section).to_contain_text("Type the price of a kWh")
        section.get_by_label("Fuel").select_option("propane")
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

    def test_a_change_is_looked_at_in_the_same_weather(self) -> None:
        page = self.page
        self.go("School house", "changes")
        expect(page.get_by_text("No change is noted")).to_be_visible()
        page.get_by_label("Day of the change").fill("2025-10-24")
        worth = page.get_by_role("region", name="What it was worth")
        expect(worth).to_contain_text("Cannot be told yet")  # nothing was changed that day
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
