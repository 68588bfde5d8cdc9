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
from tests.core.test_before_after import stretch


class TypicalYear(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.path = Path(pvlib.__file__).parent / "data" / "703165TY.csv"
        cls.hourly = typical_year(cls.path)["outdoor_temp"]

    def test_sums_are_those_of_the_line_over_its_days(self) -> None:
        """Daily means by pandas; base and slope of the signature by hand."""
        seen = stretch(1, 270, 220, 4.0)
        fit = seen.electricity
        assert isinstance(fit, Signature) and seen.daily is not None
        found = normal_year(seen, self.hourly + 4.0)  # as cold as the season was
        assert not isinstance(found.electricity, NotAvailable)
        index = pd.date_range("2001-01-01", periods=8760, freq="h")
        days = pd.Series(self.hourly + 4.0, index).resample("D").mean().to_numpy()
        by_hand = (fit.base + fit.slope * np.maximum(fit.knee - days, 0)).sum()
        self.assertAlmostEqual(found.electricity.value, by_hand, 6)
        low, high = np.quantile(seen.daily.outdoor, [0.05, 0.95])
        self.assertEqual((found.colder, found.warmer), ((days < low).sum(), (days > high).sum()))
        self.assertAlmostEqual(
            found.degree_days.heating, np.maximum(15.0 - self.hourly - 4.0, 0).sum() / 24, 6
        )

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
