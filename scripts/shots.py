"""make shots: pictures of what the commands print, from the demo data."""

import os
import sys
from dataclasses import replace
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")

from playwright.sync_api import sync_playwright  # noqa: E402

from ember.assess import assess  # noqa: E402
from ember.description import read_installation  # noqa: E402
from ember.intake import read_log  # noqa: E402
from ember.rating import read_table  # noqa: E402
from server.analysis.page import page  # noqa: E402
from server.analysis.present import report  # noqa: E402
from server.testing import CHROMIUM, CHROMIUM_ARGUMENTS  # noqa: E402

SHOTS = ROOT / "docs" / "screenshots"


def main() -> None:
    """One picture for each kind of result."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_ARGUMENTS)
        view = browser.new_page(viewport={"width": 1280, "height": 800})
        for key in ("below-rated", "swapped"):
            folder = ROOT / "var" / "demo" / key
            installation = read_installation(folder / "installation.json")
            trace, intake = read_log(folder / "log.csv", installation)
            rated = read_table(folder / "rated.csv")
            result = assess(replace(installation, rated=rated), trace)
            command = "$ python manage.py assess log.csv --installation installation.json --rated …"
            view.set_content(page(report(result, intake), command))
            view.screenshot(path=SHOTS / f"assess-{key}.png", full_page=True)
        browser.close()


if __name__ == "__main__":
    main()
