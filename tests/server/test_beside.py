"""assess --fuel and --trial: what the screens show of them, from files and without a database."""

import io
import json
import tempfile
from datetime import date, timedelta
from pathlib import Path

import numpy as np
import pandas as pd
import statsmodels.api as sm
from django.core.management import CommandError, call_command
from django.test import SimpleTestCase

TRIAL = {"a": "curve at 45", "b": "curve at 42", "first": "2025-10-06", "days": 84, "block": 3,
         "carry": 1, "seed": 4}  # fmt: skip


class BesideIt(SimpleTestCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        call_command("simulate", str(cls.folder), "--scenario", "as-rated", "--days", "120",
                     "--first-day", "2025-10-01", stdout=io.StringIO())  # fmt: skip
        log, described = cls.folder / "log.csv", cls.folder / "installation.json"
        cls.words = [str(log), "--installation", str(described)]

    def file(self, content: object) -> str:
        path = self.folder / "asked.json"
        path.write_text(content if isinstance(content, str) else json.dumps(content))
        return str(path)

    def assess(self, *more: str) -> str:
        out = io.StringIO()
        call_command("assess", *self.words, *more, stdout=out)
        return out.getvalue()

    def test_a_fuel_in_json(self) -> None:
        """Propane at 1.80 a gallon and 94 %: 20.97 a million Btu (handbook, check value)."""
        asked = {"kind": "propane", "price": 1.8, "unit": "US gallon", "efficiency": 0.94}
        found = json.loads(self.assess("--fuel", self.file(asked), "--json", "-"))
        (fuel,) = found["fuels"]
        self.assertAlmostEqual(fuel["per_mmbtu"], 20.97, 2)
        self.assertAlmostEqual(fuel["per_therm"], fuel["per_kwh"] * 29.3071, 9)
        total = found["assessment"]["total"]
        paid = total["cost"]["average_price"]
        self.assertAlmostEqual(fuel["needed_cop"], paid / fuel["per_kwh"], 9)
        sums = total["reckonings"][-1]
        heat, used = (sums[name]["value"] for name in ("heat", "electricity"))
        self.assertAlmostEqual(fuel["saved"]["value"], heat * fuel["per_kwh"] - used * paid, 6)
        self.assertGreater(fuel["saved"]["U"], 0)
        self.assertIsNone(fuel["payback_reason"])  # no purchase was asked for

    def test_a_unit_by_its_usual_content(self) -> None:
        """A bag of 15 kg of pellets at 4.8 kWh/kg and 85 %, common practice: 61.2 kWh."""
        asked = {"kind": "pellets", "price": 6.12, "unit": "bag of 15 kg", "purchase": 9000}
        (fuel,) = json.loads(self.assess("--fuel", self.file(asked), "--json", "-"))["fuels"]
        self.assertAlmostEqual(fuel["per_kwh"], 0.1, 9)
        self.assertEqual(fuel["payback_reason"]["code"], "no_year")

    def test_a_trial_in_json(self) -> None:
        """The same by statsmodels' least squares on base, slope and setting of the days."""
        found = json.loads(self.assess("--trial", self.file(TRIAL), "--json", "-"))
        (trial,) = found["trials"]
        self.assertEqual(len(trial["schedule"]), 84)
        last = date.fromisoformat(TRIAL["first"]) + timedelta(days=83)
        self.assertEqual(trial["schedule"][-1]["day"], last.isoformat())
        result = trial["result"]
        counted = [d["setting"] for d in trial["schedule"] if d["counts"]]
        self.assertEqual((result["days_a"], result["days_b"]),
                         (counted.count("A"), counted.count("B")))  # fmt: skip
        # Nobody changed a setting of this house.
        self.assertEqual(result["worth"], "cannot be told yet")
        self.assertTrue(trial["sentence"].startswith("Cannot be told yet"))
        log = pd.read_csv(self.folder / "log.csv", index_col="time", parse_dates=True)
        zone = json.loads((self.folder / "installation.json").read_text())["zone"]
        days = log.groupby(log.index.tz_convert(zone).date)
        used = days[["power_unit_w", "power_pump_w", "power_backup_w"]].sum().sum(axis=1) / 60e3
        outdoor = days["outdoor_temp_c"].mean()
        use = [
            (date.fromisoformat(d["day"]), d["setting"]) for d in trial["schedule"] if d["counts"]
        ]
        at, with_b = [day for day, _ in use], [setting == "B" for _, setting in use]
        by = np.column_stack([-outdoor.loc[at], with_b]).astype(float)
        fitted = sm.OLS(used.loc[at].to_numpy(), sm.add_constant(by)).fit()
        self.assertAlmostEqual(
            -fitted.params[2], result["less"]["value"], delta=0.2 * result["less"]["U"]
        )
        self.assertAlmostEqual(
            2 * fitted.bse[2], result["less"]["U"], delta=0.5 * result["less"]["U"]
        )

    def test_on_the_terminal(self) -> None:
        said = self.assess("--fuel", self.file({"kind": "gas", "price": 0.11}))
        self.assertIn("HEAT BY NATURAL GAS", said)
        self.assertRegex(said, r"COP from which the heat pump is cheaper +2\.\d\d")
        self.assertRegex(said, r"saved in this period +\d+ ± \d+ EUR")
        said = self.assess("--trial", self.file({**TRIAL, "first": "2027-10-06"}))
        self.assertIn("TRIAL OF 2027-10-06 TO 2027-12-28", said)
        self.assertIn("It has not begun.", said)

    def test_what_is_none_is_refused_in_words(self) -> None:
        for asked, said in (
            ({"kind": "coal", "price": 1}, "'coal' is none of gas, oil, propane"),
            ({"kind": "gas", "price": 1, "unit": "cord"}, "'cord' is none of kWh, m³, therm"),
            ({"kind": "gas", "price": 0}, "price: 0 is not above zero"),
            ({"kind": "gas"}, "price"),
            ({"kind": "gas", "price": 1, "colour": "blue"}, "colour"),
            ("{", "fuel: "),
        ):
            with self.subTest(asked), self.assertRaisesRegex(CommandError, said):
                self.assess("--fuel", self.file(asked))
        for changed, said in (({"carry": 3}, "carry: fewer days"), ({"seed": "odd"}, "seed")):
            with self.subTest(changed), self.assertRaisesRegex(CommandError, said):
                self.assess("--trial", self.file({**TRIAL, **changed}))
        with self.assertRaisesRegex(CommandError, "cannot be read"):
            self.assess("--fuel", str(self.folder / "none.json"))
