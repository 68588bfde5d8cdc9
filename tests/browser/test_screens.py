"""The screens as a user works with them, in Chromium, over the whole running application."""

import csv
import re
from contextlib import suppress
from itertools import islice

from playwright.sync_api import TimeoutError as PlaywrightTimeout
from playwright.sync_api import expect

from tests.browser.pages import Pages

DAY = "2025-10-28"


class Screens(Pages):
    alone = True

    # --- the main job ------------------------------------------------------------------

    def test_a_log_of_another_dialect_comes_in_and_goes_out_again(self) -> None:
        page = self.page
        self.go("Nursery", "log")
        expect(page.get_by_text("Stored: 1 Oct 2025")).to_be_visible()
        with page.expect_file_chooser() as chooser:
            page.get_by_role("button", name="choose files").click()
        chooser.value.set_files(self.stack.var / "demo" / "nursery-next.csv")
        preview = page.get_by_test_id("preview")
        expect(preview).to_contain_text("semicolon-separated, decimal comma")
        expect(preview).to_contain_text("the header says 'flow temp' and °C")
        expect(preview.get_by_test_id("notes")).to_contain_text("kW")
        # A column set by hand: the room's temperature is not wanted.
        preview.get_by_label("Room temp [°C] is").select_option("")
        expect(preview.get_by_text("Not used:")).to_contain_text("Room temp [°C]")
        preview.get_by_role("button", name=re.compile("Store 20,160 rows")).click()
        expect(page.get_by_test_id("job")).to_contain_text("20,160 rows stored")
        row = page.get_by_role("grid", name="Imports").get_by_role("row").nth(1)
        expect(row).to_contain_text("nursery-next.csv")
        expect(page.get_by_text("to 28 Nov 2025")).to_be_visible()

        page.get_by_role("link", name="Look at it").click()
        expect(page.get_by_test_id("cop")).to_have_text(re.compile(r"\d\.\d"))

        page.get_by_role("link", name="Log").click()
        row.get_by_role("button", name="Undo").click()
        expect(page.get_by_test_id("job")).to_contain_text("taken out")
        expect(row.get_by_role("button", name="Put back")).to_be_visible()
        expect(page.get_by_text("to 14 Nov 2025")).to_be_visible()

    def test_the_schematic_by_mouse_and_keyboard(self) -> None:
        page = self.page
        self.go("Workshop", "setup")
        level = page.get_by_test_id("level-H4")
        expect(level).to_have_attribute("data-good", "true")
        page.get_by_role("button", name="Add an electricity meter").click()
        expect(page.get_by_test_id("problems")).to_contain_text("needs at least 1 entry")
        expect(page.get_by_role("button", name="Store")).to_be_disabled()
        expect(level).to_have_attribute("data-good", "false")
        page.get_by_role("button", name="Undo").click()
        expect(level).to_have_attribute("data-good", "true")

        page.get_by_role("button", name="unit meter").click()
        controls = page.get_by_role("checkbox", name=re.compile("controls: "))
        controls.focus()
        page.keyboard.press("Enter")
        expect(controls).to_have_attribute("aria-checked", "false")
        promised = page.get_by_role("listitem").filter(has_text="controls not metered")
        expect(promised.first).to_be_visible()
        expect(page.get_by_test_id("level-H2")).to_have_attribute("data-good", "false")
        page.get_by_role("button", name="Store").click()
        expect(page.get_by_role("table", name="Earlier descriptions")).to_be_visible()
        page.get_by_role("button", name="Put back").click()
        expect(page.get_by_test_id("level-H2")).to_have_attribute("data-good", "true")
        expect(controls).to_have_attribute("aria-checked", "true")

    def test_a_dropped_file_is_cancelled_and_gone_on_with(self) -> None:
        page = self.page
        self.go("School house", "log")
        lines = (self.stack.var / "demo" / "below-rated" / "log.csv").read_text().splitlines(True)
        earlier = (line.replace("2025-10-", "2025-09-") for line in lines[1:2000])
        text = "".join([lines[0], *earlier])
        self.stack.kill("worker")  # so that the job waits until it is told
        carried = page.evaluate_handle(
            "text => { const d = new DataTransfer();"
            " d.items.add(new File([text], 'dropped.csv')); return d }",
            text,
        )
        page.get_by_test_id("drop").dispatch_event("drop", {"dataTransfer": carried})
        page.get_by_role("button", name="Store 1,999 rows").click()
        job = page.get_by_test_id("job")
        expect(job).to_contain_text("Importing dropped.csv")
        job.get_by_role("button", name="Cancel").click()
        expect(job).to_contain_text("Cancelled before it began")
        imports = page.get_by_role("grid", name="Imports")
        expect(imports).not_to_contain_text("dropped.csv")
        job.get_by_role("button", name="Go on").click()
        self.stack.start("worker")
        expect(job).to_contain_text("1,999 rows stored", timeout=60_000)
        expect(imports).to_contain_text("dropped.csv")
        imports.get_by_role("row", name=re.compile("dropped")).get_by_text("Undo").click()
        expect(job).to_contain_text("taken out", timeout=60_000)

    def test_several_files_at_once(self) -> None:
        page = self.page
        self.go("Ferry office", "log")
        folder = self.stack.var / "pile"
        folder.mkdir(exist_ok=True)
        lines = (self.stack.var / "demo" / "air" / "log.csv").read_text().splitlines(True)
        earlier = [line.replace("2025-10-", "2025-09-") for line in lines[1:]]
        files = []
        for k in range(2):
            path = folder / f"part-{k}.csv"
            path.write_text("".join([lines[0], *earlier[k * 3000 : (k + 1) * 3000]]))
            files.append(path)
        broken = folder / "broken.csv"
        broken.write_text("time,flow\nnever,1\n")
        page.get_by_label("Log files").set_input_files([*files, broken])
        pile = page.get_by_role("table", name="Files to store")
        expect(pile.get_by_role("row")).to_have_count(4)
        expect(pile).to_contain_text("broken.csv")
        pile.get_by_role("row", name=re.compile("part-1")).get_by_role("button").click()
        expect(page.get_by_test_id("preview")).to_contain_text("part-1.csv")
        page.get_by_role("button", name="Store 2 of them").click()
        imports = page.get_by_role("grid", name="Imports")
        for part in ("part-0.csv", "part-1.csv"):  # each once
            row = imports.get_by_role("row", name=re.compile(re.escape(part)))
            expect(row).to_have_count(1, timeout=30_000)
        expect(imports).not_to_contain_text("broken.csv")
        expect(page.get_by_test_id("preview")).to_contain_text("broken.csv")

    def test_open_columns_are_asked_and_modes_are_remembered(self) -> None:
        page = self.page
        self.go("Ferry office", "log")
        rows = csv.DictReader((self.stack.var / "demo" / "air" / "log.csv").open())
        header = [
            "time",
            "Vorlauf [°C]",
            "Rücklauf [°C]",
            "Leistung [W]",
            "Fühler 3 [°C]",
            "Fühler 4 [°C]",
            "Status",
        ]
        lines = [",".join(header)]
        for row in islice(rows, 6000):
            power, tap = float(row["power_unit_w"]), float(row["hot_water_on"])
            code = 0 if power < 100 else 2 if tap > 0.5 else 1
            cells = [
                row[k]
                for k in (
                    "time",
                    "flow_temp_c",
                    "return_temp_c",
                    "power_unit_w",
                    "outdoor_temp_c",
                    "room_temp_c",
                )
            ]
            lines.append(",".join([*cells, str(code)]).replace("2025-10-", "2025-09-"))
        path = self.stack.var / "codes.csv"
        path.write_text("\n".join(lines))
        page.get_by_label("Log files").set_input_files(path)
        preview = page.get_by_test_id("preview")
        asked = preview.get_by_role("region", name="Open columns")
        expect(asked).to_contain_text("What is 'Fühler 3 [°C]'")
        asked.get_by_role("button", name=re.compile("outdoor air")).click()
        expect(preview.get_by_label("Fühler 3 [°C] is", exact=True)).to_have_value("outdoor_temp")
        # The other one stays asked.
        asked.get_by_role("button", name=re.compile("none of these")).click()
        expect(asked).to_have_count(0)
        means = preview.get_by_label("2 of Status means")
        expect(means).to_have_value("hot_water")
        means.select_option("heating")
        preview.get_by_label("Name of the recipe").fill("codes")
        preview.get_by_role("button", name=re.compile("^Store")).click()
        imports = page.get_by_role("grid", name="Imports")
        expect(imports).to_contain_text("codes.csv", timeout=30_000)
        again = [line.replace("2025-09-", "2025-08-") for line in lines]
        path.write_text("\n".join(again))
        page.get_by_label("Log files").set_input_files(path)
        expect(preview).to_contain_text("as remembered in “codes”")
        expect(preview.get_by_label("2 of Status means")).to_have_value("heating")
        preview.get_by_role("button", name="Forget it").click()
        stored = imports.get_by_role("row", name=re.compile("codes"))
        stored.get_by_text("Undo").click()
        expect(stored.get_by_text("Put back")).to_be_visible(timeout=60_000)

    def test_a_brushed_evening_is_what_the_core_makes_of_it(self) -> None:
        page = self.page
        self.go("School house", "running", f"from={DAY}&to={DAY}")
        box = page.get_by_test_id("workspace").bounding_box()
        page.mouse.move(box["x"] + 0.72 * box["width"], box["y"] + 200)
        page.mouse.down()
        page.mouse.move(box["x"] + 0.93 * box["width"], box["y"] + 230, steps=6)
        page.mouse.up()
        expect(page.get_by_test_id("reckoning-title")).to_contain_text("selection")
        start, stop = re.search(r"sel=([^&]+)_([^&]+)", page.url).groups()
        start, stop = (text.replace("%3A", ":") for text in (start, stop))
        expect(page.get_by_test_id("reckoning-title")).to_contain_text(start[11:])
        core = self.core("below-rated", start, stop)
        for level in ("H4", "H2"):
            page.keyboard.press(level[1])
            mine = core.total.at(level)
            expect(page.get_by_test_id("cop")).to_have_text(
                f"{mine.cop.value:.{mine.cop.decimals}f}"
            )
            expect(page.get_by_test_id("cop-u")).to_contain_text(
                f"± {mine.cop.U:.{mine.cop.decimals}f}"
            )
        electricity = core.total.at("H2").electricity
        expect(self.panel().get_by_role("table", name="Electricity")).to_contain_text(
            f"{electricity.value:.2f}"
        )

    def test_a_figure_opens_to_its_proof(self) -> None:
        page = self.page
        self.go("School house", "running", f"from={DAY}&to={DAY}")
        page.get_by_test_id("cop").click()
        sheet = page.get_by_role("dialog", name="Proof sheet")
        expect(sheet).to_contain_text("Σ heat ÷ Σ electricity")
        expect(sheet).to_contain_text("Heat meter: flow sensor")
        expect(sheet.get_by_label("The sum as text")).to_contain_text("RECKONING")
        page.keyboard.press("Escape")
        expect(sheet).to_be_hidden()

    def test_by_keyboard_alone(self) -> None:
        page = self.page
        page.goto(f"{self.stack.base}/fleet")
        expect(page.get_by_role("table", name="Systems")).to_be_visible()
        page.keyboard.press("/")
        page.keyboard.type("school")
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", level=1)).to_contain_text("School house")
        period = page.get_by_test_id("period")
        before = period.inner_text()
        page.keyboard.press("[")
        expect(period).not_to_have_text(before)
        page.keyboard.press("]")
        expect(period).to_have_text(before)
        expect(page.get_by_test_id("workspace")).to_be_visible()
        page.wait_for_load_state("networkidle")
        page.keyboard.press("Shift+S")  # the start before
        expect(page).to_have_url(re.compile(r"at=\d+"))
        for _ in range(60):
            page.keyboard.press("Tab")
            if page.evaluate("document.activeElement?.dataset.testid") == "workspace":
                break
        self.assertEqual(page.evaluate("document.activeElement?.dataset.testid"), "workspace")
        for _ in range(3):
            page.keyboard.press("Shift+ArrowLeft")
        expect(page.get_by_test_id("reckoning-title")).to_contain_text("selection")
        expect(page).to_have_url(re.compile("sel="))
        page.keyboard.press("z")
        expect(page).to_have_url(re.compile("win="))
        page.keyboard.press("Shift+Z")
        expect(page).not_to_have_url(re.compile("win="))
        page.keyboard.press("Escape")
        expect(page).not_to_have_url(re.compile("sel="))
        page.keyboard.press("3")
        expect(page).to_have_url(re.compile("level=H3"))
        page.keyboard.press("g")
        page.keyboard.press("m")
        expect(page.get_by_test_id("months")).to_be_visible()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_contain_text("next, previous defrost")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_be_hidden()
        page.keyboard.press("g")
        page.keyboard.press("f")
        expect(page.get_by_role("table", name="Systems")).to_be_visible()

    def test_us_units(self) -> None:
        page = self.page
        self.go("School house", "running", f"from={DAY}&to={DAY}")
        row = self.panel().get_by_role("row", name=re.compile("Outdoors"))
        celsius = float(re.search(r"[\d.]+", row.inner_text())[0])
        page.get_by_role("button", name="US", exact=True).click()
        expect(row).to_contain_text("°F")
        fahrenheit = float(re.search(r"[\d.]+", row.inner_text())[0])
        # Definition of the two scales.
        self.assertAlmostEqual(fahrenheit, 1.8 * celsius + 32, delta=0.15)
        expect(page.get_by_text("gpm")).to_be_visible()
        expect(self.panel()).to_contain_text("kBtu")
        page.reload()
        expect(row).to_contain_text("°F")

    def test_the_period_is_in_the_address(self) -> None:
        page = self.page
        self.go("School house", "running", f"from={DAY}&to={DAY}&sel={DAY}T18:00_{DAY}T21:30")
        expect(page.get_by_test_id("reckoning-title")).to_contain_text("18:00 – 21:30")
        page.get_by_role("button", name="week", exact=True).click()
        expect(page).to_have_url(re.compile("from=2025-10-27&to=2025-11-02"))
        page.get_by_role("link", name="Rating").click()
        expect(page).to_have_url(re.compile("rating.*from=2025-10-27"))
        expect(page.get_by_test_id("reckoning-title")).to_contain_text("27 Oct 2025")

    # --- what may never be said, and what must be ------------------------------------------

    def test_swapped_sensors_show_no_cop_on_any_screen(self) -> None:
        page = self.page
        for room in ("running", "rating", "money"):
            self.go("Workshop", room, "from=2025-10-20&to=2025-10-22")
            expect(page.get_by_test_id("cop")).to_contain_text("No COP")
            expect(self.panel()).to_contain_text("Metering broken: swapped sensors")
        page.goto(f"{self.stack.base}/fleet")
        row = page.get_by_test_id(f"row-{self.stack.system('Workshop')}")
        expect(row).to_contain_text("no COP")

    def test_a_picture_is_refused_with_a_sentence(self) -> None:
        page = self.page
        self.go("Workshop", "log")
        broken = self.stack.var / "picture.csv"
        broken.write_bytes(b"\x89PNG\r\n\x1a\n" + bytes(200))
        page.get_by_label("Log files").set_input_files(broken)
        expect(page.get_by_role("alert")).to_contain_text("picture.csv: this is a PNG picture")
        expect(page.get_by_role("button", name="Store")).to_be_disabled()
        expect(page.get_by_role("grid", name="Imports").get_by_role("row")).to_have_count(2)

    def test_an_address_that_is_none(self) -> None:
        page = self.page
        page.goto(f"{self.stack.base}/nowhere")
        expect(page.get_by_role("heading", name="There is no such screen")).to_be_visible()
        page.goto(f"{self.stack.base}/systems/999/running")
        expect(page.get_by_role("alert")).to_contain_text("no system 999")

    def test_signing_out_and_in(self) -> None:
        page = self.page
        page.goto(f"{self.stack.base}/fleet")
        page.get_by_role("button", name="Sign out").click()
        page.get_by_label("Password").fill("wrong")
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("alert")).to_contain_text("do not fit")
        page.get_by_label("Password").fill((self.stack.var / "demo-password").read_text())
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("table", name="Systems")).to_be_visible()

    def test_a_session_that_has_ended_leads_back_to_signing_in(self) -> None:
        page = self.page
        self.go("School house", "money", "from=2025-10-01&to=2025-11-14")
        page.context.clear_cookies()
        with suppress(
            PlaywrightTimeout
        ):  # what is asked in the meantime may have led there already
            page.get_by_role("link", name="Rating").click(timeout=5_000)
        expect(page.get_by_role("button", name="Sign in")).to_be_visible()

    def test_without_a_network_the_server_is_asked_all_the_same(self) -> None:
        page = self.page
        self.go("School house", "money", "from=2025-10-01&to=2025-11-14")
        page.evaluate("dispatchEvent(new Event('offline'))")  # as where a cable is drawn
        page.get_by_role("link", name="Rating").click()
        page.get_by_role("tab", name="Rated table").click()
        expect(page.get_by_role("grid", name="Rated table")).to_contain_text("A7/W35")

    def test_the_months_as_csv(self) -> None:
        page = self.page
        self.go("School house", "money", "from=2025-10-01&to=2025-11-14")
        with page.expect_download() as download:
            page.get_by_role("link", name="CSV").click()
        text = download.value.path().read_text()
        self.assertTrue(text.startswith("month,heat [kWh]"))
        self.assertIn("2025-10", text)
