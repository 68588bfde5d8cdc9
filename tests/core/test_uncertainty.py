"""Uncertainty against the `uncertainties` package and a Monte-Carlo of the meters' errors."""

from dataclasses import replace
from math import sqrt
from unittest import TestCase

import numpy as np
from uncertainties import ufloat

from ember.assessment.assess import assess
from ember.assessment.record_analysis import analyse_record
from ember.basis.codes import SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent, exact
from ember.description.installation import (
    Consumer,
    ElectricityAccuracy,
    ElectricityMeter,
    Offset,
    Probes,
    WaterCircuit,
)
from ember.messages import Source
from ember.metering.heat import heat_capacity_rate
from ember.reckoning import budget_of, of_whole_period
from tests.core.helpers import START, UNIT, installation, steady, trace

PROBES = WaterCircuit("circuit", flow_limit=0.05, probes=Probes.CLASS_B)


class AgainstUncertainties(TestCase):
    """The package propagates linearly too; variables shared by figures are shared objects."""

    def test_a_cop_its_difference_and_its_ratio(self) -> None:
        flow, one, other = ufloat(0, 0.03), ufloat(0, 0.01), ufloat(0, 0.012)
        theirs = [q * (1 + flow) / (e * (1 + one)) for q, e in ((900.0, 300.0), (800.0, 290.0))]
        mine = []
        for q, e in ((900.0, 300.0), (800.0, 290.0)):
            heat = Estimate(
                q,
                "kWh",
                (UncertaintyComponent(Source(SourceCode.METHOD, detail="flow"), 0.03 * q),),
            )
            mine.append(
                heat.over(
                    Estimate(
                        e,
                        "kWh",
                        (UncertaintyComponent(Source(SourceCode.METHOD, detail="one"), 0.01 * e),),
                    ),
                    "",
                )
            )
        for m, t in zip(mine, theirs, strict=True):
            self.assertAlmostEqual(m.u, t.std_dev, 9)
        self.assertAlmostEqual((mine[0] - mine[1]).u, (theirs[0] - theirs[1]).std_dev, 9)
        # The same meters on both sides: the ratio knows nothing of their errors.
        self.assertAlmostEqual(mine[0].over(mine[1], "").u, 0.0, 9)
        self.assertAlmostEqual((theirs[0] / theirs[1]).std_dev, 0.0, 9)
        another = Estimate(
            290.0,
            "kWh",
            (UncertaintyComponent(Source(SourceCode.METHOD, detail="other"), 0.012 * 290),),
        )
        changed = Estimate(
            800.0, "kWh", (UncertaintyComponent(Source(SourceCode.METHOD, detail="flow"), 24.0),)
        ).over(another, "")
        ratio = (900.0 / (300.0 * (1 + one))) / (800.0 / (290.0 * (1 + other)))
        self.assertAlmostEqual(mine[0].over(changed, "").u, ratio.std_dev, 9)

    def test_electricity_that_is_heat_as_well(self) -> None:
        """A backup heater's meter in the heat and in the electricity: one variable, both sides."""
        backup = ufloat(50.0, 1.0)
        theirs = (ufloat(900.0, 27.0) + backup) / (ufloat(300.0, 3.0) + backup)
        heater = Estimate(
            50.0, "kWh", (UncertaintyComponent(Source(SourceCode.METHOD, detail="backup"), 1.0),)
        )
        heat = (
            Estimate(
                900.0,
                "kWh",
                (UncertaintyComponent(Source(SourceCode.METHOD, detail="flow"), 27.0),),
            )
            + heater
        )
        used = (
            Estimate(
                300.0, "kWh", (UncertaintyComponent(Source(SourceCode.METHOD, detail="unit"), 3.0),)
            )
            + heater
        )
        self.assertAlmostEqual(heat.over(used, "").u, theirs.std_dev, 9)

    def test_random_parts_never_cancel(self) -> None:
        one = Estimate(
            10.0,
            "kWh",
            (UncertaintyComponent(Source(SourceCode.METHOD, detail="sampling"), 0.3, random=True),),
        )
        other = Estimate(
            8.0,
            "kWh",
            (UncertaintyComponent(Source(SourceCode.METHOD, detail="sampling"), 0.4, random=True),),
        )
        self.assertAlmostEqual((one - other).u, 0.5)
        self.assertAlmostEqual((one + other).u, (ufloat(10, 0.3) + ufloat(8, 0.4)).std_dev)
        self.assertAlmostEqual((exact(1.0, "kWh") - one).u, 0.3)


class MonteCarlo(TestCase):
    """Whole records drawn anew with errors within the described limits; the spread of the COPs is
    what the core says it is, from one record."""

    DRAWS = 400

    def spread(self, described, corrections=()):
        rng = np.random.default_rng(5)
        a = 0.3 + 0.005 * 35
        cops = []
        hours, n = 6, 360
        rise = 3.0 + 3.0 * (np.arange(n) % 60 > 30)
        for _ in range(self.DRAWS):
            gain = 1 + rng.uniform(-0.05, 0.05)
            pair = rng.uniform(-a, a) - rng.uniform(-a, a)
            meter = 1 + rng.uniform(-0.02, 0.02)
            readings = steady(hours).with_channels(
                {
                    "flow_rate": np.full(n, 20e-3 / 60 * gain),
                    "flow_temp": 30 + rise + pair,
                    "power:unit": np.full(n, 1500.0 * meter),
                }
            )
            flow, back = readings["flow_temp"], readings["return_temp"]
            carried = heat_capacity_rate(
                readings["flow_rate"], flow, back, described.fluid, PROBES.meter_in
            )
            cops.append(float((carried * (flow - back)).sum() / readings["power:unit"].sum()))
        return float(np.std(cops))

    def test_two_probes_and_a_flow_sensor(self) -> None:
        meter = ElectricityMeter("unit meter", "power:unit", UNIT, ElectricityAccuracy.CLASS_B)
        described = installation(
            electricity=(meter,), circuits=(replace(PROBES, in_service=False),)
        )
        n = 360
        rise = 3.0 + 3.0 * (np.arange(n) % 60 > 30)
        readings = steady(6, power_unit=1500.0).with_channels({"flow_temp": 30 + rise})
        mine = assess(described, readings).main.cop
        systematic = sqrt(sum(p.u**2 for p in mine.budget if not p.random))
        self.assertAlmostEqual(systematic / self.spread(described), 1, delta=0.1)

    def test_rounding_is_random_and_small_over_time(self) -> None:
        """Steps of 0.5 K on a ΔT that moves: the spread over shifted roundings, and it falls as
        time goes on (hand rule: half a step, rectangular, anew every ten minutes)."""
        rng = np.random.default_rng(3)
        n = 1440
        wander = 5 + np.cumsum(rng.normal(0, 0.05, n)) % 1.5
        true, seen = [], []
        for _ in range(300):
            shift = rng.uniform(0, 0.5, 2)
            flow = np.round((35 + wander + shift[0]) / 0.5) * 0.5 - shift[0]
            back = np.round((35 + 0.3 * wander + shift[1]) / 0.5) * 0.5 - shift[1]
            true.append(float((0.7 * wander).sum()))
            seen.append(float((flow - back).sum()))
        spread = float(np.std(np.array(seen) / np.array(true)))
        readings = trace(
            flow_rate=np.full(n, 3e-4),
            power_unit=np.full(n, 2000.0),
            flow_temp=np.round((35 + wander) / 0.5) * 0.5,
            return_temp=np.round((35 + 0.3 * wander) / 0.5) * 0.5,
            outdoor_temp=np.full(n, 2.0),
        )
        heat = assess(installation(), readings).main.heat
        (part,) = (p for p in heat.budget if "steps" in p.source)
        self.assertTrue(part.random)
        self.assertGreater(part.u / heat.value, 0.5 * spread)
        self.assertLess(part.u / heat.value, 0.02)

    def test_fine_steps_are_not_looked_at(self) -> None:
        readings = steady(3).with_channels({"flow_temp": 35 + np.linspace(0, 1, 180)})
        sources = [p.source for p in assess(installation(), readings).main.heat.budget]
        self.assertFalse([s for s in sources if "steps of the temperatures" in s])


class Corrected(TestCase):
    def test_an_offset_correction_takes_the_place_of_the_pairs_class(self) -> None:
        """±0.06 K instead of two class-B probes at ΔT 5 K: 1.2 % instead of 16 % (hand sums)."""
        before = assess(installation(), steady(48)).main.heat
        offset = Offset(channel="flow_temp", add=-0.5, U=0.06, reason="found at rest")
        after = assess(installation(corrections=(offset,)), steady(48, flow_temp=35.5)).main.heat
        self.assertAlmostEqual(before.value, after.value, delta=0.001 * before.value)
        by_name = {p.source: 2 * abs(p.u) / after.value for p in after.budget}
        self.assertAlmostEqual(by_name["circuit: offset correction"], 0.06 / 5, delta=1e-3)
        self.assertLess(after.relative, 0.5 * before.relative)

    def test_it_holds_only_between_its_dates(self) -> None:
        offset = Offset(
            channel="flow_temp",
            add=-0.5,
            U=0.06,
            reason="x",
            start="2026-01-01T12:00",
            end="2026-01-02T00:00",
        )
        readings = steady(24, flow_temp=35.5)
        main = assess(installation(corrections=(offset,)), readings).main
        plain = assess(installation(), readings).main
        self.assertAlmostEqual(main.heat.value / plain.heat.value, 1 - 0.5 * 0.5 / 5.5, delta=1e-3)
        sources = {p.source: abs(p.u) / main.heat.value for p in main.heat.budget}
        pair = sources["circuit: two probes, class B"]
        self.assertAlmostEqual(pair, 0.5 * 0.408 / 5.25, delta=0.006)  # half the time


class Budgets(TestCase):
    figure = Estimate(
        3.0,
        "",
        (
            UncertaintyComponent(Source(SourceCode.TWO_PROBES, "circuit", "B"), 0.3),
            UncertaintyComponent(Source(SourceCode.MID_CLASS, "unit meter", "B"), -0.1),
            UncertaintyComponent(Source(SourceCode.SAMPLING, "circuit"), 0.05, random=True),
        ),
    )

    def test_shares_kinds_and_what_pays_most(self) -> None:
        found = budget_of(self.figure)
        self.assertAlmostEqual(sum(line.share for line in found.lines), 1.0)
        self.assertAlmostEqual(found.systematic, 2 * sqrt(0.1))
        self.assertAlmostEqual(found.random, 0.1)
        self.assertEqual(found.pays, "circuit: two probes, class B")
        halved = replace(
            self.figure,
            budget=(
                UncertaintyComponent(Source(SourceCode.METHOD, detail="a"), 0.15),
                *self.figure.budget[1:],
            ),
        )
        self.assertAlmostEqual(found.pays_U, halved.U)
        self.assertIn("matched pair", found.advice)

    def test_an_exact_figure_has_nothing_to_improve(self) -> None:
        self.assertIsNone(budget_of(exact(2.0, "")).pays)


class Gaps(TestCase):
    def test_taken_for_the_whole_the_missing_share_times_the_spread_of_days(self) -> None:
        """Ten days at COP 3 or 4 by turns, a fifth missing: 0.2 × 0.5 (hand sum)."""
        n = 12 * 1440
        day = np.arange(n) // 1440
        power = np.where(day % 2 == 0, 2400.0, 1800.0)
        readings = trace(
            flow_rate=np.full(n, 20e-3 / 60),
            flow_temp=np.full(n, 35.0),
            return_temp=np.where(day < 10, 30.0, np.nan),
            power_unit=power,
            outdoor_temp=2 + 0.1 * (np.arange(n) % 7),
        )
        found = analyse_record(installation(), readings, [START])
        main = assess(installation(), readings).main
        combination = found.facts.combinations[main.level]
        groups = np.zeros(len(found.segments.state), int)
        whole = of_whole_period(found.segments, combination, groups, main)
        (part,) = (p for p in whole.budget if p.source == "time not covered")
        q = main.heat.value / 10
        cops = np.array([q / 57.6, q / 43.2])
        mean = 2 * q / 100.8
        spread = sqrt((57.6 * (cops[0] - mean) ** 2 + 43.2 * (cops[1] - mean) ** 2) / 100.8)
        self.assertAlmostEqual(part.u, spread * (1 - main.coverage), delta=1e-6)
        self.assertGreater(whole.U, main.cop.U)

    def test_without_gaps_nothing_is_added(self) -> None:
        main = assess(installation(), steady(48)).main
        found = analyse_record(installation(), steady(48))
        combination = found.facts.combinations[main.level]
        groups = np.zeros(len(found.segments.state), int)
        self.assertEqual(of_whole_period(found.segments, combination, groups, main), main.cop)


class Gross(TestCase):
    def test_no_consumer_twice(self) -> None:
        """Every consumer is in exactly one line of the electricity."""
        meters = (
            ElectricityMeter("all", "power:all", (*UNIT, Consumer.DISTRIBUTION_PUMP)),
            ElectricityMeter("pump", "power:pump", (Consumer.DISTRIBUTION_PUMP,)),
        )
        described = installation(electricity=meters, consumers=(*UNIT, Consumer.DISTRIBUTION_PUMP))
        n = 180
        readings = steady(3).with_channels(
            {"power:all": np.full(n, 2050.0), "power:pump": np.full(n, 50.0)}
        )
        by_level = {r.level.value: r for r in assess(described, readings).total.reckonings}
        self.assertAlmostEqual(by_level["H4"].electricity.value, 6.15)
        self.assertAlmostEqual(by_level["H2"].electricity.value, 6.00)
        self.assertEqual([x.name for x in by_level["H2"].electricity_lines], ["all", "less pump"])
