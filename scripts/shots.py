"""make shots: pictures of the screens and of what the commands print, from the demo data."""

import atexit
import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from dataclasses import replace
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
# On a copy: a logger is made for the picture, and the demo stays as it was.
VAR = Path(tempfile.mkdtemp(prefix="ember-shots-"))
atexit.register(shutil.rmtree, VAR, ignore_errors=True)
shutil.copytree(ROOT / "var", VAR, dirs_exist_ok=True)
os.environ["EMBER_VAR"] = str(VAR)
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings.demo")
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"

import django  # noqa: E402

django.setup()

from django.core.management import call_command  # noqa: E402
from playwright.sync_api import Browser, Page, sync_playwright  # noqa: E402

from ember.assessment.assess import assess  # noqa: E402
from ember.description.as_json import read_installation  # noqa: E402
from ember.intake import read_log  # noqa: E402
from ember.rated import read_table  # noqa: E402
from server.accounts.demo import entrance  # noqa: E402
from server.assessments.page import page  # noqa: E402
from server.assessments.present import report  # noqa: E402
from server.jobs.serving import commands  # noqa: E402
from server.systems.models import System  # noqa: E402
from server.testing import CHROMIUM, CHROMIUM_ARGUMENTS  # noqa: E402

SHOTS = ROOT / "docs" / "screenshots"
PORT = 8177
DAY = "from=2026-01-28&to=2026-01-28"
YEAR = "from=2025-11-01&to=2026-10-31"


def main() -> None:
    """One picture for each view and each kind of result."""
    call_command("collectstatic", interactive=False, verbosity=0)
    web = subprocess.Popen(commands(PORT)["web"], cwd=ROOT)
    try:
        _wait()
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_ARGUMENTS)
            _screens(browser)
            _commands(browser)
            browser.close()
    finally:
        web.terminate()
        web.wait(10)


def _wait() -> None:
    for _ in range(100):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{PORT}/api/v1/me").read()
            return
        except OSError:
            time.sleep(0.1)
    raise SystemExit("The web server does not answer.")


def _screens(browser: Browser) -> None:
    keys = {system.name: system.pk for system in System.objects.all()}
    school = keys["School house"]
    brushed = "sel=2026-01-28T05:10_2026-01-28T09:40"
    views = (
        ("fleet", "light", "/fleet"),
        ("running-day", "light", f"/systems/{school}/running?{DAY}&{brushed}"),
        ("running-runs", "light", f"/systems/{school}/running?view=runs&{YEAR}"),
        ("running-defrosts", "light", f"/systems/{keys['Bait shed']}/running?view=defrosts"),
        ("running-hot-water", "light", f"/systems/{keys['Nursery']}/running?view=hot-water&{YEAR}"),
        ("running-control", "light", f"/systems/{keys['Weaving shed']}/running?view=control"),
        ("trust", "light", f"/systems/{keys['Chandlery']}/trust"),
        ("rating", "light", f"/systems/{school}/rating?{YEAR}"),
        ("rating-same", "light", f"/systems/{school}/rating?view=same&{YEAR}"),
        ("rating-table", "light", f"/systems/{school}/rating?view=table&{YEAR}"),
        ("rating-house", "light", f"/systems/{keys['Rope walk']}/rating?view=house"),
        ("setup", "light", f"/systems/{school}/setup"),
        ("log-by-hand", "light", f"/systems/{keys['Nursery']}/log?part=hand"),
        ("season", "light", f"/systems/{keys['Nursery']}/season?{YEAR}"),
        ("money", "light", f"/systems/{school}/money?{YEAR}"),
        ("changes", "light", f"/systems/{keys['Nursery']}/changes?change=2026-01-28"),
    )
    for name, scheme, path in views:
        view = _page(browser, scheme, path)
        view.screenshot(path=SHOTS / f"{name}.png")
        view.context.close()
    view = _page(browser, "light", f"/systems/{school}/running?{DAY}&{brushed}")
    view.get_by_test_id("cop").click()
    view.get_by_label("The sum as text").get_by_text("RECKONING").wait_for()
    view.screenshot(path=SHOTS / "proof.png")
    view.context.close()
    view = _page(browser, "light", f"/systems/{keys['Nursery']}/log")
    view.get_by_label("Log files").set_input_files(ROOT / "var" / "demo" / "nursery-next.csv")
    view.get_by_test_id("preview").wait_for()
    view.wait_for_timeout(500)
    view.screenshot(path=SHOTS / "log.png")
    view.get_by_role("button", name="Forget it").click()
    view.context.close()


def _page(browser: Browser, scheme: str, path: str) -> Page:
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, color_scheme=scheme, locale="en-GB"
    )
    context.request.get(entrance(f"http://127.0.0.1:{PORT}"))
    view = context.new_page()
    view.goto(f"http://127.0.0.1:{PORT}{path}")
    view.wait_for_load_state("networkidle")
    view.wait_for_timeout(400)
    return view


def _commands(browser: Browser) -> None:
    view = browser.new_page(viewport={"width": 1280, "height": 800})
    for key in ("below-rated",):
        folder = ROOT / "var" / "demo" / key
        installation = read_installation(folder / "installation.json")
        trace, intake = read_log(folder / "log.csv", installation)
        rated = read_table(folder / "rated.csv")
        result = assess(replace(installation, rated=rated), trace)
        command = "$ python manage.py assess log.csv --installation installation.json --rated …"
        view.set_content(page(report(result, (intake,)), command))
        view.screenshot(path=SHOTS / f"assess-{key}.png", full_page=True)


if __name__ == "__main__":
    main()
