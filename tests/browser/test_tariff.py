"""The tariff on its clock: drawn, dragged, dated, refused where two bands overlap, and paid."""

import re

from playwright.sync_api import expect

from tests.browser.pages import Pages


class TariffEditor(Pages):
    def drag(self, first: tuple[int, float], last: tuple[int, float]) -> None:
        """Over the clock, from a weekday and hour to another."""
        strip = self.page.get_by_test_id("clock-strip").first
        strip.scroll_into_view_if_needed()
        box = strip.bounding_box()
        assert box is not None
        row = box["height"] / 7

        def at(corner: tuple[int, float]) -> tuple[float, float]:
            day, hour = corner
            assert box is not None
            return box["x"] + box["width"] * hour / 24, box["y"] + row * (day + 0.5)

        self.page.mouse.move(*at(first))
        self.page.mouse.down()
        self.page.mouse.move(*at(last), steps=3)
        self.page.mouse.up()

    def test_a_band_is_drawn_dated_and_paid(self) -> None:
        page = self.page
        self.go("School house", "setup")
        self.drag((0, 16.2), (4, 19.8))
        bands = page.get_by_role("table", name="Bands")
        expect(bands.get_by_label("band 2 begins", exact=True)).to_have_value("16:00")
        expect(bands.get_by_label("band 2 ends", exact=True)).to_have_value("20:00")
        group = bands.get_by_role("group", name="band 2 begins on")
        expect(group.get_by_role("button", pressed=True)).to_have_count(5)
        bands.get_by_label("Name of band 2").fill("peak")
        bands.get_by_label("Price of peak").fill("0.62")
        strip = page.get_by_test_id("clock-strip").first
        expect(strip).to_have_attribute(
            "aria-label", re.compile("Monday: .*16:00 to 20:00 peak.*Saturday: (?!.*peak)")
        )
        # Over another band it is refused in words, and nothing is lost.
        bands.get_by_label("peak ends", exact=True).fill("23:45")
        expect(page.get_by_text("'night' and 'peak' overlap").first).to_be_visible()
        bands.get_by_label("peak ends", exact=True).fill("20:00")
        expect(page.get_by_text("'night' and 'peak' overlap")).to_have_count(0)
        # Dearer from a date on.
        page.get_by_role("button", name="Add prices from a date on").click()
        page.get_by_label("These prices hold from").fill("2025-10-15")
        page.get_by_label("Price of peak").fill("0.93")
        page.get_by_label("VAT that is added").fill("0.1")
        expect(page.get_by_role("tab", name="from 2025-10-15")).to_be_visible()
        page.get_by_role("button", name="Store").click()
        expect(page.get_by_text("The description is stored").first).to_be_visible()
        pk = self.stack.system("School house")
        tariff = self.stack.get(f"/api/v1/systems/{pk}/setup")["description"]["tariff"]
        self.assertEqual(tariff["bands"][1]["price"], 0.62)
        self.assertEqual(tariff["changes"][0]["bands"][1]["price"], 0.93)
        query = "start=2025-10-01T00:00&stop=2025-11-01T00:00"
        money = f"/api/v1/systems/{pk}/money?{query}"
        found = self.stack.wait(lambda: self.at_new_prices(money), 90)
        peaks = [b for b in found["total"]["cost"]["bands"] if b["band"] == "peak"]
        self.assertEqual([round(b["price"], 4) for b in peaks], [0.62, 1.023])
        self.go("School house", "money", "from=2025-10-01&to=2025-10-31")
        expect(page.get_by_role("table", name="What the electricity went to")).to_contain_text(
            "Hot water"
        )
        expect(page.get_by_text("peak 1.0230 with 10 % VAT from 2025-10-15")).to_be_visible()

    def test_own_solar_and_a_battery(self) -> None:
        page = self.page
        self.go("Salt store", "money")
        months = page.get_by_role("table", name="Months")
        expect(months).to_contain_text("own solar kWh")
        expect(page.get_by_test_id("supply")).to_contain_text("the export price forgone")
        page.get_by_role("button", name=re.compile(r"140\.\d ± ")).first.click()
        proof = page.get_by_role("dialog", name="Proof sheet")
        expect(proof).to_contain_text("own solar")
        expect(proof).to_contain_text("Share of own solar and battery")
        page.keyboard.press("Escape")
        # What the heat pump has first it has more of.
        self.go("Salt store", "setup")
        page.get_by_label("Own electricity goes to").select_option("heat_pump_first")
        page.get_by_label("Channel: to the grid").fill("")
        expect(page.get_by_text("how much of the solar was used").first).to_be_visible()
        page.get_by_label("Channel: to the grid").fill("grid_power")
        expect(page.get_by_text("how much of the solar was used")).to_have_count(0)
        page.get_by_role("button", name="Store", exact=True).click()
        expect(page.get_by_text("The description is stored").first).to_be_visible()
        pk = self.stack.system("Salt store")
        money = f"/api/v1/systems/{pk}/money?start=2025-10-01T00:00&stop=2025-11-15T00:00"
        found = self.stack.wait(lambda: self.fresh(money), 90)
        own = found["bands"].index("own solar")
        self.assertGreater(found["total"]["by_band"][own], 65.0)  # 60 by the mix
        self.assertIn("before the others", found["supply"])

    def fresh(self, path: str) -> dict | None:
        found = self.stack.get(path)
        return None if found["stale"] else found

    def at_new_prices(self, path: str) -> dict | None:
        found = self.stack.get(path)
        return found if len(found["prices"]) > 3 and not found["stale"] else None
