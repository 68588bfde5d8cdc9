"""Readings that lie far apart: registers shared out, rows of a quarter of an hour to a day, sheets
of readings by hand as records. Against sums done by hand and against simulated truth."""

from dataclasses import replace
from datetime import datetime, time, timedelta
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase
from zoneinfo import ZoneInfo

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from ember.assessment.assess import assess
from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import figures
from ember.basis.errors import IntakeError
from ember.basis.periods import Period
from ember.basis.series import Trace
from ember.comparison.performance_ratio import VerdictKind
from ember.description.house import House
from ember.description.installation import Band as PriceBand
from ember.description.installation import (
    Consumer,
    ElectricityMeter,
    HeatRegister,
    Installation,
    RatedPoint,
    RatedTable,
    Tariff,
)
from ember.description.logged import HandSeries
from ember.intake import read_log
from ember.metering.register import shared_out, spread
from ember.readings import TypedCells, read_rows, record_of, sheet_of
from ember.trust import Soundness
from stand_ins.scenario import ZONE, rated_table, simulate
from stand_ins.seldom import seldom
from stand_ins.usual import USUAL, usual
from tests.core.helpers import START, UNIT, simulated
from validation.trust import described
from validation.usual import SELDOM, Seldom, seen_seldom

KWH = 3.6e6
ALL = (*UNIT, Consumer.DISTRIBUTION_PUMP, Consumer.BACKUP_HEATER)
FLAT = RatedTable(  # one COP of 4 everywhere, so that conditions do not matter
    tuple(RatedPoint(o, f, 8.0, cop=4.0) for o in (-10.0, 20.0) for f in (25.0, 55.0)),
    includes_defrost=False,
)


class Registers(TestCase):
    def test_a_step_is_spread_over_the_time_since_the_one_before(self) -> None:
        energy = np.array([0, 0, 6.0, 0, 4.0, np.nan, 0, 3.0, 0])
        np.testing.assert_array_equal(spread(energy), [2, 2, 2, 2, 2, np.nan, 1.5, 1.5, 0])

    @given(
        st.lists(st.tuples(st.integers(1, 9), st.floats(0, 1e8)), min_size=2, max_size=20),
    )
    def test_shared_out_sums_are_those_between_readings(self, steps) -> None:
        at = np.cumsum([0, *(cells for cells, _ in steps)])
        register = np.full(at[-1] + 1, np.nan)
        register[at] = np.cumsum([0.0, *(e for _, e in steps)])
        energy = np.zeros(len(register))
        energy[at[1:] - 1] = np.diff(register[at])
        even, tilts = shared_out(energy, register)
        tilt = np.sum(tilts, axis=0)
        for (a, b), (_, e) in zip(pairwise(at), steps, strict=True):
            self.assertAlmostEqual(even[a:b].sum(), e, delta=1e-6 * max(e, 1))
            self.assertAlmostEqual(tilt[a:b].sum(), 0.0, delta=1e-6 * max(e, 1))
            self.assertLess(np.ptp(even[a:b]), 1e-6 * max(e, 1))

    def test_half_of_a_stretch_is_off_by_half_at_most(self) -> None:
        """Power that falls from the double to nothing: the first half holds 3/4 of the energy."""
        register = np.full(1001, np.nan)
        register[[0, 1000]] = 0.0, 1000.0
        energy = np.zeros(1001)
        energy[999] = 1000.0
        even, tilts = shared_out(energy, register)
        tilt = np.sum(tilts, axis=0)
        self.assertAlmostEqual(even[:500].sum(), 500.0)
        self.assertAlmostEqual(abs(tilt[:500].sum()), 250.0, delta=1.0)


class Days(TestCase):
    """Ten days at 30 kWh of heat and 10 kWh of electricity."""

    def record(self, heat: float = 30.0, used: float = 10.0, outdoor: float = 10.0) -> Trace:
        n = 24 * 10 + 1
        channels = {
            "energy": np.full(n, np.nan),
            "heat_energy": np.full(n, np.nan),
            "outdoor_temp": outdoor + np.tile([0.5, -0.5], n)[:n],
            "flow_temp": np.full(n, 35.0),
        }
        channels["energy"][::24] = 500 * KWH + used * KWH * np.arange(11)
        channels["heat_energy"][::24] = 900 * KWH + heat * KWH * np.arange(11)
        native = {"energy": 86_400.0, "heat_energy": 86_400.0}
        return Trace(START, 3600, channels, native)

    def house(self, **changes) -> Installation:
        made = Installation(
            "Days",
            "UTC",
            (ElectricityMeter("meter", "energy", ALL, resolution_kwh=0.1),),
            registers=(HeatRegister("heat", includes=("heat_pump", "backup_heater")),),
            consumers=ALL,
            rated=FLAT,
        )
        return replace(made, **changes)

    def test_the_ratio_is_the_sum_done_by_hand(self) -> None:
        """A day: 30 kWh ÷ 4 ÷ … with 0 to 8 % for starts taken in the middle, and a pump of
        15 to 75 W all the time: 7.5 · 1.04 + 24 h · 45 W = 7.8 + 1.08 = 8.88 of 10 kWh."""
        found = assess(self.house(), self.record()).comparison
        assert found is not None
        self.assertAlmostEqual(found.ratio.value, 0.888, places=3)
        self.assertAlmostEqual(found.hours, 240.0)
        self.assertTrue(found.heater_open)
        self.assertIn("whole intervals", found.span)

    def test_in_frost_defrosts_are_expected_besides(self) -> None:
        """0 to 10 % more below 7 °C: 7.5 · 1.04 · 1.05 + 1.08 = 9.27."""
        found = assess(self.house(), self.record(outdoor=0.0)).comparison
        assert found is not None
        self.assertAlmostEqual(found.ratio.value, 0.927, places=3)
        self.assertTrue(any("defrosts" in what for what, _ in found.assumed))

    def test_a_heater_that_cannot_be_told_forbids_blame_in_the_cold_only(self) -> None:
        """Above 7 °C outdoors a backup heater rests."""
        for outdoor, kind in ((0.0, VerdictKind.WATCH), (10.0, VerdictKind.BELOW_RATED)):
            weak = assess(self.house(), self.record(heat=18.0, outdoor=outdoor))
            with self.subTest(outdoor):
                self.assertEqual(weak.verdict.kind, kind, weak.verdict.sentence)
        said = assess(self.house(), self.record(heat=18.0, outdoor=0.0)).verdict.sentence
        self.assertIn("a heater in the same meter", said)

    def test_nothing_is_claimed_of_runs_and_defrosts(self) -> None:
        found = analyse_record(self.house(), self.record())
        self.assertFalse(found.facts.runs_known)
        self.assertEqual((len(found.runs), len(found.defrosts)), (0, 0))
        self.assertEqual(found.facts.interval, 86_400.0)

    def test_a_part_of_a_stretch_has_no_cop_of_its_own(self) -> None:
        whole = analyse_record(self.house(), self.record(), (START + 86_400.0, START + 90_000.0))
        day = Period("day", START, START + 86_400)
        hour = Period("hour", START + 86_400, START + 90_000)
        full, part = figures(whole, [day, hour])
        self.assertAlmostEqual(full.reckonings[-1].cop.value, 3.0)
        self.assertIsNone(part.reckonings[-1].cop)
        self.assertIn("only their sum is known", str(part.reckonings[-1].reason))

    def test_without_hours_a_band_is_a_range_or_its_described_share(self) -> None:
        """10 kWh a day, 30 ct and 20 ct by night: between 2 and 3 a day; with 40 % by night 2.6."""
        night = PriceBand("night", 0.20, time(22), time(6))
        for share, cost in ((None, 25.0), (0.4, 26.0)):
            tariff = Tariff(0.30, bands=(replace(night, share=share),))
            found = assess(self.house(tariff=tariff), self.record())
            paid = found.total.cost
            assert paid is not None
            with self.subTest(share=share):
                self.assertAlmostEqual(paid.total.value, cost, places=6)
                if share is None:
                    self.assertGreater(paid.total.U, 5.0)
                else:
                    self.assertLess(paid.total.U, 1.7)


class Rows(TestCase):
    def read(self, lines: list[str], zone: str) -> Trace:
        house = Days().house(zone=zone)
        with TemporaryDirectory() as folder:
            path = Path(folder) / "log.csv"
            path.write_text("\n".join(["time,energy [kWh],heat energy [kWh],outdoor [°C]", *lines]))
            return read_log(path, house)[0]

    def test_a_row_a_day_by_the_wall_clock(self) -> None:
        """Over the change of clocks: a day of 23 hours (IANA Europe/Berlin, 2026-03-29)."""
        zone = ZoneInfo("Europe/Berlin")
        first = datetime(2026, 3, 25, tzinfo=zone)
        lines = [
            f"{first + timedelta(days=k):%Y-%m-%d %H:%M},{100 + 10 * k},{300 + 30 * k},5"
            for k in range(9)
        ]
        found = self.read(lines, "Europe/Berlin")
        self.assertEqual(found.step, 3600)
        at = np.flatnonzero(np.isfinite(found["energy"]))
        self.assertEqual(np.diff(at).tolist(), [24, 24, 24, 24, 23, 24, 24, 24])
        whole = assess(Days().house(zone="Europe/Berlin"), found)
        assert whole.main is not None and whole.main.cop is not None
        self.assertAlmostEqual(whole.main.cop.value, 3.0)

    def test_rows_days_apart_belong_into_the_sheet(self) -> None:
        lines = [f"2026-01-{day:02d} 00:00,{day},{3 * day},5" for day in range(1, 29, 3)]
        with self.assertRaises(IntakeError) as caught:
            self.read(lines, "UTC")
        self.assertIn("readings by hand", str(caught.exception))


class Sheets(TestCase):
    """A year's weekly readings of a simulated house."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.done = simulated("as-rated", days=120, step=300)
        run, zone = cls.done.run, ZoneInfo(ZONE)
        used = sum(
            run.sums[k] for k in ("compressor", "source", "controls", "backup_heater", "pump")
        )
        heat = run.sums["counted"]
        cls.registers = 500 + np.cumsum(used) / KWH, 900 + np.cumsum(heat) / KWH
        cls.series = (
            HandSeries("electricity", "electricity", "kWh", meter="meter", resolution=0.1),
            HandSeries("heat", "heat", "kWh", meter="heat"),
        )
        cls.house = replace(
            Days().house(),
            zone=ZONE,
            by_hand=cls.series,
            house=House(design_outdoor=-10, design_flow=45),
        )
        cls.lines = []
        for week in range(17):
            at = (1 + 7 * week) * 86_400 // 300 + week  # some minutes later each time
            when = datetime.fromtimestamp(cls.done.start + at * 300, zone)
            cls.lines.append(
                TypedCells(
                    f"{when:%Y-%m-%d %H:%M}",
                    {
                        "electricity": f"{cls.registers[0][at - 1]:.1f}",
                        "heat": f"{cls.registers[1][at - 1]:.0f}",
                    },
                )
            )
        cls.zone = zone

    def record(self, logged: Trace | None = None, lines=None, **changes):
        house = replace(self.house, **changes)
        rows, problems = read_rows(lines or self.lines, house.by_hand, self.zone, 2e9)
        self.assertEqual(problems, [])
        sheet = sheet_of(house, [r for r in rows if r is not None])
        assert sheet is not None
        return record_of(sheet, house.by_hand, logged)

    def test_the_whole_is_the_difference_of_the_registers(self) -> None:
        found = assess(*self.record()).main
        first, last = self.lines[0].values, self.lines[-1].values
        self.assertAlmostEqual(
            found.electricity.value, float(last["electricity"]) - float(first["electricity"])
        )
        self.assertAlmostEqual(found.heat.value, float(last["heat"]) - float(first["heat"]))

    def test_a_month_between_readings_is_within_its_u(self) -> None:
        found = {m.period.name: m for m in assess(*self.record()).months}
        checked = 0
        for name, month in found.items():
            one = month.reckonings[-1]
            if one.coverage < 0.99 or one.cop is None:
                continue
            a, b = (
                round((t - self.done.start) / 300) for t in (month.period.start, month.period.stop)
            )
            for register, figure in zip(self.registers, (one.electricity, one.heat), strict=True):
                self.assertLess(
                    abs(register[b - 1] - register[a - 1] - figure.value), figure.U, name
                )
            checked += 1
        self.assertGreaterEqual(checked, 2)

    def test_compared_with_the_weather_and_refused_without(self) -> None:
        table = rated_table(self.done.scenario.plant)
        alone = assess(*self.record(rated=table))
        self.assertIn("no outdoor temperature", alone.verdict.sentence)
        weather = Trace(self.done.start, 300, {"outdoor_temp": self.done.columns["outdoor_temp"]})
        found = assess(*self.record(weather, rated=table))
        assert found.comparison is not None
        self.assertGreater(found.comparison.hours, 100 * 24)
        said = " ".join(what for what, _ in found.comparison.assumed)
        self.assertIn("flow temperature that the house's design asks for", said)
        self.assertIn(
            "neither a flow temperature",
            assess(*self.record(weather, rated=table, house=House())).verdict.sentence,
        )

    def test_outdoor_readings_of_the_sheet_are_spots(self) -> None:
        series = (*self.series, HandSeries("out", "other", "degC", channel="outdoor_temp"))
        lines = [replace(one, values={**one.values, "out": "4"}) for one in self.lines]
        installation, trace = self.record(lines=lines, by_hand=series)
        self.assertEqual(installation.outdoor.limit_k, 4.0)
        self.assertAlmostEqual(float(np.nanmean(trace["outdoor_temp"])), 4.0)

    def test_totals_of_months_and_a_register_mix(self) -> None:
        """December is there although its first row is stamped in the morning."""
        series = (
            self.series[0],
            HandSeries("heat", "heat", "kWh", meter="heat", keeps="month"),
        )
        lines = [
            TypedCells("2025-12-01 08:00", {"electricity": "1000"}),
            TypedCells("2025-12", {"heat": "900"}),
            TypedCells("2026-01-01 07:00", {"electricity": "1300"}),
            TypedCells("2026-01", {"heat": "1000"}),
            TypedCells("2026-02-01 08:00", {"electricity": "1650"}),
        ]
        found = {
            m.period.name: m.reckonings[-1]
            for m in assess(*self.record(lines=lines, by_hand=series)).months
        }
        self.assertGreater(found["2025-12"].coverage, 0.98)
        self.assertAlmostEqual(found["2025-12"].cop.value, 3.0, delta=0.06)


class Mixing(TestCase):
    def test_checks_that_mixed_readings_cannot_feed_stay_silent(self) -> None:
        kind, scenario = usual(0, 40)
        done = simulate(scenario)
        found = analyse_record(described(scenario, done), seldom(done.trace(), 900, counters=False))
        by_name = {c.name: c for c in found.facts.checks}
        for name in ("pair offset", "flow reading", "other loads"):
            self.assertEqual(by_name[name].soundness, Soundness.NOT_CHECKABLE, (kind, name))
            self.assertIn("15 min apart", by_name[name].sentence)


class UsualPlants(TestCase):
    """Healthy plants whose logs are written every quarter of an hour, every hour, once a day;
    `make validate` has more."""

    plants: list[Seldom]

    @classmethod
    def setUpClass(cls) -> None:
        count = len(USUAL)
        cls.plants = [seen_seldom(count * k + (2 * k) % count, 45) for k in range(len(SELDOM))]

    def test_each_way_is_there(self) -> None:
        self.assertEqual({(p.step, p.counters) for p in self.plants}, set(SELDOM))

    def test_compared_and_not_accused(self) -> None:
        for plant in self.plants:
            said = (plant.kind, plant.step, plant.counters)
            self.assertEqual((plant.unsound, plant.actions), ((), ()), said)
            assert plant.ratio is not None, said
            value, U, true = plant.ratio
            self.assertLessEqual(abs(value - true), U, said)
            self.assertLess(U, 0.35, said)
