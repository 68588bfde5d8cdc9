"""The season: signature, degree-days, what is filled.

References: statsmodels (HAC errors after Newey and West), pandas over the TMY3 file of pvlib,
a grid of knees, the truth of the stand-in.
"""

from dataclasses import replace
from pathlib import Path
from unittest import TestCase

import numpy as np
import pandas as pd
import pvlib
import statsmodels.api as sm

from ember.assessment.record_analysis import analyse_record
from ember.basis.codes import ReasonCode
from ember.basis.periods import Period
from ember.basis.quantity import convert
from ember.basis.series import Trace
from ember.messages import NotAvailable
from ember.season import (
    Crossing,
    Signature,
    break_even,
    by_daily_means,
    by_hours,
    season_seen,
    signature,
)
from ember.season.signature import lags_of
from stand_ins.catalogue import random_season
from stand_ins.scenario import simulate
from tests.core.helpers import installation, steady

TMY3 = Path(pvlib.__file__).parent / "data" / "723170TYA.CSV"


def days_of(seed: int, days: int = 300, kinship: float = 0.5):
    """Invented days: 12 kWh of hot water, 4 kWh/K below 15.3 °C, weather and scatter akin."""
    rng = np.random.default_rng(seed)
    noise = rng.normal(0, 6, days)
    for k in range(1, days):
        noise[k] += kinship * noise[k - 1]
    outdoor = 9 - 11 * np.cos(2 * np.pi * np.arange(days) / 365) + rng.normal(0, 3, days)
    return outdoor, 12 + 4 * np.maximum(15.3 - outdoor, 0) + noise


def found_of(outdoor, energy) -> Signature:
    found = signature(outdoor, energy)
    assert isinstance(found, Signature)
    return found


class Signatures(TestCase):
    def test_base_slope_and_errors_are_those_of_statsmodels(self) -> None:
        for seed in range(4):
            outdoor, energy = days_of(seed)
            mine = found_of(outdoor, energy)
            self.assertTrue(mine.bends)
            by = np.column_stack(
                [
                    np.ones_like(outdoor),
                    np.maximum(mine.knee - outdoor, 0),
                    mine.slope * (outdoor < mine.knee),
                ]
            )
            lags = lags_of(mine.kinship, len(outdoor))
            self.assertGreater(lags, 5)
            # Linearised at the optimum (Gauss and Newton), where a step is next to none.
            rest = energy - mine.at(outdoor)
            theirs = sm.OLS(rest, by).fit(
                cov_type="HAC", cov_kwds={"maxlags": lags, "use_correction": True}
            )
            b = (lags + 1) / len(outdoor)
            wider = (1.96 + 2.9694 * b + 0.4160 * b**2 - 0.5324 * b**3) / 1.96
            self.assertGreater(wider, 1.02)
            np.testing.assert_allclose(mine.covariance, theirs.cov_params() * wider**2, rtol=2e-3)
            straight = sm.OLS(energy, by[:, :2]).fit()
            np.testing.assert_allclose([mine.base, mine.slope], straight.params, rtol=1e-9)
            self.assertAlmostEqual(mine.r2, straight.rsquared, 9)

    def test_the_knee_is_the_best_of_a_fine_grid(self) -> None:
        for seed in range(6):
            outdoor, energy = days_of(seed)
            grid = np.arange(2, 20, 0.005)
            squares = [
                sm.OLS(energy, sm.add_constant(np.maximum(knee - outdoor, 0))).fit().ssr
                for knee in grid[::20]
            ]
            near = grid[::20][int(np.argmin(squares))]
            fine = np.arange(near - 0.1, near + 0.1, 0.005)
            best = fine[
                int(
                    np.argmin(
                        [
                            sm.OLS(energy, sm.add_constant(np.maximum(k - outdoor, 0))).fit().ssr
                            for k in fine
                        ]
                    )
                )
            ]
            self.assertAlmostEqual(found_of(outdoor, energy).knee, best, delta=0.02)

    def test_the_truth_lies_within_the_stated_errors(self) -> None:
        """k = 2 in at least 90 % of 100 seeds, with days that are akin; and U is not padded."""
        away = []
        for seed in range(100):
            mine = found_of(*days_of(seed))
            away.append(
                (np.array([mine.base, mine.slope, mine.knee]) - [12, 4, 15.3]) / mine.errors
            )
        away = np.abs(np.array(away))
        self.assertTrue(((away <= 2).mean(axis=0) >= 0.88).all(), (away <= 2).mean(axis=0))
        self.assertTrue((np.median(away, axis=0) > 0.35).all())

    def test_a_winter_alone_has_no_knee(self) -> None:
        rng = np.random.default_rng(1)
        outdoor = rng.uniform(-8, 8, 90)
        mine = found_of(outdoor, 12 + 4 * (15 - outdoor) + rng.normal(0, 5, 90))
        self.assertFalse(mine.bends)
        self.assertAlmostEqual(mine.slope, 4, delta=0.5)
        self.assertEqual(mine.errors[2], 0)

    def test_what_cannot_be_told_is_not(self) -> None:
        rng = np.random.default_rng(2)
        few, alike, summer = (
            signature(rng.uniform(0, 10, 12), rng.uniform(20, 40, 12)),
            signature(rng.uniform(4, 6, 60), rng.uniform(20, 40, 60)),
            signature(np.linspace(0, 20, 60), np.linspace(10, 40, 60)),
        )
        for found, code in (
            (few, ReasonCode.TOO_FEW_DAYS),
            (alike, ReasonCode.WEATHER_ALIKE),
            (summer, ReasonCode.NO_SLOPE),
        ):
            assert isinstance(found, NotAvailable)
            self.assertEqual(found.reason.code, code)


class DegreeDaysOfATypicalYear(TestCase):
    """The TMY3 year of an airport that pvlib ships, against pandas."""

    def setUp(self) -> None:
        year, _ = pvlib.iotools.read_tmy3(TMY3, map_variables=True)
        self.hours = pd.Series(
            year["temp_air"].to_numpy(), pd.date_range("2001", periods=8760, freq="h")
        )

    def test_by_hours_and_by_days(self) -> None:
        for base in (10.0, 15.0, 18.3):
            below = (base - self.hours).clip(lower=0)
            mine = by_hours(self.hours.to_numpy(), base)
            self.assertAlmostEqual(mine.heating, below.resample("D").mean().sum(), 6)
            daily = self.hours.resample("D").mean()
            mine = by_daily_means(daily.to_numpy(), base)
            self.assertAlmostEqual(mine.heating, (base - daily).clip(lower=0).sum(), 6)
            self.assertAlmostEqual(mine.cooling, (daily - base).clip(lower=0).sum(), 6)
        self.assertEqual(mine.days, 365)

    def test_hours_that_are_not_known_count_for_none(self) -> None:
        some = self.hours.to_numpy().copy()
        some[:240] = np.nan
        self.assertEqual(by_hours(some, 15.0).days, 355)


def broken_season(seed: int):
    """A random season with three weeks of its readings lost, but for the weather; and the truth."""
    done = simulate(random_season(seed))
    whole = done.trace()
    step = whole.step
    day = 86_400 // step
    rng = np.random.default_rng(seed)
    first = int(rng.integers(10, len(whole) // day - 35)) * day
    lost = np.zeros(len(whole), bool)
    lost[first : first + 21 * day] = True
    kept = {
        name: values if name == "outdoor_temp" else np.where(lost, np.nan, values)
        for name, values in whole.channels.items()
    }
    trace = Trace(whole.start, step, kept)
    return done, analyse_record(done.installation, trace)


class Filling(TestCase):
    def test_what_lacks_is_filled_within_its_uncertainty(self) -> None:
        away = []
        for seed in range(8):
            done, analysis = broken_season(seed)
            seen = season_seen(analysis, Period("all", analysis.start, analysis.stop))
            filled = seen.whole.filled
            if filled is None or isinstance(filled, NotAvailable):
                continue  # counted by registers that went on, or too warm a season
            every = np.ones(len(done.trace()), bool)
            level = seen.level.value if seen.level else ""
            heat, used = done.truth_heat(every), done.truth_electricity(level, every)
            self.assertGreater(filled.share, 0.01)
            for mine, truth in (
                (filled.heat, heat),
                (filled.electricity, used),
                (filled.cop, heat / used),
            ):
                away.append(abs(mine.value - truth) / mine.U)
        self.assertGreaterEqual(len(away), 12)
        self.assertGreaterEqual(np.mean(np.array(away) <= 1), 0.9, away)

    def test_where_the_cop_crosses_the_one_that_is_needed(self) -> None:
        done = simulate(random_season(3))
        analysis = analyse_record(done.installation, done.trace())
        seen = season_seen(analysis, Period("all", analysis.start, analysis.stop))
        reckoning = seen.whole.figures.reckonings[-1]
        assert seen.daily is not None and reckoning.cop is not None
        found = break_even(seen, reckoning.cop.value)
        assert not isinstance(found, NotAvailable)
        self.assertEqual(found.crossing, Crossing.CROSSES)
        assert found.outdoor is not None
        # statsmodels' weighted least squares gives the same line.
        use = seen.used & (seen.daily.electricity > 0) & (seen.daily.heat > 0)
        outdoor, used = seen.daily.outdoor[use], seen.daily.electricity[use]
        line = sm.WLS(seen.daily.heat[use] / used, sm.add_constant(outdoor), used).fit()
        np.testing.assert_allclose([found.at_zero, found.per_kelvin], line.params, rtol=1e-9)
        at = (reckoning.cop.value - line.params[0]) / line.params[1]
        self.assertAlmostEqual(found.outdoor.value, at, 9)
        self.assertGreater(found.outdoor.U, 0.1)
        self.assertEqual(found.days_dearer + found.days_cheaper, int(use.sum()))
        self.assertAlmostEqual(
            found.heat_dearer + found.heat_cheaper, float(seen.daily.heat[use].sum()), 6
        )
        for needed, crossing in (
            (0.8, Crossing.ALWAYS_CHEAPER),
            (9.0, Crossing.NEVER_CHEAPER),
        ):
            found = break_even(seen, needed)
            assert not isinstance(found, NotAvailable)
            self.assertEqual(found.crossing, crossing)
            self.assertIsNone(found.outdoor)

    def test_nothing_is_filled_where_nothing_lacks(self) -> None:
        analysis = analyse_record(installation(), steady(hours=48))
        seen = season_seen(analysis, Period("all", analysis.start, analysis.stop))
        self.assertIsNone(seen.whole.filled)
        assert isinstance(seen.heat, NotAvailable)
        self.assertEqual(seen.heat.reason.code, ReasonCode.TOO_FEW_DAYS)
        assert seen.whole.degree_days is not None
        self.assertAlmostEqual(seen.whole.degree_days.heating, 2 * 13.0, 6)  # 2 °C, base 15 °C
        self.assertAlmostEqual(seen.whole.outdoor or 0, 2.0, 9)

    def test_units_of_a_season(self) -> None:
        """20,000 kWh on 1,500 ft² (139.35 m²) is 45.5 kBtu/ft² (handbook, check value); 1 W/K is
        1.8956 Btu/(h·°F), 1 K·d is 1.8 °F·d, by definition of the units."""
        self.assertAlmostEqual(
            convert(20_000 / (1500 * 0.3048**2), "kWh_per_m2", "kBtu_per_ft2"), 45.5, 1
        )
        self.assertAlmostEqual(convert(1, "watt_per_kelvin", "Btu_per_h_degF"), 1.8956, 4)
        self.assertAlmostEqual(convert(1, "kelvin_day", "degF_day"), 1.8, 9)

    def test_heat_by_the_floor_is_of_a_year_alone(self) -> None:
        house = replace(installation().house, floor_area_m2=100.0)
        for days, known in ((365, True), (60, False)):
            analysis = analyse_record(installation(house=house), steady(hours=24 * days, step=900))
            seen = season_seen(analysis, Period("all", analysis.start, analysis.stop))
            self.assertEqual(seen.heat_per_area is not None, known)
            if seen.heat_per_area is not None:
                heat = seen.whole.figures.reckonings[-1].heat
                self.assertAlmostEqual(seen.heat_per_area.value, (heat.value if heat else 0) / 100)
                used = seen.whole.figures.reckonings[-1].electricity
                assert seen.electricity_per_area is not None
                self.assertAlmostEqual(seen.electricity_per_area.value, used.value / 100)

    def test_degree_days_to_any_base(self) -> None:
        """Steady weather at 2 °C: days × (base − 2), by days and by hours."""
        analysis = analyse_record(installation(), steady(hours=48, step=900))
        period = Period("all", analysis.start, analysis.stop)
        for base in (0.0, 12.0, 18.5):
            seen = season_seen(analysis, period, np.full(48, 2.0), base)
            for found in (seen.degree_days, seen.whole.degree_days):
                assert found is not None
                self.assertAlmostEqual(found.heating, 2 * max(base - 2.0, 0.0), 6)
                self.assertEqual(found.base, base)

    def test_the_loss_of_a_house_is_set_beside_the_surveys(self) -> None:
        done = simulate(random_season(3))
        described = done.installation
        house = replace(described.house, heat_loss_kw=6.0, design_outdoor=-10.0, design_indoor=20.0)
        analysis = analyse_record(replace(described, house=house), done.trace())
        seen = season_seen(analysis, Period("all", analysis.start, analysis.stop))
        self.assertAlmostEqual(seen.described_loss or 0, 200.0)
        if isinstance(seen.heat, Signature) and seen.loss is not None:
            self.assertAlmostEqual(seen.loss.value, seen.heat.slope * 1000 / 24)
            self.assertGreater(seen.loss.U, 2 * seen.heat.errors[1] * 1000 / 24 * 0.999)
