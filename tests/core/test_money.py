"""Tariffs and cost by hand."""

from datetime import date, time
from unittest import TestCase
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd

from ember.assessment.assess import assess
from ember.basis.clock import instant_of
from ember.basis.errors import DescriptionError
from ember.basis.quantity import convert
from ember.basis.series import Trace
from ember.cost import (
    FUELS,
    HeatingValue,
    break_even_cop,
    cost_of_heat,
    fuel_named,
    windows,
)
from ember.cost.fuels import MMBTU
from ember.description.installation import Band, Tariff
from tests.core.helpers import installation, steady

NIGHT = Band("night", 0.15, time(23, 30), time(5, 30))
TARIFF = Tariff(price=0.30, standing_charge=0.50, bands=(NIGHT,))


def hours_of(day: date, zone: ZoneInfo) -> float:
    """Length of the night window that begins on a day [h]."""
    begin = instant_of(day, zone)
    found = windows(TARIFF, begin, begin + 86400, zone)
    at = np.searchsorted(found.start, instant_of(day, zone, 23 * 3600))
    return float(found.stop[at] - found.start[at]) / 3600


class Windows(TestCase):
    def test_a_window_across_midnight(self) -> None:
        """23:30–05:30 holds 6 h; 7 h on an autumn night with the repeated hour, 5 h in spring."""
        zone = ZoneInfo("CET")
        self.assertEqual(hours_of(date(2026, 1, 10), zone), 6)
        self.assertEqual(hours_of(date(2025, 10, 25), zone), 7)
        self.assertEqual(hours_of(date(2026, 3, 28), zone), 5)

    def test_the_band_at_an_instant_is_the_wall_clocks(self) -> None:
        zone = ZoneInfo("CET")
        start = instant_of(date(2025, 10, 20), zone)
        instants = start + np.arange(0, 10 * 86400, 900)
        found = windows(TARIFF, start, start + 10 * 86400, zone).band_at(instants)
        wall = pd.to_datetime(instants, unit="s", utc=True).tz_convert("CET")
        clock = wall.hour + wall.minute / 60
        np.testing.assert_array_equal(found == 0, (clock >= 23.5) | (clock < 5.5))

    def test_weekdays_are_those_on_which_a_window_begins(self) -> None:
        friday_night = Band("weekend", 0.1, time(22), time(6), weekdays=(4,))
        zone = ZoneInfo("UTC")
        begin = instant_of(date(2026, 1, 2), zone)  # a Friday
        times = windows(Tariff(price=0.3, bands=(friday_night,)), begin, begin + 3 * 86400, zone)
        at = np.array([begin + h * 3600 for h in (21, 23, 29, 31, 47)])
        self.assertEqual(times.band_at(at).tolist(), [-1, 0, 0, -1, -1])

    def test_two_bands_for_the_same_time_are_refused(self) -> None:
        twice = Tariff(price=0.3, bands=(NIGHT, Band("peak", 0.6, time(5), time(8))))
        with self.assertRaisesRegex(DescriptionError, "'night' and 'peak' overlap"):
            windows(twice, 0, 86400, ZoneInfo("UTC"))


class Cost(TestCase):
    def test_a_day_by_hand(self) -> None:
        """2 kW all day: 12 kWh by night at 0.15, 36 by day at 0.30, 0.50 standing: 13.10."""
        found = assess(installation(tariff=TARIFF), steady(24)).total.cost
        self.assertEqual(
            [(b.band, round(b.electricity.value, 6)) for b in found.bands],
            [("day", 36.0), ("night", 12.0)],
        )
        self.assertAlmostEqual(found.total.value, 36 * 0.30 + 12 * 0.15 + 0.50)
        self.assertAlmostEqual(found.average_price, (36 * 0.30 + 12 * 0.15) / 48)

    def test_a_flat_price(self) -> None:
        """4.2 kWh in 8 h 24 min: 500 W over the run, 175 W over 24 h (hand sum)."""
        found = assess(installation(tariff=Tariff(price=0.2)), steady(8.4, power_unit=500.0))
        self.assertAlmostEqual(found.total.cost.total.value, 4.2 * 0.2)
        self.assertAlmostEqual(found.main.electricity.value / 8.4 * 1000, 500)
        self.assertAlmostEqual(found.main.electricity.value / 24 * 1000, 175)

    def test_the_night_of_the_repeated_hour_costs_seven_hours(self) -> None:
        zone = ZoneInfo("CET")
        start = instant_of(date(2025, 10, 25), zone, 12 * 3600)
        base = steady(25)
        readings = Trace(start, 60, base.channels)
        found = assess(installation(tariff=TARIFF, zone="CET"), readings).total.cost
        self.assertAlmostEqual(found.bands[1].electricity.value, 14.0, places=6)

    def test_cost_needs_no_heat(self) -> None:
        readings = steady(24)
        readings = readings.with_channels({"flow_rate": np.full(len(readings), np.nan)})
        found = assess(installation(tariff=TARIFF), readings)
        self.assertIsNone(found.main.cop)
        self.assertAlmostEqual(found.total.cost.total.value, 13.10)
        self.assertEqual(found.total.cost.covered, 1.0)

    def test_money_carries_the_meters_uncertainty(self) -> None:
        found = assess(installation(tariff=Tariff(price=0.2)), steady(24)).total.cost
        self.assertAlmostEqual(found.total.relative, 2 * 0.035 / np.sqrt(3), places=6)


class Fuels(TestCase):
    """The handbook's check values of the trade: propane at 1.80 a US gallon, 94 %."""

    def test_propane_against_electricity(self) -> None:
        direct = cost_of_heat(0.15, 1.0, 1.0)
        self.assertAlmostEqual(direct.per_mmbtu, 43.96, 2)
        self.assertAlmostEqual(direct.per_mmbtu / 3, 14.65, 2)
        gallon = next(u for u in fuel_named("propane").units if u.unit == "US gallon")
        propane = cost_of_heat(1.80, gallon.kwh, 0.94)
        self.assertAlmostEqual(propane.per_mmbtu, 20.97, 2)
        self.assertAlmostEqual(break_even_cop(0.15, propane), 2.10, 2)
        self.assertAlmostEqual(propane.per_therm * 10, propane.per_mmbtu, 2)
        self.assertAlmostEqual(MMBTU, convert(1, "MMBtu", "kWh"), 3)

    def test_units_of_one_fuel_agree(self) -> None:
        """Definitions: 1 US gallon = 3.785412 L, 1 lb = 0.45359237 kg, 1 GJ = 277.8 kWh."""
        of = {(f.kind.value, u.unit): u.kwh for f in FUELS for u in f.units}
        self.assertAlmostEqual(of["propane", "US gallon"], of["propane", "litre"] * 3.785412, 6)
        self.assertAlmostEqual(of["pellets", "bag of 40 lb"], of["pellets", "kg"] * 18.1437, 3)
        self.assertAlmostEqual(of["district_heat", "GJ"], 277.778, 3)
        for fuel in FUELS:
            for unit in fuel.units:
                self.assertTrue(unit.source, unit)

    def test_an_efficiency_by_the_other_heating_value(self) -> None:
        """A condensing boiler of 105 % by the lower value has 94.6 % by the upper, 1.11 apart."""
        gas = fuel_named("gas")
        upper, lower = HeatingValue.UPPER, HeatingValue.LOWER
        found = cost_of_heat(0.10, 1.0, 1.05, by=lower, of=upper, upper_per_lower=1.11)
        self.assertAlmostEqual(found.efficiency, 0.946, 3)
        same = cost_of_heat(0.10, 1.0, 0.9, by=upper, of=upper, upper_per_lower=1.11)
        self.assertAlmostEqual(same.per_kwh, 0.1111, 4)
        self.assertGreater(gas.upper_per_lower, 1)

    def test_what_is_none_is_refused_at_its_field(self) -> None:
        with self.assertRaises(DescriptionError) as refused:
            cost_of_heat(0.0, 1.0, 1.0)
        self.assertEqual(refused.exception.where, "price")
        with self.assertRaisesRegex(DescriptionError, "'coal' is none of gas, oil"):
            fuel_named("coal")
