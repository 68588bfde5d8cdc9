"""Every screen and dialog for everybody: what axe finds by WCAG 2.2 AA, dark and at 200 % too;
what has the focus is seen."""

import re

from playwright.sync_api import Page, expect

from tests.browser.pages import Pages
from tests.browser.stack import ROOT

AXE = (ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
# W3C, Web Content Accessibility Guidelines 2.2, levels A and AA, as axe-core tags its rules.
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
DAY = "from=2025-10-20&to=2025-10-20"
SYSTEM = (
    *(f"setup?{DAY}", f"money?{DAY}", f"running?{DAY}"),
    *(f"trust?check={check}" for check in ("", "gaps")),
    *(f"log?part={p}" for p in ("files", "hand", "live", "noted", "bills", "history", "out")),
    *(f"running?view={v}" for v in ("runs", "starts", "defrosts", "hot-water", "control")),
    *(f"running?view={v}" for v in ("inside", "units")),
    *(f"rating?view={v}" for v in ("findings", "weather", "same", "table", "scop", "house")),
    "rating?view=limits",
)


def ill(page: Page) -> list[str]:
    """What axe finds."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE)
    found = page.evaluate(
        "rules => axe.run(document, {resultTypes: ['violations'],"
        " runOnly: {type: 'tag', values: rules}})",
        RULES,
    )
    return [
        f"{one['id']}: {node['html'][:140]} {node['failureSummary'][:200]}"
        for one in found["violations"]
        for node in one["nodes"][:3]
    ]


MAIN = (
    *(
        f"{room}?{DAY}"
        for room in ("setup", "log", "trust", "running", "rating", "season", "money", "changes")
    ),
    *("running?view=runs", "running?view=hot-water", "rating?view=same", "log?part=bills"),
)


class ForAll(Pages):
    maxDiff = None

    def swept(self, paths: tuple[str, ...]) -> dict[str, list[str]]:
        """What axe finds on the screens of a well metered system, and of one with little."""
        pk, bare = self.stack.system("School house"), self.stack.system("Beacon hut")
        every = ["/fleet", "/new", "/nowhere"]
        every += [f"/systems/{pk}/{path}" for path in paths]
        every += [f"/systems/{bare}/{room}" for room in ("log", "running", "trust", "money")]
        self.page.goto(f"{self.stack.base}/fleet")
        found = {}
        for path in every:
            self.hop(path)
            found[path] = ill(self.page)
        return {path: what for path, what in found.items() if what}

    def test_axe_finds_nothing_on_any_screen(self) -> None:
        self.assertEqual(self.swept(SYSTEM), {})

    def test_nor_in_the_dark_at_200_percent(self) -> None:
        """1280 × 800 at 200 %: half as many pixels of the page."""
        self.page.emulate_media(color_scheme="dark")
        self.page.set_viewport_size({"width": 640, "height": 400})
        self.assertEqual(self.swept(MAIN), {})

    def shown(self, name: str | re.Pattern[str]) -> None:
        dialog = self.page.get_by_role("dialog", name=name)
        expect(dialog).to_be_visible()
        self.page.wait_for_timeout(300)
        self.assertEqual(ill(self.page), [], name)
        self.page.keyboard.press("Escape")
        expect(dialog).to_be_hidden()

    def test_axe_finds_nothing_in_dialogs(self) -> None:
        page = self.page
        self.go("School house", "running", f"{DAY}&sel=2025-10-20T10:00_2025-10-20T11:30")
        expect(page.get_by_test_id("cop")).to_be_visible()
        page.get_by_test_id("cop").click()
        self.shown("Proof sheet")
        for key, name in (
            ("?", "Keys"),
            ("/", re.compile("")),
            ("e", re.compile("Leave this stretch out")),
            ("c", re.compile("Say what the unit did")),
            ("n", "Write a note"),
        ):
            page.keyboard.press(key)
            self.shown(name)
        page.get_by_role("button", name="Settings").click()
        self.shown("Settings")
        page.get_by_role("button", name="Table (t)").click()
        self.shown("Readings")
        self.go("School house", "running", "view=runs")
        page.get_by_role("button", name="Filter").click()
        expect(page.get_by_role("combobox", name="Column")).to_be_visible()
        self.assertEqual(ill(page), [], "filter of a grid")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Columns").click()
        expect(page.get_by_role("checkbox", name="Mode")).to_be_visible()
        self.assertEqual(ill(page), [], "columns of a grid")
        self.go("School house", "rating", "view=findings")
        page.get_by_role("button", name=re.compile("Dismiss")).first.click()
        self.shown(re.compile(""))

    def test_what_has_the_focus_is_seen(self) -> None:
        page = self.page
        for name, room, query in (
            ("School house", "running", "view=runs"),
            ("School house", "log", "part=bills"),
            ("School house", "setup", ""),
        ):
            self.go(name, room, query)
            for _ in range(25):
                page.keyboard.press("Tab")
                seen = page.evaluate(
                    """() => {
                      const at = document.activeElement;
                      const box = at.closest('.MuiInputBase-root');
                      const near = [at, at.parentElement, box].filter(e => e);
                      const frame = box?.querySelector('fieldset');
                      return near.some(e => getComputedStyle(e).outlineStyle !== 'none')
                        || (box && getComputedStyle(box).boxShadow !== 'none')
                        || (frame && parseFloat(getComputedStyle(frame).borderTopWidth) >= 2);
                    }"""
                )
                words = page.evaluate("document.activeElement.outerHTML.slice(0, 160)")
                if words.startswith("<body"):
                    break  # once round
                self.assertTrue(seen, f"{room}: {words}")
