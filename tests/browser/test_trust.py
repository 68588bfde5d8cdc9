"""Trust and proof as a user works with them: from the doubt to the remedy, from a figure to its
readings, and a link that keeps it."""

import re

from playwright.sync_api import expect

from tests.browser.pages import Pages


class Trust(Pages):
    def test_a_fault_is_shown_corrected_and_undone(self) -> None:
        page = self.page
        self.go("Chandlery", "trust")
        expect(page.get_by_role("heading", name="The metering is in doubt")).to_be_visible()
        checks = page.get_by_role("listbox", name="Checks of the metering")
        first = checks.get_by_role("option").first
        expect(first).to_contain_text("Pair offset")
        expect(first).to_contain_text("doubtful")
        shown = page.get_by_role("region", name="Pair offset")
        expect(shown).to_contain_text("flow minus return is +0.")
        expect(shown.get_by_role("img")).to_have_attribute("aria-label", re.compile("at rest"))
        before = page.get_by_test_id("cop").inner_text()
        effect = shown.get_by_role("table", name="Effect on the record")
        then = effect.get_by_role("row").nth(1).get_by_role("cell").nth(2).inner_text().split()[0]
        self.assertLess(float(then), float(before))

        shown.get_by_role("button", name="Apply").click()
        table = page.get_by_role("table", name="Corrections in force")
        expect(table).to_contain_text("K on flow_temp")
        expect(page.get_by_test_id("cop")).to_have_text(then)
        expect(page.get_by_role("heading", name="The metering can be believed")).to_be_visible()
        expect(self.panel()).to_contain_text("Corrected:")

        table.get_by_role("button", name=re.compile("Undo")).click()
        expect(page.get_by_text("Nothing: every figure is made")).to_be_visible()
        expect(page.get_by_test_id("cop")).to_have_text(before)

    def test_by_keyboard_alone(self) -> None:
        page = self.page
        self.go("Pilot house", "running")
        expect(page.get_by_test_id("cop")).to_be_visible()
        for _ in range(5):  # a loaded machine may take longer between two keys than they wait
            page.keyboard.type("gh")
            page.wait_for_timeout(500)
            if "/trust" in page.url:
                break
        expect(page.get_by_role("heading", name="The metering is in doubt")).to_be_visible()
        option = page.get_by_role("option", name=re.compile("Resolution"))
        option.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("region", name="Resolution")).to_contain_text("steps of 0.1 K")
        expect(page).to_have_url(re.compile("check=resolution"))

    def test_left_out_by_rule_and_refused_with_a_sentence(self) -> None:
        page = self.page
        self.go("Nursery", "trust")
        page.get_by_role("button", name="Correct or leave out by hand").click()
        form = page.get_by_role("form", name="Own correction")
        form.get_by_label("what").select_option("Leave out by rule")
        form.get_by_label("why").fill("a test of mine")
        form.get_by_role("button", name="Apply").click()
        expect(form.get_by_role("alert")).to_contain_text("at which hours")
        form.get_by_label("where").select_option("outdoor_temp")
        form.get_by_label("is below").fill("4.5")
        form.get_by_role("button", name="Apply").click()
        table = page.get_by_role("table", name="Corrections in force")
        expect(table).to_contain_text("where outdoor_temp is below 4.5 °C: a test of mine")
        expect(self.panel()).to_contain_text("a test of mine")
        expect(self.panel().get_by_text("Left out", exact=True)).to_have_count(1)
        table.get_by_role("button", name=re.compile("Undo")).click()
        expect(page.get_by_text("Nothing: every figure is made")).to_be_visible()

    def test_a_selection_is_left_out_with_e(self) -> None:
        page = self.page
        self.go(
            "School house",
            "running",
            "from=2025-10-20&to=2025-10-20&sel=2025-10-20T06:00_2025-10-20T09:00",
        )
        page.get_by_test_id("workspace").focus()
        page.keyboard.press("e")
        dialog = page.get_by_role("dialog", name="Leave this stretch out of every sum")
        dialog.get_by_role("button", name="Leave out").click()
        expect(dialog.get_by_role("alert")).to_contain_text("This is needed")
        dialog.get_by_label("why").fill("pump mode test")
        page.keyboard.press("Enter")
        expect(dialog).to_be_hidden()
        self.go("School house", "trust", "from=2025-10-20&to=2025-10-20")
        expect(self.panel()).to_contain_text("3 h, pump mode test")
        table = page.get_by_role("table", name="Corrections in force")
        expect(table).to_contain_text("left out from 2025-10-20 06:00 to 2025-10-20 09:00")

    def test_where_no_heat_is_measured_there_is_no_cop_but_advice(self) -> None:
        page = self.page
        self.go("Flat 4", "trust")
        expect(page.get_by_role("heading", name="No COP from this metering")).to_be_visible()
        expect(page.get_by_text("What would allow more:")).to_contain_text("Cheapest")
        expect(self.panel()).not_to_contain_text("COP · k = 2")
        page.goto(f"{self.stack.base}/fleet")
        row = page.get_by_test_id(f"row-{self.stack.system('Flat 4')}")
        expect(row).to_contain_text("no COP")

    # --- proofs -----------------------------------------------------------------------------

    def test_from_a_figure_to_its_readings_in_three_clicks(self) -> None:
        page = self.page
        self.go("Nursery", "running", "from=2025-10-28&to=2025-10-28")
        page.get_by_test_id("cop").click()
        sheet = page.get_by_role("dialog", name="Proof sheet")
        budget = sheet.get_by_role("table", name="Uncertainty budget")
        expect(budget).to_contain_text("flow sensor")
        expect(sheet).to_contain_text("Pays most:")
        expect(sheet).to_contain_text("Electricity while off or on standby")
        sheet.get_by_role("button", name="heat meter").click()
        readings = sheet.get_by_role("region", name="Readings of heat meter")
        expect(readings.get_by_role("row").nth(1)).to_contain_text(re.compile(r"28 Oct 00:00"))
        expect(readings).to_contain_text("L/min")
        expect(sheet).to_contain_text("c_p(mean T)")
        sheet.get_by_role("button", name="Later").click()
        expect(sheet).to_contain_text("page 2 of")

    def test_a_permanent_link_keeps_the_figure_and_says_what_changed(self) -> None:
        page = self.page
        self.go("Ferry office", "running", "from=2025-10-20&to=2025-10-24")
        value = page.get_by_test_id("cop").inner_text()
        page.get_by_test_id("cop").click()
        sheet = page.get_by_role("dialog", name="Proof sheet")
        sheet.get_by_role("button", name="Make a permanent link").click()
        link = sheet.get_by_role("link", name=re.compile("proofs"))
        address = link.inner_text()
        page.goto(address)
        expect(page.get_by_role("status")).to_contain_text("Nothing has changed since")
        expect(page.get_by_test_id("cop")).to_have_text(value)

        self.go("Ferry office", "trust", "from=2025-10-20&to=2025-10-24")
        page.get_by_role("button", name="Correct or leave out by hand").click()
        form = page.get_by_role("form", name="Own correction")
        form.get_by_label("from, local time").fill("2025-10-21T00:00")
        form.get_by_label("to", exact=True).fill("2025-10-22T00:00")
        form.get_by_label("why").fill("pump mode test")
        form.get_by_role("button", name="Apply").click()
        expect(self.panel()).to_contain_text("24 h, pump mode test")
        page.goto(address)
        expect(page.get_by_role("status")).to_contain_text("Something has changed since")
        expect(page.get_by_test_id("cop")).to_have_text(value)
        expect(page.get_by_role("status")).to_contain_text("The same period gives")
