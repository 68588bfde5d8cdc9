"""The report as a page: set as in the terminal, nothing cut off, nothing fetched."""

from django.test import SimpleTestCase
from playwright.sync_api import sync_playwright

from ember.assessment.assess import assess
from server.assessments.page import page
from server.assessments.present import WIDTH, report
from server.testing import CHROMIUM, CHROMIUM_ARGUMENTS
from tests.core.helpers import assessed, simulated


class Page(SimpleTestCase):
    def test_the_whole_sum_is_seen_at_1280_pixels(self) -> None:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_ARGUMENTS)
            view = browser.new_page(viewport={"width": 1280, "height": 800})
            asked: list[str] = []
            view.on("request", lambda request: asked.append(request.url))
            found = assessed("below-rated", days=20)
            view.set_content(page(report(found, ()), "$ assess"))
            text = view.inner_text("pre")
            width, height = view.evaluate(
                "() => { const p = document.querySelector('pre').getBoundingClientRect();"
                " return [p.right, p.height] }"
            )
            colour = view.evaluate(
                "() => getComputedStyle([...document.querySelectorAll('pre span')]"
                ".find(s => s.textContent.startsWith('Below rated'))).color"
            )
            swapped = simulated("swapped", days=10)
            view.set_content(page(report(assess(swapped.installation, swapped.trace()), ()), "$"))
            broken = view.inner_text("pre")
            browser.close()
        self.assertLess(width, 1280)
        self.assertGreater(height, 400)
        self.assertEqual([url for url in asked if not url.startswith("about:")], [])
        self.assertEqual(colour, "rgb(181, 67, 26)")  # ember: wants attention
        shown = f"{found.main.cop.value:.2f}"
        sum_line = next(line for line in text.splitlines() if line.strip().startswith("COP"))
        self.assertIn(shown, sum_line)
        self.assertLessEqual(max(len(line) for line in text.splitlines()), WIDTH)
        self.assertIn("no COP is stated", broken)
