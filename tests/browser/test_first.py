"""From a dropped log to a first COP, and a maker's declared points, in the browser."""

import re
import tempfile
from pathlib import Path

from playwright.sync_api import expect

from ember.description.declared import Declared, DeclaredPoint
from ember.rated.declared import scop_declared
from tests.browser.pages import Pages
from tests.core.helpers import foreign_log


class First(Pages):
    def test_from_a_dropped_log_to_a_first_cop(self) -> None:
        """Within a minute; it takes some seconds."""
        page = self.page
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "Boat house.csv"
            done = foreign_log(path)
            page.goto(self.stack.base)
            page.get_by_role("link", name="Add a system").first.click()
            dialog = page.get_by_role("main")
            dialog.get_by_label("Log to begin with").set_input_files(path)
            first = dialog.get_by_test_id("first-cop")
            expect(first).to_contain_text(re.compile(r"COP \d\.\d+ ± \d\.\d+"), timeout=60_000)
            cop, wide = (float(x) for x in re.findall(r"\d\.\d+", first.inner_text())[:2])
            true = done.truth_heat() / done.truth_electricity("H4")
            self.assertLess(abs(cop - true), wide)
            expect(dialog).to_contain_text("6 columns recognised")
            held = dialog.get_by_label("What does this electricity meter hold?")
            held.select_option("pump")
            dialog.get_by_label(re.compile("watts does the circulation pump")).fill("55")
            expect(dialog.get_by_label("Name of the system")).to_have_value("Boat house")
            dialog.get_by_role("button", name="Begin with it").click()
            expect(page).to_have_url(re.compile(r"/systems/\d+/log"))
        pk = self.stack.system("Boat house")
        self.stack.wait(lambda: self.stack.get(f"/api/v1/systems/{pk}/imports"))
        page.goto(f"{self.stack.base}/systems/{pk}/running")
        expect(self.panel()).to_contain_text("COP")
        described = self.stack.get(f"/api/v1/systems/{pk}/installation.json")
        self.assertEqual(described["fixed"][0]["watts"], 55)

    def test_a_log_that_says_nothing(self) -> None:
        page = self.page
        page.goto(self.stack.base)
        page.get_by_role("link", name="Add a system").first.click()
        dialog = page.get_by_role("main")
        file = {"name": "notes.csv", "mimeType": "text/csv", "buffer": b"hello,world\n1,2\n3,4\n"}
        dialog.get_by_label("Log to begin with").set_input_files(file)
        expect(dialog.get_by_role("alert")).to_contain_text("notes.csv")
        expect(dialog.get_by_role("button", name="Begin with it")).to_have_count(0)

    def test_scop_of_the_points_a_maker_declares(self) -> None:
        page = self.page
        self.go("Nursery", "rating", "view=scop")
        page.get_by_role("button", name="Type the declared points").click()
        form = page.get_by_role("form", name="Declared points")
        form.get_by_label("Design load kW").fill("7")
        rows = (
            ("A", -7.0, 34.0, 6.6, 2.75),
            ("B", 2.0, 30.0, 4.2, 4.1),
            ("C", 7.0, 27.0, 3.2, 5.4),
            ("D", 12.0, 24.0, 3.0, 7.0),
        )
        for name, outdoor, flow, capacity, cop in rows:
            for what, value in (
                ("outdoors", outdoor),
                ("flow", flow),
                ("capacity", capacity),
                ("COP", cop),
            ):
                form.get_by_label(f"{name} {what}", exact=True).fill(f"{value:g}")
        form.get_by_role("button", name="Save").click()
        points = tuple(DeclaredPoint(n, o, f, kw, c) for n, o, f, kw, c in rows)
        found = scop_declared(Declared(7.0, points))
        expect(page.get_by_text(f"SCOP {found.on:.2f} of the bins (SCOPon)")).to_be_visible()
        form.get_by_label("A COP", exact=True).fill("0.1")
        form.get_by_role("button", name="Save").click()
        expect(form.get_by_role("alert")).to_contain_text("cop: must be more than 0.5")
