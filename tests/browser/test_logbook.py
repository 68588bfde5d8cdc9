"""The logbook as a user works with it: a sheet by hand, a logger, notes, bills, archives."""

import re
import subprocess
import sys
from datetime import datetime, timedelta
from zipfile import ZipFile

from playwright.sync_api import expect

from tests.browser.pages import Pages
from tests.browser.stack import ROOT

WEEKS = "\n".join(
    [
        "time\theat register\tunit meter\tpump meter\toutdoor\tcolour",
        "01.01.2026 08:00\t12 000\t3000,5\t210\t2,5\tred",
        "08.01.2026 08:00\t12350\t3101\t212,3\t1,0\t",
        "15.01.2026 08:05\t12700\t3201,5\t214,5\t-2\t",
        "22.01.2026 08:05\t13050\t3302\t216,9\t40\t",
        "29.01.2026 08:05\t1340\t3402,6\t219\t3\t",
    ]
)


class Logbook(Pages):
    alone = True

    def test_a_notebook_page_is_pasted_mended_stored_and_undone(self) -> None:
        page = self.page
        self.go("Ferry office", "log", "part=hand")
        page.get_by_role("button", name="Begin with the described meters").click()
        sheet = "Readings by hand"
        self.paste(self.cell(sheet, 1, "Time"), WEEKS)
        expect(page.get_by_text("The sheet has no column ‘colour’")).to_be_visible()
        # Without the backup meter only what leaves it out can be computed, and the page says so.
        expect(page.get_by_text(re.compile("No COP: .*backup"))).to_be_visible()
        for k in range(5):
            self.type_in(self.cell(sheet, k + 1, "backup meter"), "5")
        wrong = page.get_by_test_id("row-says")
        expect(wrong).to_contain_text("1340 kWh is less than 13050 before")
        wrong.get_by_role("button", name="Take 13,400").click()
        expect(wrong).to_have_count(0)
        expect(self.cell(sheet, 2, "COP since the last")).to_contain_text("3.40")
        expect(page.get_by_role("button", name="Store 5 rows")).to_be_enabled()

        self.type_in(self.cell(sheet, 4, "outdoor"), "130")
        expect(wrong).to_contain_text("cannot be outdoor air; was it read in °F?")
        expect(page.get_by_role("button", name="Store 5 rows")).to_be_disabled()
        page.get_by_role("button", name="Undo").click()
        page.get_by_role("button", name="Store 5 rows").click()
        expect(page.get_by_role("button", name="Stored")).to_be_disabled()
        expect(self.cell(sheet, 1, "Time")).to_have_text("2026-01-01 08:00")

        page.get_by_label("Row 1 as an end of a sum").check()
        page.get_by_label("Row 4 as an end of a sum").check()
        between = page.get_by_role("table", name="Sum between two rows")
        expect(between.get_by_role("row").nth(4)).to_contain_text("1,050")
        between.get_by_role("button", name=re.compile("COP at H4")).click()
        proof = page.get_by_role("dialog", name="Proof sheet")
        expect(proof).to_contain_text("register step")
        proof.get_by_role("button", name="Close").click()

        page.get_by_role("button", name="History").click()
        row = page.get_by_role("row", name=re.compile("5 readings added"))
        row.get_by_role("button", name="Undo").click()
        expect(row.get_by_role("button", name="Put back")).to_be_visible()
        page.get_by_role("button", name="By hand").click()
        expect(self.cell(sheet, 1, "Time")).to_have_text("new reading")

    def test_the_sheet_by_keyboard(self) -> None:
        page = self.page
        self.go("Nursery", "log", "part=hand")
        first = self.cell("Readings by hand", 1, "heat")
        before = first.inner_text()
        first.click()
        page.keyboard.press("ArrowDown")
        expect(self.cell("Readings by hand", 2, "heat")).to_be_focused()
        page.keyboard.press("ArrowUp")
        page.keyboard.type("7")
        page.keyboard.press("Escape")  # nothing is typed
        expect(first).to_have_text(before)
        page.keyboard.press("Enter")
        page.keyboard.press("End")
        page.keyboard.type("5")
        page.keyboard.press("Tab")  # stays, and goes on to the right
        expect(first).to_have_text(f"{before}5")
        expect(self.cell("Readings by hand", 1, "unit")).to_be_focused()
        self.paste(self.cell("Readings by hand", 1, "heat"), " 12.5 ")
        expect(first).to_have_text("12.5")
        page.get_by_role("button", name="Undo").click()
        expect(first).to_have_text(f"{before}5")

    def test_a_logger_sends_and_its_readings_are_in_the_record(self) -> None:
        page = self.page
        self.go("Workshop", "log", "part=live")
        pk = self.stack.system("Workshop")
        page.get_by_label("Name of a new logger").fill("boiler room")
        page.get_by_role("button", name="Add a logger").click()
        token = page.get_by_test_id("token").locator("code").first.inner_text()
        logger = page.get_by_role("region", name="Logger boiler room")
        expect(logger).to_contain_text("Nothing has come yet")
        address = f"{self.stack.base}/api/v1/ingest"
        done = subprocess.run(
            [
                sys.executable,
                "-m",
                "stand_ins.logger",
                "--scenario",
                "swapped",
                "--token",
                token,
                "--address",
                address,
                "--speed",
                "1e9",
                "--per-batch",
                "60",
            ],
            cwd=ROOT,
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertRegex(done.stdout, r"\d\d,\d{3} readings taken", done.stderr)
        row = page.get_by_role("grid", name="Loggers").get_by_role("row").nth(1)
        expect(row).to_contain_text("sending")
        expect(logger).to_contain_text("All well.")

        def stored() -> bool:
            imports = self.stack.get(f"/api/v1/systems/{pk}/imports")
            return sum(one["rows"] for one in imports if "boiler room" in one["file"]) >= 1440

        self.stack.wait(stored)
        expect(self.cell("Loggers", 1, "Batches waiting")).to_have_text("0")
        names = page.get_by_role("table", name="Names of boiler room")
        expect(names.get_by_label("flow_temp is", exact=True)).to_have_value("flow_temp")
        logger.get_by_role("button", name="Revoke").click()
        expect(row).to_contain_text("revoked")
        again = subprocess.run(
            [sys.executable, "-m", "stand_ins.logger", "--token", token, "--address", address],
            cwd=ROOT,
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertIn("was revoked", again.stderr)
        page.get_by_role("button", name="History").click()
        expect(
            page.get_by_role("row", name=re.compile("live boiler room, week of")).first
        ).to_be_visible()

    def test_a_defrost_by_one_tap_and_a_note_of_yesterday(self) -> None:
        page = self.page
        self.go("School house", "log", "part=noted")
        expect(page.get_by_text("Keep clear of the fan")).to_be_visible()
        page.get_by_role("button", name="Defrost begins").click()
        noted = page.get_by_role("grid", name="Noted")
        expect(noted.get_by_role("row").nth(1)).to_contain_text("Defrost begins")
        yesterday = f"{datetime.now() - timedelta(days=1):%Y-%m-%d} 07:30"
        page.keyboard.press("n")
        page.keyboard.type("hum in the bedroom")
        page.get_by_label("When, empty for now").fill(yesterday)
        page.get_by_label("Photo, its name").fill("0031")
        page.get_by_role("button", name="Write down").click()
        expect(noted.get_by_role("row").nth(2)).to_contain_text("hum in the bedroom")
        page.get_by_label("When, empty for now").fill("soon")
        page.get_by_role("button", name="Write down").click()
        expect(page.get_by_role("alert")).to_contain_text("'soon' is no day or time")
        noted.get_by_role("button", name=re.compile("Take Note")).click()
        expect(noted.get_by_role("row")).to_have_count(2)

    def test_what_was_noted_stands_under_the_chart_of_its_day(self) -> None:
        page = self.page
        pk = self.stack.system("Nursery")
        rows = self.stack.get(f"/api/v1/systems/{pk}/observations")["rows"]
        day, clock = next(r["local"] for r in rows if r["kind"] == "defrost begins").split()
        self.go("Nursery", "running", f"from={day}&to={day}")
        noted = page.get_by_label("Noted", exact=True)
        expect(noted).to_contain_text(f"{clock} defrost begins")
        noted.get_by_role("button", name=re.compile("defrost begins")).click()
        expect(page).to_have_url(re.compile(r"at=\d+"))
        expect(page.get_by_text(re.compile(rf"{clock}$")).first).to_be_visible()

    def test_bills_are_settled_by_the_next_reading(self) -> None:
        page = self.page
        self.go("Nursery", "log", "part=bills")
        said = page.get_by_role("table", name="What the bills say")
        expect(said.get_by_role("row").nth(2)).to_contain_text("2,220")
        for label, text in (
            ("First day", "2026-04-01"),
            ("Last day", "2026-04-30"),
            ("Amount", "x"),
        ):
            page.get_by_role("form", name="A bill").get_by_label(label).fill(text)
        page.get_by_role("button", name="Add", exact=True).click()
        amount = page.get_by_role("form", name="A bill").get_by_label("Amount")
        expect(page.get_by_role("alert")).to_contain_text("This is no number")
        expect(amount).to_be_focused()
        amount.fill("300,5")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(said.get_by_role("row")).to_have_count(6)

    def test_a_system_begun_by_its_name_and_described_in_the_form(self) -> None:
        page = self.page
        page.goto(f"{self.stack.base}/fleet")
        page.get_by_role("link", name="Add a system").click()
        page.get_by_label("Name", exact=True).fill("Boathouse")
        page.get_by_label("Time zone").fill("WET")
        page.get_by_role("button", name="Describe it").click()
        expect(page).to_have_url(re.compile("/setup"))
        page.get_by_label("Kind of unit").select_option("air_to_air_multi_head")
        page.get_by_label("Property").fill("Ferry yard")
        page.get_by_label("Heated floor").fill("90")
        page.get_by_label("Emitters").select_option("air")
        page.get_by_role("button", name="Add a tank").click()
        page.get_by_label("Set point").fill("48")
        page.get_by_label("Design flow temperature").focus()
        self.settle()
        floor = page.get_by_label("Heated floor")
        stood = floor.bounding_box()
        page.get_by_label("Design flow temperature").fill("400")
        expect(page.get_by_test_id("problems")).to_contain_text("house.design_flow")
        self.assertEqual(floor.bounding_box(), stood, "what is said moves nothing above its field")
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_test_id("problems")).to_have_count(0)
        page.get_by_role("button", name="Store").click()
        expect(page.get_by_text("as stored")).to_be_visible()
        units = page.get_by_role("table", name="Units of Ferry yard")
        for name in ("Boathouse", "Ferry office", "Workshop"):
            expect(units).to_contain_text(name)
        described = self.stack.get(f"/api/v1/systems/{self.stack.system('Boathouse')}/setup")[
            "description"
        ]
        self.assertEqual(described["tank"]["set_point"], 48)

    def test_an_archive_out_and_refused_where_it_is_already(self) -> None:
        page = self.page
        self.go("Workshop", "log", "part=out")
        with page.expect_download() as download:
            page.get_by_role("link", name="Archive").click()
        path = self.stack.var / "workshop.zip"
        download.value.save_as(path)
        with ZipFile(path) as packed:
            self.assertTrue(any(name.endswith("1.parquet") for name in packed.namelist()))
        page.goto(f"{self.stack.base}/fleet")
        page.get_by_role("link", name="Add a system").click()
        page.get_by_label("Log to begin with").set_input_files(path)
        page.get_by_role("button", name="Bring in").click()
        expect(page.get_by_role("alert")).to_contain_text(
            "called 'Workshop' already; nothing was stored"
        )
