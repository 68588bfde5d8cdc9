"""The sums: hand arithmetic, properties that every sum must have, coverage and uncertainty."""

from dataclasses import replace
from math import sqrt
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from ember.assessment.assess import assess
from ember.basis.series import Span, Trace
from ember.boundary import Level, combinations
from ember.description.installation import (
    ElectricityMeter,
    Exclusion,
    HeatRegister,
    WaterCircuit,
)
from ember.metering import meter
from ember.reckoning import reckon, segmented
from ember.states import State
from tests.core.helpers import START, UNIT, installation, steady, trace

REGISTERS = installation(
    electricity=(ElectricityMeter("unit meter", "energy:unit", UNIT),),
    circuits=(),
    registers=(HeatRegister("heat meter", resolution_kwh=0.001),),
)


def registers(heat_kwh, electricity_kwh, step=60) -> Trace:
    """Two registers that hold so many kWh in each cell."""

    def reading(values):
        return np.concatenate([[100.0], 100.0 + np.cumsum(values)]) * 3.6e6

    return trace(step, heat_energy=reading(heat_kwh), energy_unit=reading(electricity_kwh))


def cells(described, readings, state=None, excluded=(), cuts=(), groups=None, count=1):
    """Reckonings of a trace at its widest level, over groups of cells."""
    meter_energies = meter(described, readings)
    n = len(readings)
    state = np.full(n, State.HEATING, np.int8) if state is None else state
    segments = segmented(readings.start, readings.step, state, meter_energies, excluded, cuts, {})
    combination = [p for p in combinations(described, meter_energies).values() if p.reason is None][
        -1
    ]
    label = (
        np.zeros(len(segments.edges) - 1, int) if groups is None else groups[segments.edges[:-1]]
    )
    return reckon(segments, combination, label, [(0.0, 1.0)] * count)


class HandSums(TestCase):
    def test_sum_over_sum_never_the_mean_of_ratios(self) -> None:
        """5 kWh from 1 and 10 from 3: 15/4 = 3.75, not 4.17 (hand sum)."""
        day = 3600
        found = cells(REGISTERS, registers([5, 10, 0], [1, 3, 0], day))[0]
        self.assertAlmostEqual(found.cop.value, 3.75)

    def test_plain_quotient(self) -> None:
        """520 kWh of heat on 160 kWh of electricity: 3.25 (hand sum)."""
        found = cells(REGISTERS, registers([60] * 8 + [40], [18] * 8 + [16], 3600))[0]
        self.assertAlmostEqual(found.heat.value, 520)
        self.assertAlmostEqual(found.cop.value, 3.25)

    def test_a_meter_left_out_moves_the_cop(self) -> None:
        """12 kWh; 2.60 on the unit's meter and 0.20 on the auxiliary one: 4.6, with both 4.3."""
        described = replace(
            REGISTERS,
            electricity=(
                *REGISTERS.electricity,
                ElectricityMeter("pump", "power:pump", ("distribution_pump",)),
            ),
            consumers=(*UNIT, "distribution_pump"),
        )
        readings = registers([12, 0], [2.6, 0], 3600)
        n = len(readings)
        readings = readings.with_channels({"power:pump": np.array([200.0] + [0.0] * (n - 1))})
        total = assess(described, readings).total
        self.assertAlmostEqual(total.at(Level.H2).cop.value, 12 / 2.6, places=6)
        self.assertAlmostEqual(total.at(Level.H4).cop.value, 12 / 2.8, places=6)

    def test_since_start(self) -> None:
        """180 Wh in and 600 Wh out: 3.33, not the 2.33 of yield over electricity (hand sum)."""
        found = cells(REGISTERS, registers([0.6, 0], [0.18, 0], 900))[0]
        self.assertAlmostEqual(found.cop.value, 3.33, places=2)

    def test_a_register_of_whole_kwh(self) -> None:
        """12 kWh on a register with 1 kWh steps: each reading ±0.5 kWh, ±4 % of 12 (hand sum);
        two independent rectangular roundings are 1/√6 kWh at k = 1 (GUM 4.3.7)."""
        described = replace(REGISTERS, registers=(HeatRegister("heat meter", resolution_kwh=1.0),))
        found = cells(described, registers([12, 0], [2.6, 0], 3600))[0]
        (step,) = [p.u for p in found.heat.budget if p.source == "heat meter: register step"]
        self.assertAlmostEqual(step, 1 / sqrt(6), places=9)
        self.assertAlmostEqual(0.5 / 12, 0.04, delta=0.003)

    def test_defrost_is_negative_and_counts(self) -> None:
        readings = steady(1)
        warm = readings["flow_temp"].copy()
        warm[20:25] = 26.0
        state = np.full(len(readings), State.HEATING, np.int8)
        state[20:25] = State.DEFROST
        found = cells(installation(), readings.with_channels({"flow_temp": warm}), state)[0]
        lines = {line.name: line.energy.value for line in found.heat_lines}
        self.assertLess(lines["defrost, taken back"], 0)
        self.assertAlmostEqual(sum(lines.values()), found.heat.value, places=9)
        self.assertGreater(found.gross_cop.value, found.cop.value)

    def test_no_electricity_no_cop(self) -> None:
        found = cells(installation(), steady(1, power_unit=0.0))[0]
        self.assertIsNone(found.cop)
        self.assertEqual(str(found.reason), "no electricity in the covered time")


class Properties(TestCase):
    @settings(max_examples=40)
    @given(st.lists(st.integers(0, 3), min_size=59, max_size=59), st.integers(0, 1000))
    def test_the_cop_of_a_union_is_the_sum_over_the_sum_of_its_parts(self, labels, seed) -> None:
        rng = np.random.default_rng(seed)
        readings = steady(1, flow_temp=35.0)
        readings = readings.with_channels(
            {
                "flow_temp": 30 + rng.uniform(-2, 8, 60),
                "power:unit": rng.uniform(500, 3000, 60),
            }
        )
        groups = np.array([*labels, 0])
        cuts = [np.flatnonzero(np.diff(groups)) + 1]
        parts = cells(installation(), readings, cuts=cuts, groups=groups, count=4)
        whole = cells(installation(), readings)[0]
        heat, electricity = (
            sum(getattr(p, side).value for p in parts) for side in ("heat", "electricity")
        )
        self.assertAlmostEqual(heat, whole.heat.value, places=9)
        self.assertAlmostEqual(electricity, whole.electricity.value, places=9)
        if whole.cop is not None:
            self.assertAlmostEqual(heat / electricity, whole.cop.value, places=9)
        # What is systematic adds up linearly, so the parts know as much as the whole.
        summed = sum(
            part.u for p in parts for part in p.electricity.budget if "class" in part.source
        )
        (alone,) = [p.u for p in whole.electricity.budget if "class" in p.source]
        self.assertAlmostEqual(summed, alone, places=9)

    @settings(max_examples=25)
    @given(st.lists(st.integers(1, 178), max_size=6))
    def test_cutting_anywhere_changes_no_total(self, cuts) -> None:
        readings = steady(3)
        whole = cells(installation(), readings)[0]
        cut = cells(installation(), readings, cuts=[np.array(cuts, int)])[0]
        self.assertAlmostEqual(whole.heat.value, cut.heat.value, places=9)
        self.assertAlmostEqual(whole.cop.U, cut.cop.U, places=9)

    @settings(max_examples=15)
    @given(st.integers(600, 3 * 86400 - 600))
    def test_two_assessments_side_by_side_add_up(self, second) -> None:
        readings = steady(72)
        at = START + second // 60 * 60
        whole = assess(installation(), readings).main
        first = assess(installation(), readings, None, at).main
        rest = assess(installation(), readings, at, None).main
        for side in ("heat", "electricity"):
            parts = getattr(first, side).value + getattr(rest, side).value
            self.assertAlmostEqual(parts, getattr(whole, side).value, places=6)

    def test_the_order_of_channels_changes_nothing(self) -> None:
        readings = steady(24)
        turned = replace(readings, channels=dict(reversed(readings.channels.items())))
        one, other = assess(installation(), readings), assess(installation(), turned)
        self.assertEqual(one.main, other.main)


class Coverage(TestCase):
    def test_what_is_left_out_is_named_and_timed(self) -> None:
        readings = steady(10)
        power = readings["power:unit"].copy()
        power[60:90] = np.nan
        readings = readings.with_channels({"power:unit": power})
        found = cells(installation(), readings, excluded=[(Span(300, 360), "pump test")])[0]
        self.assertEqual(found.seconds, 36000)
        self.assertEqual(found.covered, 36000 - 1800 - 3600)
        self.assertEqual(
            [(str(left.reason), left.seconds) for left in found.left_out],
            [("pump test", 3600.0), ("no reading of unit meter", 1800.0)],
        )
        self.assertAlmostEqual(found.coverage, 0.85)

    def test_heat_and_electricity_cover_the_same_time(self) -> None:
        readings = steady(10)
        flow = readings["flow_rate"].copy()
        flow[:300] = np.nan
        found = cells(installation(), readings.with_channels({"flow_rate": flow}))[0]
        self.assertAlmostEqual(found.electricity.value, 10.0, places=9)
        self.assertAlmostEqual(found.cop.value, cells(installation(), steady(10))[0].cop.value)

    def test_a_hole_counts_where_both_registers_bridge_it(self) -> None:
        readings = registers([0.1] * 200, [0.03] * 200)
        heat, power = readings["heat_energy"].copy(), readings["energy:unit"].copy()
        heat[50:150] = power[50:150] = np.nan
        both = cells(
            REGISTERS, readings.with_channels({"heat_energy": heat, "energy:unit": power})
        )[0]
        self.assertAlmostEqual(both.heat.value, 20.0, places=6)
        self.assertEqual(both.covered, 200 * 60)

    def test_a_hole_does_not_count_where_only_one_side_bridges_it(self) -> None:
        described = installation(electricity=REGISTERS.electricity)
        n = 201
        readings = steady(n / 60).with_channels({"energy:unit": 3.6e6 * (100 + np.arange(n) / 30)})
        flow, power = readings["flow_rate"].copy(), readings["energy:unit"].copy()
        flow[60:100] = np.nan
        power[50:150] = np.nan
        found = cells(described, readings.with_channels({"flow_rate": flow, "energy:unit": power}))[
            0
        ]
        self.assertAlmostEqual(found.electricity.value, (49 + 50) / 30, places=6)
        self.assertAlmostEqual(found.cop.value, cells(installation(), steady(5))[0].cop.value, 3)

    def test_an_accepted_exclusion_is_in_the_figure_and_said(self) -> None:
        described = installation(
            corrections=(
                Exclusion(start="2026-01-01T02:00", end="2026-01-01T05:00", reason="pump test"),
            )
        )
        found = assess(described, steady(24))
        self.assertEqual(found.main.covered, 21 * 3600)
        self.assertIn("pump test", found.corrections[0])


class WhichWay(TestCase):
    def test_every_reckoning_says_how_the_heat_was_measured(self) -> None:
        self.assertEqual(cells(installation(), steady(1))[0].method, "flow × ΔT, probes")
        self.assertIn("energy register", cells(REGISTERS, registers([1, 0], [1, 0]))[0].method)

    def test_the_budget_names_its_sources(self) -> None:
        described = installation(circuits=(WaterCircuit("circuit", probes="B"),))
        sources = {p.source for p in cells(described, steady(1))[0].cop.budget}
        self.assertEqual(
            sources,
            {
                "circuit: flow sensor",
                "circuit: two probes, class B",
                "fluid properties",
                "unit meter: class not known, taken as MID class A",
            },
        )
