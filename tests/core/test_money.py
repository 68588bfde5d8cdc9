"""Tariffs and cost by hand."""

from collections import Counter
from dataclasses import replace
from datetime import UTC, date, datetime, time, timedelta
from unittest import TestCase
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd

from ember.assessment.assess import assess
from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import costs_of
from ember.basis.clock import instant_of
from ember.basis.errors import DescriptionError
from ember.basis.periods import Period
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
from ember.cost import Cost as Paid
from ember.cost.fuels import MMBTU
from ember.description.tariff import (
    Band,
    ByTheHour,
    Prices,
    PricesFrom,
    StandingPer,
    Tariff,
    Tier,
    week,
)
from tests.core.helpers import installation, steady

NIGHT = Band("night", 0.15, time(23, 30), time(5, 30))
TARIFF = Tariff(price=0.30, standing_charge=0.50, bands=(NIGHT,))


# Bands that begin and end at odd minutes, in the hour that is shown twice too; a season; weekends.
BUSY = Tariff(
    price=0.30,
    bands=(
        Band("night", 0.15, time(23, 30), time(2, 20)),
        Band("early", 0.20, time(2, 20), time(5, 30)),
        Band("peak", 0.50, time(17), time(20), weekdays=(0, 1, 2, 3, 4), months=(10, 11, 3)),
        Band("weekend", 0.25, time(10), time(12), weekdays=(5, 6)),
    ),
    changes=(PricesFrom(price=0.4, start=date(2026, 3, 30), name="new"),),
)


def brute(tariff: Tariff, start: int, stop: int, zone: ZoneInfo) -> Counter[str]:
    """Minutes of each price, minute by minute, as the standard library shows the clock."""
    found: Counter[str] = Counter()
    for instant in range(start, stop, 60):
        wall = datetime.fromtimestamp(instant, zone)
        edition: Prices = tariff
        for change in tariff.changes:
            if wall.date() >= change.start:
                edition = change
        name = edition.name
        for band in edition.bands:
            clock, day = wall.time(), wall.date()
            crosses = band.end <= band.start
            if crosses and clock < band.end:
                day -= timedelta(days=1)
            inside = clock >= band.start or clock < band.end
            if not crosses:
                inside = band.start <= clock < band.end
            if inside and day.weekday() in band.weekdays and day.month in band.months:
                name = band.name
        found[name] += 1
    return found


def priced(tariff: Tariff, start: int, stop: int, zone: ZoneInfo) -> Counter[str]:
    """The same from the windows."""
    times, found = windows(tariff, start, stop, zone), Counter[str]()
    for begin, end, slot in zip(times.start, times.stop, times.slot, strict=True):
        found[times.slots[slot].name] += int(end - begin) // 60
    return found


class Windows(TestCase):
    def test_a_window_across_midnight(self) -> None:
        """23:30–05:30 holds 6 h; 7 h on an autumn night with the repeated hour, 5 h in spring."""
        zone = ZoneInfo("CET")
        for day, hours in (
            (date(2026, 1, 10), 6),
            (date(2025, 10, 25), 7),
            (date(2026, 3, 28), 5),
        ):
            noon = instant_of(day, zone, 12 * 3600)
            with self.subTest(day=day):
                found = priced(TARIFF, noon, noon + 86400, zone)
                self.assertEqual(found["night"], hours * 60)

    def test_both_changes_of_the_clock_in_three_zones(self) -> None:
        """Against a count of every minute by the standard library's clock."""
        for name, days in (
            ("CET", (date(2026, 3, 27), date(2025, 10, 24))),
            ("PST8PDT", (date(2026, 3, 6), date(2025, 10, 31))),
            ("NZ", (date(2026, 4, 3), date(2025, 9, 26))),
        ):
            zone = ZoneInfo(name)
            for day in days:
                start = instant_of(day, zone)
                stop = instant_of(day + timedelta(days=5), zone)
                with self.subTest(zone=name, day=day):
                    self.assertNotEqual((stop - start) % 86400, 0)
                    self.assertEqual(
                        priced(BUSY, start, stop, zone), brute(BUSY, start, stop, zone)
                    )

    def test_the_price_at_an_instant_is_the_wall_clocks(self) -> None:
        zone = ZoneInfo("CET")
        start = instant_of(date(2025, 10, 20), zone)
        instants = start + np.arange(0, 10 * 86400, 900)
        found = windows(TARIFF, start, start + 10 * 86400, zone).slot_at(instants)
        wall = pd.to_datetime(instants, unit="s", utc=True).tz_convert("CET")
        clock = wall.hour + wall.minute / 60
        np.testing.assert_array_equal(found == 1, (clock >= 23.5) | (clock < 5.5))

    def test_weekdays_are_those_on_which_a_window_begins(self) -> None:
        friday_night = Band("weekend", 0.1, time(22), time(6), weekdays=(4,))
        zone = ZoneInfo("UTC")
        begin = instant_of(date(2026, 1, 2), zone)  # a Friday
        times = windows(Tariff(price=0.3, bands=(friday_night,)), begin, begin + 3 * 86400, zone)
        at = np.array([begin + h * 3600 for h in (21, 23, 29, 31, 47)])
        self.assertEqual(times.slot_at(at).tolist(), [0, 1, 1, 0, 0])

    def test_a_band_that_ends_when_it_begins_is_the_whole_day(self) -> None:
        sunday = Tariff(0.3, bands=(Band("sunday", 0.1, time(0), time(0), weekdays=(6,)),))
        zone = ZoneInfo("CET")
        for day, minutes in ((date(2026, 3, 29), 23 * 60), (date(2026, 1, 4), 24 * 60)):
            start = instant_of(day, zone) - 86400
            found = priced(sunday, start, start + 4 * 86400, zone)
            self.assertEqual(found["sunday"], minutes)

    def test_two_bands_for_the_same_time_are_refused(self) -> None:
        peak = Band("peak", 0.6, time(5), time(8))
        with self.assertRaisesRegex(ValueError, "'night' and 'peak' overlap"):
            Tariff(price=0.3, bands=(NIGHT, peak))
        # In months that the other lacks it may be.
        winter = replace(NIGHT, months=(1, 2, 12))
        Tariff(price=0.3, bands=(winter, replace(peak, months=(6, 7))))

    def test_a_week_as_it_is_drawn(self) -> None:
        """Monday: night until 02:20, early until 05:30, and so on; every day is whole."""
        found = week(BUSY, 10)
        self.assertEqual(
            found[0],
            [(0, 140, 0), (140, 330, 1), (330, 1020, -1), (1020, 1200, 2), (1200, 1410, -1),
             (1410, 1440, 0)],
        )  # fmt: skip
        self.assertEqual([sum(b - a for a, b, _ in day) for day in found], [1440] * 7)
        self.assertNotIn(2, [k for day in week(BUSY, 6) for _, _, k in day])


class Dated(TestCase):
    """Prices that change, by hand."""

    def test_a_change_of_prices_and_of_vat(self) -> None:
        """2 kW from 1 January 2026, UTC; on the 2nd 0.40 and 10 % VAT: 48 · 0.3 + 48 · 0.44."""
        tariff = Tariff(
            price=0.30,
            standing_charge=0.5,
            changes=(
                PricesFrom(
                    price=0.4, start=date(2026, 1, 2), standing_charge=0.6, vat=0.1, name="day"
                ),
            ),
        )
        found = paid(tariff, 48)
        self.assertAlmostEqual(found.standing, 0.5 + 0.66)
        self.assertAlmostEqual(found.total.value, 48 * 0.30 + 48 * 0.44 + 1.16)
        self.assertEqual([row.since for row in found.bands], [None, "2026-01-02"])
        self.assertAlmostEqual(found.average_price, 0.37)

    def test_a_standing_charge_a_month(self) -> None:
        tariff = Tariff(price=0.3, standing_charge=31.0, standing_per=StandingPer.MONTH)
        self.assertAlmostEqual(paid(tariff, 36).standing, 1.5)

    def test_tiers_count_from_the_months_first_kwh(self) -> None:
        """96 kWh: 20 at 0.30, 40 at 0.35, 36 at 0.45."""
        tariff = Tariff(price=0.30, tiers=(Tier(20, 0.05), Tier(60, 0.10)))
        found = paid(tariff, 48)
        self.assertAlmostEqual(found.total.value, 20 * 0.3 + 40 * 0.35 + 36 * 0.45)
        self.assertAlmostEqual(found.average_price, found.total.value / 96)
        # Each day by itself pays what it adds, the two together the whole.
        analysis = analyse_record(installation(tariff=tariff), begun(48))
        first = begun(48).start
        days = [Period(str(k), first + k * 86400, first + (k + 1) * 86400) for k in (0, 1)]
        one, two = costs_of(analysis, days)
        self.assertAlmostEqual(one.total.value, 20 * 0.3 + 28 * 0.35)
        self.assertAlmostEqual(one.total.value + two.total.value, found.total.value)
        # Other uses fill the tiers first; an error of the meter acts by the last price.
        other = paid(replace(tariff, other_uses_kwh=100.0), 48)
        self.assertAlmostEqual(other.total.value, 96 * 0.45)
        share = found.bands[0].electricity.relative
        self.assertAlmostEqual(found.total.U, share * 96 * 0.45)

    def test_prices_by_the_half_hour(self) -> None:
        """2 kW at 0.10, 0.20, … by half hours, 0.05 added, 20 % VAT; the last hour has no price."""
        trace = begun(4)
        half = np.repeat(np.arange(1, 9) / 10, 30)
        half[180:] = np.nan
        trace = trace.with_channels({"electricity_price": half})
        tariff = Tariff(price=9.0, vat=0.2, by_the_hour=ByTheHour(0.05))
        found = assess(installation(tariff=tariff), trace).total.cost
        by_hand = sum((k / 10 + 0.05) * 1.2 for k in range(1, 7))
        self.assertAlmostEqual(found.total.value, by_hand)
        self.assertAlmostEqual(found.covered, 0.75)
        self.assertAlmostEqual(found.average_price, by_hand / 6)


def begun(hours: float) -> Trace:
    """2 kW from midnight of 1 January 2026, UTC."""
    return Trace(int(datetime(2026, 1, 1, tzinfo=UTC).timestamp()), 60, steady(hours).channels)


def paid(tariff: Tariff, hours: float) -> Paid:
    found = assess(installation(tariff=tariff, zone="UTC"), begun(hours)).total.cost
    assert found is not None
    return found


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
