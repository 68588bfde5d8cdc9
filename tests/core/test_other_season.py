"""Stretches of other seasons: the sun against pvlib, dates against a brute-force count, and a
made-up house into which the sun shines and at which nothing was changed."""

from dataclasses import replace
from datetime import date
from unittest import TestCase

import numpy as np
import pandas as pd
from pvlib.irradiance import get_extra_radiation
from pvlib.solarposition import get_solarposition

from ember.assessment.assess import assessed
from ember.assessment.record_analysis import analyse_record
from ember.basis.codes import SourceCode
from ember.basis.periods import Period
from ember.basis.quantity import Estimate
from ember.basis.series import Trace
from ember.messages import NotAvailable
from ember.season import Worth, avoided, before_after, normal_year, season_seen
from ember.season.before_after import Changed
from ember.season.other_season import CLEARNESS, SUN_USUAL, apart_in_season, usual_sun
from ember.season.season import Filled
from ember.views.change_seen import ChangeSeen, change_seen, stretches
from stand_ins.scenario import simulate
from stand_ins.varrick import INSTALLATIONS
from tests.core.test_before_after import YEAR, stretch

DAY = 86_400.0


def part(found: Estimate, code: SourceCode) -> float:
    """What one source gives to an estimate."""
    return float(sum(one.u for one in found.budget if one.cause.code == code))


class Sun(TestCase):
    def test_is_that_of_pvlib(self) -> None:
        """Extraterrestrial radiation times the sine of the sun's height, over the minutes of days
        of all seasons, by pvlib; within 3 % and 2 W/m²."""
        for latitude in (-37.0, 0.0, 38.0, 55.0, 68.0):
            for day in ("2026-01-15", "2026-03-21", "2026-06-10", "2026-10-02"):
                minutes = pd.date_range(day, periods=1440, freq="min", tz="UTC")
                height = get_solarposition(minutes, latitude, 0.0)["elevation"].to_numpy()
                day_of_year = minutes.day_of_year.to_numpy()[:1]
                given = float(get_extra_radiation(day_of_year)[0])
                theirs = (given * np.clip(np.sin(np.radians(height)), 0, None)).mean()
                start = np.array([minutes[0].timestamp()])
                mine = usual_sun(start, latitude)[0] / CLEARNESS
                self.assertAlmostEqual(mine, theirs, delta=0.03 * theirs + 2.0)


class Dates(TestCase):
    def test_days_without_a_like_date(self) -> None:
        """Against the distance of every pair, round the year."""
        rng = np.random.default_rng(4)
        for _ in range(20):
            first, second = (
                (float(rng.uniform(0, 365)) + np.arange(int(rng.integers(20, 200)))) * DAY
                for _ in range(2)
            )
            later = second + 365.25 * DAY * int(rng.integers(0, 3))
            away = np.abs(first[:, None] / DAY % 365.25 - second[None, :] / DAY % 365.25)
            near = np.minimum(away, 365.25 - away).min(axis=1)
            self.assertAlmostEqual(apart_in_season(first, later), float((near > 14).mean()))
        self.assertEqual(apart_in_season(first, np.empty(0)), 1.0)

    def test_a_year_apart_nothing_is_added(self) -> None:
        """Two winters, the same dates; a spring after an autumn beside them."""
        one, other = stretch(1, 270, 220, 4.0), stretch(501, 270, 220, 3.5)
        found = before_after(one, other, YEAR).electricity
        assert isinstance(found, Changed)
        total = found.after.value
        self.assertEqual(part(found.after, SourceCode.OTHER_SEASON), 0.0)
        self.assertLess(abs(part(found.after, SourceCode.SUN_NOT_LOGGED)), 0.003 * total)
        autumn = stretch(1, 270, 110, 4.0)
        daily = stretch(2, 15, 130, 4.0).daily
        assert daily is not None
        spring = replace(
            stretch(2, 15, 130, 4.0), daily=replace(daily, start=daily.start + 110 * DAY)
        )
        apart = before_after(autumn, spring, YEAR).electricity
        if isinstance(apart, Changed):
            self.assertGreater(part(apart.after, SourceCode.OTHER_SEASON), 0.02 * apart.after.value)

    def test_a_season_in_another_years_weather(self) -> None:
        """A winter laid over a year: what its sun and seasons lack stands in the budget."""
        found = normal_year(stretch(1, 270, 220, 4.0), np.repeat(YEAR, 24)).electricity
        assert not isinstance(found, NotAvailable)
        self.assertGreater(part(found, SourceCode.OTHER_SEASON), 0.0)


class UntouchedHouse(TestCase):
    """Healthy, untouched, with 5 m² of windows: the sun spares it heat in spring."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.scenario = replace(INSTALLATIONS["glazed"], days=190)
        done = cls.done = simulate(cls.scenario)
        cls.whole = assessed(done.installation, done.trace())[1]
        dark = {k: v for k, v in done.trace().channels.items() if k != "solar_radiation"}
        cls.unlit = assessed(done.installation, replace(done.trace(), channels=dark))[1]

    def found(self, within, day: date) -> ChangeSeen:
        return change_seen(within.analysis, within.found.hours, stretches(within.analysis, day))

    def test_nobody_is_praised_for_the_spring(self) -> None:
        praised = 0
        for day in (date(2026, 1, 10), date(2026, 1, 28), date(2026, 2, 10)):
            for within in (self.whole, self.unlit):
                found = self.found(within, day)
                told = found.compared.electricity
                assert isinstance(told, Changed)
                self.assertEqual(told.worth, Worth.NOT_TOLD)
                self.assertIn("same months of another year", found.advice)
                assert found.same_rooms is not None
                self.assertEqual(found.same_rooms.worth, Worth.NOT_TOLD)
                for one in (found.avoided_electricity, found.avoided_heat):
                    self.assertEqual(one.worth, Worth.NOT_TOLD)
                season = (SourceCode.SUN_NOT_LOGGED, SourceCode.OTHER_SEASON)
                rest = sum(p.u**2 for p in told.saved.budget if p.cause.code not in season)
                praised += told.saved.value > 1.96 * np.sqrt(rest)
        self.assertGreaterEqual(praised, 4)  # without the season in the sum it would have been

    def test_the_weight_of_the_sun_is_that_of_the_windows(self) -> None:
        """100 W/m² through 5 m², over the heat loss of the house [K]."""
        plant = self.scenario.plant
        truth = 100.0 * plant.windows / plant.heat_loss
        self.assertLess(truth, SUN_USUAL)
        sun = self.found(self.whole, date(2026, 1, 28)).same_rooms.sun
        self.assertLess(abs(sun.value - truth), sun.U)
        self.assertLess(sun.U, 0.5)
        self.assertIsNone(self.found(self.unlit, date(2026, 1, 28)).same_rooms.sun)

    def test_with_the_sun_logged_the_change_is_told_more_narrowly(self) -> None:
        lit, unlit = (
            self.found(one, date(2026, 1, 28)).same_rooms.electricity.U
            for one in (self.whole, self.unlit)
        )
        self.assertLess(lit, 0.5 * unlit)

    def test_avoided_of_a_later_season_holds_its_sun(self) -> None:
        sides = self.found(self.unlit, date(2026, 1, 28)).sides
        found = avoided(*sides, "heat")
        self.assertGreater(abs(part(found.expected, SourceCode.SUN_NOT_LOGGED)), 0.0)
        self.assertGreater(abs(part(found.expected, SourceCode.OTHER_SEASON)), 0.0)

    def test_what_lacks_of_a_spring_is_filled_with_the_winter_and_its_doubt(self) -> None:
        """Six weeks of readings lost at the end, or three in the middle of winter; the truth is the
        house's own record."""
        done = self.done
        whole, truth = done.trace(), done.truth_heat()
        step = len(whole) // self.scenario.days
        told = {}
        for name, first, last in (("spring", 148, 190), ("winter", 80, 101)):
            lost = np.zeros(len(whole), bool)
            lost[first * step : last * step] = True
            kept = {
                channel: values if channel == "outdoor_temp" else np.where(lost, np.nan, values)
                for channel, values in whole.channels.items()
                if channel != "solar_radiation"
            }
            analysis = analyse_record(done.installation, Trace(whole.start, whole.step, kept))
            seen = season_seen(analysis, Period("all", analysis.start, analysis.stop))
            filled = seen.whole.filled
            assert isinstance(filled, Filled)
            self.assertLess(abs(filled.heat.value - truth), filled.heat.U, name)
            told[name] = filled.heat
        self.assertGreater(part(told["spring"], SourceCode.OTHER_SEASON), 0.0)
        self.assertEqual(part(told["winter"], SourceCode.OTHER_SEASON), 0.0)
        sun = [abs(part(told[name], SourceCode.SUN_NOT_LOGGED)) for name in ("spring", "winter")]
        self.assertGreater(sun[0], 2 * sun[1])
