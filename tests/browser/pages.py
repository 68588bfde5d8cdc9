"""What the tests of screens share: the running application, a browser, and what the core says."""

import re
import sys
from dataclasses import replace
from functools import cache
from multiprocessing.util import Finalize
from unittest import TestCase

from playwright.sync_api import (
    Browser,
    BrowserContext,
    Locator,
    Page,
    Request,
    expect,
    sync_playwright,
)

from ember.assessment.assess import assess
from ember.basis.clock import zone_named
from ember.basis.series import Trace
from ember.description.as_json import read_installation
from ember.description.installation import Installation
from ember.intake import read_log
from ember.rated import read_table
from server.assessments.times import instant
from server.testing import CHROMIUM, CHROMIUM_ARGUMENTS
from tests.browser.stack import Stack

# One process for all pages of a class, which so knows the scripts already.
ARGUMENTS = [*CHROMIUM_ARGUMENTS, "--process-per-site", "--js-flags=--always-sparkplug"]


@cache
def running_stack() -> Stack:
    """The application of this process, for the classes that do not mind what others left."""
    stack = Stack()
    Finalize(None, stack.close, exitpriority=1)
    return stack


@cache
def running_browser() -> Browser:
    """The browser of this process."""
    playwright = sync_playwright().start()
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
    Finalize(None, playwright.stop, exitpriority=1)
    Finalize(None, browser.close, exitpriority=2)
    return browser


class Pages(TestCase):
    browser: Browser
    alone = False  # whether a class needs an application that nobody has used

    @classmethod
    def setUpClass(cls) -> None:
        if cls.alone:
            cls.stack = Stack()
            cls.addClassCleanup(cls.stack.close)
        else:
            cls.stack = running_stack()
        cls.browser = running_browser()
        # One for the class: what it has once read of the scripts it need not read again.
        cls.context = cls.new_context()
        cls.addClassCleanup(cls.context.close)
        # Stays open, and with it the process that has compiled the scripts.
        cls.context.request.get(cls.stack.entrance())
        cls.context.new_page().goto(cls.stack.base)
        expect.set_options(timeout=30_000)  # a slow machine is no fault

    @classmethod
    def new_context(cls) -> BrowserContext:
        return cls.browser.new_context(
            viewport={"width": 1280, "height": 800}, color_scheme="light", locale="en-GB"
        )

    def setUp(self) -> None:
        self.errors: list[str] = []
        self.asked: list[str] = []
        self.pending: list[Request] = []
        self.page = self.open(self.context)
        self.addCleanup(self.page.close)
        # Nothing is left of the test before but the scripts.
        self.context.new_cdp_session(self.page).send(
            "Storage.clearDataForOrigin",
            {"origin": self.stack.base, "storageTypes": "local_storage,indexeddb"},
        )

    def open(self, context: BrowserContext) -> Page:
        """A page of somebody who is signed in."""
        context.clear_cookies()
        context.request.get(self.stack.entrance())
        page = context.new_page()
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.on("request", lambda request: self.asked.append(request.url))
        page.on("request", lambda one: self.pending.append(one))
        for ended in ("requestfinished", "requestfailed"):
            page.on(ended, lambda one: self.pending.remove(one) if one in self.pending else None)
        page.set_default_timeout(30_000)
        return page

    def tearDown(self) -> None:
        if not self._outcome.success:  # type: ignore[attr-defined]
            self.tell()
        self.assertEqual(self.errors, [])
        own = (self.stack.base, "data:", f"blob:{self.stack.base}")
        outside = [url for url in self.asked if not url.startswith(own)]
        self.assertEqual(outside, [], "nothing is fetched from elsewhere")

    def tell(self) -> None:
        """Writes what a failed test saw: what was asked and not answered, and the server's log."""
        log = (self.stack.var / "log.txt").read_text().splitlines()[-20:]
        lines = [f"{self.id()} failed", f"browser online: {self.page.evaluate('navigator.onLine')}"]
        lines += [f"not answered: {one.url}" for one in self.pending]
        print("\n    ".join(lines + log), file=sys.stderr)

    def go(self, name: str, room: str, query: str = "") -> None:
        """Opens a screen of a system; where the application is open, as a link of it does."""
        path = f"/systems/{self.stack.system(name)}/{room}?{query}"
        if self.page.url.startswith(self.stack.base):
            self.hop(path)
            return
        self.page.goto(f"{self.stack.base}{path}")
        self.settle()

    def settle(self) -> None:
        """Waits until the page has asked for all it wants, and has it."""
        calm = 0
        for _ in range(600):
            self.page.wait_for_timeout(50)
            busy = self.pending or self.page.locator("[role=progressbar]").count()
            # Before the scripts have run there is nothing at all.
            calm = calm + 1 if not busy and self.page.locator("main *").count() else 0
            if calm == 3:
                return
        raise AssertionError(f"still waiting for {[one.url for one in self.pending]}")

    def hop(self, path: str) -> None:
        """Goes to an address as a link of the page does, without loading it anew."""
        self.page.evaluate(
            """path => {
              history.pushState(null, '', path);
              dispatchEvent(new PopStateEvent('popstate'));
            }""",
            path,
        )
        self.settle()

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

    def cell(self, name: str, row: int, column: str) -> Locator:
        """A cell of a grid: its row as it is counted, and the head of its column."""
        grid = self.page.get_by_role("grid", name=name)
        head = grid.get_by_role("columnheader", name=re.compile(rf"^{re.escape(column)}\b"))
        field = head.first.get_attribute("data-field")
        return grid.locator(f'[data-rowindex="{row - 1}"] [data-field="{field}"]')

    def type_in(self, cell: Locator, text: str) -> None:
        """Types over what a cell of a grid holds."""
        cell.click()
        self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")

    def paste(self, cell: Locator, text: str) -> None:
        """Pastes into a cell of a grid as a browser does: the text comes with the event."""
        cell.click()
        cell.evaluate(
            """(cell, text) => {
              const data = new DataTransfer();
              data.setData('text/plain', text);
              const event = { clipboardData: data, bubbles: true, cancelable: true };
              cell.dispatchEvent(new ClipboardEvent('paste', event));
            }""",
            text,
        )

    def read(self, key: str) -> tuple[Installation, Trace]:
        """The demo's own files, as the core reads them."""
        folder = self.stack.var / "demo" / key
        installation = read_installation(folder / "installation.json")
        installation = replace(installation, rated=read_table(folder / "rated.csv"))
        return installation, read_log(folder / "log.csv", installation)[0]

    def core(self, key: str, start: str, stop: str):
        """What the core makes of the demo's own files between two local times."""
        installation, trace = self.read(key)
        zone = zone_named(installation.zone)
        return assess(installation, trace, instant(start, zone, ""), instant(stop, zone, "", 1))
