"""Readings by hand: what is typed, what is doubted, and the COP between any two rows."""

import unittest
from dataclasses import replace
from datetime import date, datetime
from zoneinfo import ZoneInfo

from hypothesis import given
from hypothesis import strategies as st

from ember.basis.errors import DescriptionError, IntakeError
from ember.boundary import Level
from ember.description.installation import Consumer, ElectricityMeter, HeatRegister, Installation
from ember.description.logged import HandSeries
from ember.readings import Reading, Turn, TypedCells, doubts, hand_sums, read_rows
from ember.readings.bills import Bill, billed, overlapping
from ember.readings.sheet import number_in
from ember.reckoning import Reckoning

ZONE = ZoneInfo("Europe/Berlin")
NOW = datetime(2026, 11, 1, tzinfo=ZONE).timestamp()
UNIT = (Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS)
HEAT = HandSeries("heat", "heat", "kWh", meter="heat meter")
POWER = HandSeries("unit", "electricity", "kWh", meter="unit meter", resolution=0.1)


def house(*series: HandSeries) -> Installation:
    return Installation(
        "House",
        "Europe/Berlin",
        (ElectricityMeter("unit meter", "power", UNIT),),
        registers=(HeatRegister("heat meter"),),
        by_hand=series or (HEAT, POWER),
    )


def read(installation: Installation, *rows: tuple) -> list[Reading]:
    """Readings of rows of texts: the time, then each series in order."""
    names = [series.name for series in installation.by_hand]
    cells = [TypedCells(row[0], dict(zip(names, row[1:], strict=False))) for row in rows]
    found, problems = read_rows(cells, installation.by_hand, ZONE, NOW)
    if problems:
        raise AssertionError(problems)
    return [reading for reading in found if reading]


def cops(installation: Installation, readings: list[Reading]) -> list[float | str]:
    segments = hand_sums(installation, readings)
    assert segments is not None and segments.level is not None
    return [
        round(one.cop.value, 3) if isinstance(one, Reckoning) and one.cop else str(one.reason or "")
        for one in segments.since_last(segments.level)
    ]


class Typed(unittest.TestCase):
    def test_numbers_as_people_write_them(self) -> None:
        for text, value in (
            ("12345.6", 12345.6),
            ("12345,6", 12345.6),
            ("12 345,6", 12345.6),
            ("12\u00a0345", 12345.0),
            ("12'345.6", 12345.6),
            ("12,345.6", 12345.6),
            ("12.345,6", 12345.6),
            ("-2,5", -2.5),
            ("\u22122", -2.0),
            (".5", 0.5),
        ):
            self.assertEqual(number_in(text), value, text)
        for text in ("", "abc", "1.2.3", "12 34", "1e5", "nan", "inf", "1.234.567", "--2"):
            self.assertIsNone(number_in(text), text)

    @given(st.floats(0, 1e7, allow_nan=False), st.sampled_from(".,"), st.sampled_from(["", " "]))
    def test_a_number_written_with_any_signs_is_read_back(self, value, sign, between) -> None:
        text = f"{value:,.2f}".replace(",", between).replace(".", sign)
        self.assertEqual(number_in(text), round(value, 2))

    def test_times_of_one_sheet_are_written_one_way(self) -> None:
        # 03.04. could be either; 25.04. says that the day stands first.
        house_ = house()
        for first, second in (
            ("03.04.2026 07:30", "25.04.2026 07:30"),
            ("2026-04-03 07:30", "2026-04-25 07:30"),
            ("04/03/2026 07:30", "04/25/2026 07:30"),
            ("2026-04-03T05:30Z", "2026-04-25T05:30Z"),
        ):
            one, other = read(house_, (first, "1", "1"), (second, "2", "2"))
            self.assertEqual(
                datetime.fromtimestamp(one.time, ZONE).isoformat()[:16], "2026-04-03T07:30", first
            )
            self.assertEqual(datetime.fromtimestamp(other.time, ZONE).day, 25)

    def test_a_clock_alone_has_the_date_of_the_row_before(self) -> None:
        rows = read(
            house(),
            ("2026-01-22 09:02:30", "100", "40"),
            ("10:02", "103", "41"),
            ("11:15:20", "106", "42"),
        )
        said = [datetime.fromtimestamp(r.time, ZONE).strftime("%d %H:%M:%S") for r in rows]
        self.assertEqual(said, ["22 09:02:30", "22 10:02:00", "22 11:15:20"])
        self.assertEqual(cops(house(), rows)[1:], [3.0, 3.0])
        alone = read(house(), ("10:02", "103", "41"))[0]
        self.assertEqual(datetime.fromtimestamp(alone.time, ZONE).date(), date(2026, 11, 1))

    def test_a_unit_beside_the_number(self) -> None:
        """1 MWh = 1000 kWh = 3.6 GJ."""
        (row,) = read(house(), ("2026-01-22 09:00", "170 kWh", "1,5 MWh"))
        self.assertEqual(dict(row.values), {"heat": 170.0, "unit": 1500.0})
        (row,) = read(house(), ("2026-01-22 09:00", "3.6GJ", "12'345.6 kWh"))
        self.assertEqual(dict(row.values), {"heat": 1000.0, "unit": 12345.6})
        _, problems = read_rows(
            [TypedCells("2026-01-22 09:00", {"heat": "20 °C"})], (HEAT,), ZONE, NOW
        )
        self.assertIn("is not kWh", problems[0].what)

    def test_a_whole_day_month_or_year_has_a_beginning(self) -> None:
        series = replace(POWER, keeps="day")
        for text, first, last in (
            ("2026-03-29", date(2026, 3, 29), 23),  # the day of 23 hours, IANA Europe/Berlin
            ("2026-02", date(2026, 2, 1), 28 * 24),
            ("2025", date(2025, 1, 1), 365 * 24),
        ):
            reading = read(house(series), (text, "20"))[0]
            assert reading.since is not None
            self.assertEqual(datetime.fromtimestamp(reading.since, ZONE).date(), first)
            self.assertEqual((reading.time - reading.since) / 3600, last)

    def test_what_cannot_be_read_is_named_by_row_and_column(self) -> None:
        series = (HEAT, HandSeries("outdoor", "other", "degC", channel="outdoor_temp"))
        cells = [
            TypedCells("2026-01-08 08:00", {"heat": "12x"}),
            TypedCells("32.01.2026 08:00", {"heat": "1"}),
            TypedCells("2027-06-01 08:00", {"heat": "1"}),
            TypedCells("2026-01-08 08:00", {"outdoor": "130"}),
            TypedCells("2026-01-08 08:00", {"heat": "-4"}),
            TypedCells("2026-01-08 08:00", {"tank": "4"}),
            TypedCells("2026-01-08 08:00", {}),
        ]
        found, problems = read_rows(cells, series, ZONE, NOW)
        self.assertEqual(found, [None] * 7)
        said = {(p.row, p.column): p.what for p in problems}
        self.assertIn("no number", said[0, "heat"])
        self.assertIn("no time", said[1, "time"])
        self.assertIn("future", said[2, "time"])
        self.assertIn("°F", said[3, "outdoor"])
        self.assertIn("below zero", said[4, "heat"])
        self.assertIn("no such column", said[5, "tank"])
        self.assertIn("nothing is read", said[6, "time"])

    def test_refrigerant_readings_have_ranges_and_units(self) -> None:
        low = HandSeries("low side", "other", "bar", channel="evaporating_pressure")
        heat = HandSeries("superheat", "other", "kelvin", channel="superheat")
        found, problems = read_rows(
            [
                TypedCells("2026-01-08 08:00", {"low side": "7,9", "superheat": "5.5"}),
                TypedCells("2026-01-08 09:00", {"low side": "790"}),
            ],
            (low, heat),
            ZONE,
            NOW,
        )
        assert found[0] is not None
        self.assertEqual(found[0].values, {"low side": 7.9, "superheat": 5.5})
        self.assertIn("was it read in kPa", problems[0].what)


class Described(unittest.TestCase):
    def test_a_series_needs_its_meter_and_a_fitting_unit(self) -> None:
        with self.assertRaisesRegex(Exception, "which described meter"):
            HandSeries("heat", "heat", "kWh")
        with self.assertRaisesRegex(Exception, "does not fit"):
            HandSeries("heat", "heat", "degC", meter="heat meter")
        with self.assertRaisesRegex(Exception, "no meter of heat is called"):
            house(replace(HEAT, meter="unit meter"))
        with self.assertRaisesRegex(Exception, "used twice"):
            house(HEAT, HEAT)
        self.assertTrue(issubclass(DescriptionError, Exception))


class Sums(unittest.TestCase):
    def test_the_quotient_of_sums_and_not_the_mean_of_quotients(self) -> None:
        # The handbook's own example, section 5: 5 of 1 and 10 of 3 kWh are 15/4 = 3.75, not 4.17.
        fine = replace(HEAT, resolution=0.001), replace(POWER, resolution=0.001)
        readings = read(
            house(*fine),
            ("2026-01-01 08:00", "100", "50"),
            ("2026-01-01 09:00", "105", "51"),
            ("2026-01-01 10:00", "115", "54"),
        )
        self.assertEqual(cops(house(*fine), readings), ["the first reading", 5.0, 3.333])
        segments = hand_sums(house(*fine), readings)
        assert segments is not None
        whole = segments.between([(readings[0].time, readings[2].time)], Level.H2)[0]
        assert isinstance(whole, Reckoning) and whole.cop is not None
        self.assertAlmostEqual(whole.cop.value, 3.75)
        self.assertEqual(whole.coverage, 1.0)

    def test_u_holds_the_steps_of_both_displays_and_the_classes_of_the_meters(self) -> None:
        readings = read(
            house(), ("2026-01-01 08:00", "100", "50"), ("2026-01-02 08:00", "130", "60")
        )
        segments = hand_sums(house(), readings)
        assert segments is not None
        found = segments.since_last(Level.H2)[1]
        assert isinstance(found, Reckoning) and found.cop is not None and found.heat is not None
        step = next(p.u for p in found.heat.budget if "register step" in p.source)
        # Two readings, each rounded to 1 kWh: rectangular ±0.5 kWh, GUM 4.3.7.
        self.assertAlmostEqual(step, (2 * 0.5**2 / 3) ** 0.5, places=6)
        electric = next(p.u for p in found.electricity.budget if "register step" in p.source)
        self.assertAlmostEqual(electric, 0.1 * (1 / 6) ** 0.5, places=6)
        self.assertTrue(any("class not known" in p.source for p in found.electricity.budget))

    def test_two_rates_of_one_meter_are_added(self) -> None:
        both = house(HEAT, replace(POWER, name="day"), replace(POWER, name="night"))
        readings = read(
            both, ("2026-01-01 08:00", "0", "10", "5"), ("2026-01-08 08:00", "350", "80", "35")
        )
        self.assertEqual(cops(both, readings)[1], 3.5)
        one_only = read(
            both, ("2026-01-01 08:00", "0", "10", "5"), ("2026-01-08 08:00", "350", "80", "")
        )
        self.assertIsNone(hand_sums(both, one_only), "half of a meter is no meter")

    def test_day_totals_fall_back_by_design_and_nothing_is_lost(self) -> None:
        totals = house(replace(HEAT, keeps="day"), replace(POWER, keeps="day"))
        readings = read(
            totals, ("2026-01-01", "30", "10"), ("2026-01-02", "20", "5"), ("2026-01-03", "24", "8")
        )
        self.assertEqual(cops(totals, readings), [3.0, 4.0, 3.0])
        self.assertEqual(doubts(readings, totals.by_hand), [])
        segments = hand_sums(totals, readings)
        assert segments is not None
        whole = segments.between([(readings[0].since or 0, readings[-1].time)], Level.H2)[0]
        assert isinstance(whole, Reckoning) and whole.cop is not None
        self.assertAlmostEqual(whole.cop.value, 74 / 23)
        self.assertEqual(whole.coverage, 1.0)

    def test_a_day_total_read_before_midnight_leaves_the_rest_of_the_day_unknown(self) -> None:
        totals = house(replace(HEAT, keeps="day"), replace(POWER, keeps="day"))
        readings = read(
            totals,
            ("2026-01-01 06:00", "9", "3"),
            ("2026-01-01 18:00", "30", "10"),
            ("2026-01-02 12:00", "16", "4"),
        )
        segments = hand_sums(totals, readings)
        assert segments is not None
        same_day, over_midnight = segments.since_last(Level.H2)[1:]
        assert isinstance(same_day, Reckoning) and same_day.cop is not None
        self.assertAlmostEqual(same_day.cop.value, 21 / 7)
        assert isinstance(over_midnight, Reckoning) and over_midnight.cop is not None
        self.assertAlmostEqual(over_midnight.cop.value, 4.0)
        self.assertAlmostEqual(over_midnight.coverage, 12 / 18, places=3)

    def test_a_new_meter_and_a_rollover(self) -> None:
        rolling = house(HEAT, replace(POWER, digits=5))
        readings = read(
            rolling, ("2026-01-01 08:00", "100", "99990"), ("2026-01-08 08:00", "400", "90")
        )
        self.assertEqual(doubts(readings, rolling.by_hand)[0].turn, Turn.ROLLOVER)
        turned = [readings[0], replace(readings[1], turns={"unit": Turn.ROLLOVER})]
        self.assertEqual(cops(rolling, turned)[1], 3.0)
        self.assertEqual(doubts(turned, rolling.by_hand), [])
        changed = [*readings, *read(rolling, ("2026-01-15 08:00", "700", "190"))]
        changed[1] = replace(changed[1], turns={"unit": Turn.NEW_METER})
        found = cops(rolling, changed)
        self.assertEqual(found[1:], ["no electricity in the covered time", 3.0])

    def test_environmental_yield_is_never_taken_for_heat(self) -> None:
        """Handbook section 3: yield ÷ electricity is COP − 1."""
        yields = HandSeries("yield", "environmental_yield", "kWh")
        both = house(yields, POWER)
        readings = read(both, ("2026-01-01 08:00", "0", "0"), ("2026-01-08 08:00", "230", "100"))
        segments = hand_sums(both, readings)
        assert segments is not None
        self.assertTrue(segments.from_yield)
        found = segments.since_last(Level.H2)[1]
        assert isinstance(found, Reckoning) and found.cop is not None
        self.assertAlmostEqual(found.cop.value, 3.25)  # (230 + 0.95 · 100) ÷ 100: half of 10 % lost
        self.assertIn("upper bound", found.method)
        self.assertGreater(found.cop.U, 0.05)
        measured = house(yields, POWER, HEAT)
        readings = read(
            measured, ("2026-01-01 08:00", "0", "0", "0"), ("2026-01-08 08:00", "230", "100", "310")
        )
        segments = hand_sums(measured, readings)
        assert segments is not None and not segments.from_yield
        self.assertEqual(cops(measured, readings)[1], 3.1, "heat that is metered comes first")

    def test_a_row_without_a_meter_is_no_end_of_a_sum(self) -> None:
        readings = read(
            house(),
            ("2026-01-01 08:00", "0", "0"),
            ("2026-01-05 08:00", "", "40"),
            ("2026-01-08 08:00", "300", "100"),
        )
        self.assertEqual(cops(house(), readings)[1:], ["heat meter was not read at both ends"] * 2)
        segments = hand_sums(house(), readings)
        assert segments is not None
        whole = segments.between([(readings[0].time, readings[2].time)], Level.H2)[0]
        assert isinstance(whole, Reckoning) and whole.cop is not None
        self.assertAlmostEqual(whole.cop.value, 3.0)

    def test_units_of_the_displays_may_differ(self) -> None:
        mixed = house(replace(HEAT, unit="MWh", resolution=0.001), POWER)
        readings = read(
            mixed, ("2026-01-01 08:00", "12.000", "0"), ("2026-01-08 08:00", "12.350", "100")
        )
        self.assertEqual(cops(mixed, readings)[1], 3.5)

    def test_two_rows_of_one_time_are_refused(self) -> None:
        readings = read(house(), ("2026-01-01 08:00", "0", "0"), ("2026-01-01 08:00", "1", "1"))
        with self.assertRaisesRegex(IntakeError, "same time"):
            hand_sums(house(), readings)

    @given(st.lists(st.tuples(st.integers(1, 400), st.integers(1, 120)), min_size=1, max_size=12))
    def test_the_sum_over_all_rows_is_the_sum_of_the_rows(self, steps) -> None:
        heat = power = 0
        rows = [("2026-01-01 08:00", "0", "0")]
        for day, (more_heat, more_power) in enumerate(steps, 2):
            heat, power = heat + more_heat, power + more_power
            rows.append((f"2026-01-{day:02d} 08:00", str(heat), str(power)))
        readings = read(house(), *rows)
        segments = hand_sums(house(), readings)
        assert segments is not None
        parts = [one for one in segments.since_last(Level.H2)[1:] if isinstance(one, Reckoning)]
        whole = segments.between([(readings[0].time, readings[-1].time)], Level.H2)[0]
        assert isinstance(whole, Reckoning) and whole.heat is not None
        self.assertAlmostEqual(whole.heat.value, sum(p.heat.value for p in parts if p.heat))
        self.assertAlmostEqual(whole.electricity.value, sum(p.electricity.value for p in parts))
        self.assertAlmostEqual(whole.heat.value, heat)


class Doubted(unittest.TestCase):
    """All limits are common practice."""

    STEADY = tuple(
        (f"2026-01-{d:02d} 08:00", str(1000 + 50 * d), str(300 + 15 * d)) for d in (1, 2, 3, 4)
    )

    def test_a_steady_sheet_is_not_doubted(self) -> None:
        readings = read(house(), *self.STEADY)
        segments = hand_sums(house(), readings)
        assert segments is not None
        self.assertEqual(doubts(readings, house().by_hand, segments.since_last(Level.H2)), [])

    def test_a_slip_of_the_pen_is_found_and_mended(self) -> None:
        for wrong in ("125", "12500", "2150", "1520", "1250.0"):  # 1250 was meant
            readings = read(house(), *self.STEADY, ("2026-01-05 08:00", wrong, "375"))
            found = [d for d in doubts(readings, house().by_hand) if d.column == "heat"]
            if wrong == "1250.0":
                self.assertEqual(found, [])
            else:
                self.assertEqual([d.likely for d in found], [1250.0], wrong)

    def test_a_fall_without_a_likely_digit_asks_for_a_new_meter(self) -> None:
        readings = read(house(), *self.STEADY, ("2026-01-05 08:00", "3", "375"))
        doubt = doubts(readings, house().by_hand)[0]
        self.assertEqual((doubt.row, doubt.column, doubt.turn), (4, "heat", Turn.NEW_METER))

    def test_an_impossible_cop_is_doubted_on_either_side(self) -> None:
        fine = house(HEAT, POWER)
        for heat, power, word in (("1000", "100", "beyond"), ("50", "100", "resistance heater")):
            readings = read(fine, ("2026-01-01 08:00", "0", "0"), ("2026-01-08 08:00", heat, power))
            segments = hand_sums(fine, readings)
            assert segments is not None
            found = doubts(readings, fine.by_hand, segments.since_last(Level.H2))
            self.assertEqual([d.column for d in found], ["cop"])
            self.assertIn(word, found[0].what)

    @given(st.lists(st.integers(0, 90), min_size=3, max_size=20))
    def test_no_register_that_rises_in_the_weather_is_called_fallen(self, rises) -> None:
        total, rows = 5000, []
        for day, rise in enumerate(rises, 1):
            total += rise
            rows.append((f"2026-01-{day:02d} 08:00", str(total)))
        only = house(HEAT)
        self.assertFalse([d for d in doubts(read(only, *rows), only.by_hand) if "fall" in d.what])


class Billed(unittest.TestCase):
    DAY = 86_400.0

    def bill(
        self, first: int, days: int, kwh: float, estimated: bool = False, cost: float | None = None
    ) -> Bill:
        return Bill(
            first * self.DAY,
            (first + days) * self.DAY,
            "electricity",
            kwh,
            cost=cost,
            estimated=estimated,
        )

    def test_an_estimate_is_settled_by_the_next_reading(self) -> None:
        bills = [
            self.bill(0, 30, 300, cost=90),
            self.bill(30, 31, 500, True, 150),
            self.bill(61, 29, 100, cost=30),
        ]
        one, settled = billed(bills)
        self.assertEqual((one.kwh, one.sure, one.price), (300, True, 0.3))
        self.assertEqual(
            (settled.bills, settled.days, settled.kwh, settled.sure), ((1, 2), 60, 600, True)
        )
        self.assertAlmostEqual(settled.kwh_a_day, 10.0)
        self.assertAlmostEqual(settled.watts, 10_000 / 24)

    def test_a_gap_and_an_open_estimate_are_not_sure(self) -> None:
        bills = [self.bill(0, 30, 300, True), self.bill(40, 30, 300), self.bill(70, 30, 200, True)]
        self.assertEqual([s.sure for s in billed(bills)], [False, False, False])

    def test_bills_that_hold_the_same_days_are_named(self) -> None:
        self.assertEqual(overlapping([self.bill(0, 30, 1), self.bill(29, 10, 1)]), [(0, 1)])
        self.assertEqual(overlapping([self.bill(0, 30, 1), self.bill(30, 10, 1)]), [])

    def test_fuel_counts_by_its_energy_content(self) -> None:
        gas = Bill(0, 10 * self.DAY, "gas", 100, "m³", 10.55)
        self.assertAlmostEqual(billed([gas])[0].kwh, 1055)


if __name__ == "__main__":
    unittest.main()
