"""A season in a typical year, and bins, on the TMY3 year that pvlib ships."""

from pathlib import Path
from unittest import TestCase

import numpy as np
import pandas as pd
import pvlib

from ember.basis.codes import ReasonCode
from ember.intake.weather import typical_year
from ember.messages import NotAvailable
from ember.season import Signature, bins, normal_year
from tests.core.test_before_after import YEAR, bent, bent_stretch, stretch


class TypicalYear(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.path = Path(pvlib.__file__).parent / "data" / "703165TY.csv"
        cls.hourly = typical_year(cls.path)["outdoor_temp"]

    def test_sums_are_those_of_days_of_like_weather(self) -> None:
        """Daily means by pandas; by hand the signature's line and what the season's days within
        1 K of each lie off it, where there are four."""
        seen = stretch(1, 270, 220, 4.0)
        fit = seen.electricity
        assert isinstance(fit, Signature) and seen.daily is not None
        found = normal_year(seen, self.hourly + 4.0)  # as cold as the season was
        assert not isinstance(found.electricity, NotAvailable)
        index = pd.date_range("2001-01-01", periods=8760, freq="h")
        days = pd.Series(self.hourly + 4.0, index).resample("D").mean().to_numpy()
        by_hand, own = 0.0, seen.daily.outdoor
        off = seen.daily.electricity - fit.base - fit.slope * np.maximum(fit.knee - own, 0)
        for day in days:
            near = off[np.abs(own - day) <= 1.0]
            line = fit.base + fit.slope * max(fit.knee - day, 0)
            by_hand += line + (near.mean() if len(near) >= 4 else 0.0)
        self.assertAlmostEqual(found.electricity.value, by_hand, 6)
        low, high = np.quantile(seen.daily.outdoor, [0.05, 0.95])
        self.assertEqual((found.colder, found.warmer), ((days < low).sum(), (days > high).sum()))
        self.assertAlmostEqual(
            found.degree_days.heating, np.maximum(15.0 - self.hourly - 4.0, 0).sum() / 24, 6
        )

    def test_a_unit_whose_cop_falls_with_the_cold(self) -> None:
        """An autumn of invented days, in the weather of a spring: the truth is known; a straight
        line through the autumn's days lies to one side of it."""
        away, lines, off = [], [], []
        spring = YEAR[28:108]
        truth = float(bent(spring).sum())
        for seed in range(60):
            autumn = bent_stretch(seed, 255, 140)
            found, fit = normal_year(autumn, np.repeat(spring, 24)).electricity, autumn.electricity
            assert not isinstance(found, NotAvailable) and isinstance(fit, Signature)
            off.append(found.value - truth)
            away.append(abs(off[-1]) / (1.96 / 2 * found.U))
            lines.append(float(fit.at(spring).sum()) - truth)
        self.assertGreaterEqual(np.mean(np.array(away) <= 1), 0.9)
        self.assertGreater(abs(np.mean(lines)), 0.005 * truth)
        self.assertLess(abs(np.mean(off)), 0.4 * abs(np.mean(lines)))

    def test_a_year_far_colder_has_no_sum(self) -> None:
        found = normal_year(stretch(1, 270, 220, 4.0), self.hourly - 12.0)
        assert isinstance(found.electricity, NotAvailable)
        self.assertEqual(found.electricity.reason.code, ReasonCode.COLDER_THAN_SEEN)
        self.assertIsNone(found.cop)

    def test_bins_are_those_of_pandas(self) -> None:
        found = bins(self.hourly)
        edges = [one.low for one in found] + [found[-1].low + 2.0]
        theirs = pd.cut(self.hourly, edges, right=False).value_counts().to_list()
        self.assertEqual([one.hours for one in found], theirs)
        self.assertEqual(sum(one.hours for one in found), 8760)
        lacking = self.hourly.copy()
        lacking[:100] = np.nan
        self.assertEqual(sum(one.hours for one in bins(lacking)), 8660)
        self.assertEqual(bins(np.full(3, np.nan)), [])
