"""What the tests of screens share: the running application, a browser, and what the core says."""

import re
from dataclasses import replace
from unittest import TestCase

from playwright.sync_api import Browser, BrowserContext, Locator, Page, expect, sync_playwright

from ember.assessment.assess import assess
from ember.basis.clock import zone_named
from ember.description.as_json import read_installation
from ember.intake import read_log
from ember.rated import read_table
from server.assessments.times import instant
from server.testing import CHROMIUM, CHROMIUM_ARGUMENTS
from tests.browser.stack import Stack


class Pages(TestCase):
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        cls.stack = Stack()
        cls.addClassCleanup(cls.stack.close)
        playwright = sync_playwright().start()
        cls.addClassCleanup(playwright.stop)
        cls.browser = playwright.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_ARGUMENTS)
        cls.addClassCleanup(cls.browser.close)
        expect.set_options(timeout=20_000)  # a slow machine is no fault

    def setUp(self) -> None:
        self.errors: list[str] = []
        self.asked: list[str] = []
        self.page = self.open()
        self.addCleanup(self.page.context.close)

    def open(self, scheme: str = "light") -> Page:
        context: BrowserContext = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, color_scheme=scheme, locale="en-GB"
        )
        context.request.get(self.stack.entrance())
        page = context.new_page()
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.on("request", lambda request: self.asked.append(request.url))
        page.set_default_timeout(20_000)
        return page

    def tearDown(self) -> None:
        self.assertEqual(self.errors, [])
        own = (self.stack.base, "data:", f"blob:{self.stack.base}")
        outside = [url for url in self.asked if not url.startswith(own)]
        self.assertEqual(outside, [], "nothing is fetched from elsewhere")

    def go(self, name: str, room: str, query: str = "") -> None:
        pk = self.stack.system(name)
        self.page.goto(f"{self.stack.base}/systems/{pk}/{room}?{query}")
        self.page.wait_for_load_state("networkidle")

    def panel(self) -> Locator:
        return self.page.get_by_role("complementary", name="Reckoning")

    def in_grid(self, name: str, words: str | re.Pattern[str]) -> Locator:
        """A button in a grid, which draws only the rows in sight: scrolled to."""
        grid = self.page.get_by_role("grid", name=name)
        found = grid.get_by_role("button", name=words)
        expect(grid.get_by_role("gridcell").first).to_be_visible()
        scroller = grid.locator(".MuiDataGrid-virtualScroller")
        for _ in range(20):
            if found.count():
                return found.first
            scroller.evaluate("e => { e.scrollTop += 300 }")
            self.page.wait_for_timeout(100)
        raise AssertionError(f"no row of {name} has {words}")

    def core(self, key: str, start: str, stop: str):
        """What the core makes of the demo's own files between two local times."""
        folder = self.stack.var / "demo" / key
        installation = read_installation(folder / "installation.json")
        installation = replace(installation, rated=read_table(folder / "rated.csv"))
        trace, _ = read_log(folder / "log.csv", installation)
        zone = zone_named(installation.zone)
        return assess(installation, trace, instant(start, zone, ""), instant(stop, zone, "", 1))
