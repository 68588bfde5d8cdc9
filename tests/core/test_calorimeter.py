"""The tank as a calorimeter: charges without draws, against heat by hand and against the heat meter
of the stand-in, which the tank knows nothing of."""

from dataclasses import replace
from functools import cache
from unittest import TestCase

import numpy as np

from ember.assessment.record_analysis import analyse_record
from ember.basis.periods import Period
from ember.description.house import PhaseChange, Tank
from ember.events.cells import CellArrays
from ember.events.hot_water_charges import HotWaterCharges, charges
from ember.operation import operation
from ember.operation.calorimeter import CALORIMETER_LEAST, calorimeter, charge_heat
from ember.operation.within import Within
from ember.views.hot_water import water_seen
from stand_ins.scenario import simulate
from stand_ins.varrick import INSTALLATIONS
from tests.core.test_operation import states_of

TANK = Tank(volume_l=200.0, effective_share=1.0, loss_w_k=2.0)


def charge(
    before: float = 0.0, during: float = 0.0, after: float = 0.0, step: int = 60
) -> HotWaterCharges:
    """One charge from 20 to 50 °C of an hour; before and after it the tank falls by so much an
    hour [K/h], and during it once by so much [K]."""
    codes = [2] * 60 + [5] * 60 + [2] * 60
    hours = np.arange(60) / 60
    rise = np.linspace(20, 50, 60)
    rise[30:] -= during
    tank = np.concatenate([20.0 + before * (1 - hours), rise, rise[-1] - after * hours])
    power = np.full(len(codes), 2000.0 * step)
    return charges(
        CellArrays(0, step, states_of(codes, step), None, power, tank=tank, tank_mean=tank)
    )


@cache
def within(key: str = "one-meter", clock: float = 3.0, **changes) -> Within:
    """The record of a house whose tank is charged by the clock, or whenever it is cold."""
    base = INSTALLATIONS[key]
    plant = base.plant._replace(tank_clock=clock, tank_set=50.0)
    done = simulate(replace(base, days=45, step=120, plant=plant))
    assert done.installation.tank is not None
    tank = replace(done.installation.tank, effective_share=1.0, **changes)
    analysis = analyse_record(replace(done.installation, tank=tank), done.trace())
    period = Period("record", float(analysis.start), float(analysis.stop))
    return Within(analysis, operation(analysis, done.trace()), period)


class Draws(TestCase):
    def test_a_quiet_charge_is_taken(self) -> None:
        for losing in (0.0, 0.3):  # K/h, as tanks do by themselves
            self.assertEqual(charge(before=losing, after=losing).drawn.tolist(), [0])

    def test_draws_refuse_it(self) -> None:
        """A shower of 30 L from 200 L of 50 °C is 6 K; a trickle of 350 W is 1.5 K/h."""
        for told in ({"before": 1.5}, {"after": 1.5}, {"during": 1.5}):
            self.assertEqual(charge(**told).drawn.tolist(), [1], told)

    def test_a_draw_that_calls_for_the_charge(self) -> None:
        codes = [2] * 60 + [5] * 60 + [2] * 60
        tank = np.concatenate(
            [
                np.full(55, 44.0),
                44 - 0.1 * np.arange(5),
                np.linspace(43.6, 50, 60),
                np.full(60, 50.0),
            ]
        )
        found = charges(CellArrays(0, 60, states_of(codes), None, None, tank=tank, tank_mean=tank))
        self.assertEqual(found.drawn.tolist(), [1])

    def test_nothing_is_said_without_what_stands_about_it(self) -> None:
        codes = [2] * 10 + [5] * 60 + [2] * 10
        tank = np.concatenate([np.full(10, 20.0), np.linspace(20, 50, 60), np.full(10, 50.0)])
        found = charges(CellArrays(0, 60, states_of(codes), None, None, tank=tank, tank_mean=tank))
        self.assertEqual(found.drawn.tolist(), [-1])
        bare = charges(CellArrays(0, 60, states_of(codes), None, None, tank=tank))
        self.assertEqual(bare.drawn.tolist(), [-1])


class Heat(TestCase):
    def test_by_hand(self) -> None:
        """ρ·V·c_p·ΔT of water at 35 °C (994.0 kg/m³, 4.178 kJ/(kg K), IAPWS-95) over 30 K is
        6.92 kWh; 2 W/K lose 30 Wh in the hour. One probe: ±15 %."""
        found = charge()
        seconds = np.array([3600.0])
        heat = charge_heat(TANK, 1, found, np.array([0]), seconds)
        warmed = 994.0 * 0.2 * 4178.0 * float(found.end[0] - found.begin[0]) / 3.6e6
        seen = float(found.unseen[0]) * 3600 * 994.0 * 0.2 * 4178.0 / 3.6e6
        lost = 2.0 * (0.5 * float(found.begin[0] + found.end[0]) - 20.0) / 1000
        self.assertAlmostEqual(heat.value, warmed + lost + (seen - lost) / 2, delta=0.01)
        probe = next(p for p in heat.budget if "probe" in p.source)
        self.assertAlmostEqual(probe.u, 0.15 / 3**0.5 * warmed, delta=0.005)
        self.assertLess(charge_heat(TANK, 3, found, np.array([0]), seconds).U, heat.U)
        self.assertIsNone(charge_heat(TANK, 1, found, np.array([], int), seconds))

    def test_a_store_that_melts_has_its_described_heat(self) -> None:
        store = replace(TANK, phase_change=PhaseChange(kwh=3.5, melts_at=30.0))
        heat = charge_heat(
            store, 1, charge(before=0.3, after=0.3), np.array([0]), np.array([3600.0])
        )
        self.assertAlmostEqual(heat.value, 3.5, delta=0.12)
        told = next(p for p in heat.budget if "store" in p.source)
        self.assertAlmostEqual(told.u, 0.2 * 3.5 / 3**0.5, 9)


class OnTheStandIn(TestCase):
    def test_it_agrees_with_the_heat_meter(self) -> None:
        """The same charges by the heat meter, whose heat also warms the primary loop."""
        seen = within()
        pick = seen.pick(seen.found.charges.start)
        told = calorimeter(seen, pick)
        table = seen.found.charges
        quiet = pick[(table.whole[pick] > 0) & (table.drawn[pick] == 0)]
        self.assertEqual(told.charges, len(quiet))
        metered = table.heat[quiet].sum() / table.electricity[quiet].sum()
        self.assertLess(abs(told.cop.value - metered), told.cop.U)
        self.assertAlmostEqual(
            told.electricity.value,
            table.electricity[quiet].sum() / 3.6e6,
            delta=0.01 * told.electricity.value,
        )
        stages = sum(s.heat for s in told.stages)
        self.assertAlmostEqual(stages, told.heat.value, delta=0.05 * told.heat.value)

    def test_with_a_power_meter_and_a_probe_alone(self) -> None:
        seen = water_seen(within("electricity-only"))
        self.assertIsNone(seen.total.cop)
        self.assertTrue(seen.stages_by_tank)
        self.assertGreater(seen.calorimeter.cop.U / seen.calorimeter.cop.value, 0.15)
        self.assertTrue(2.0 < seen.calorimeter.cop.value < 5.0)
        self.assertIn("water drawn", {mark for row in seen.rows for mark in row.marks})
        self.assertTrue(all(row.electricity is not None for row in seen.rows))

    def test_charges_that_draws_call_for_are_refused(self) -> None:
        told = water_seen(within(clock=0.0)).calorimeter
        self.assertLess(told.charges, CALORIMETER_LEAST)
        self.assertIsNone(told.cop)
        self.assertIn("without a draw", str(told.reason))
        self.assertGreater(told.refused, 50)

    def test_litres_of_a_store_that_melts(self) -> None:
        """3.5 kWh warm 101 L from 10 to 40 °C (4.18 kJ/(kg K))."""
        seen = water_seen(within(phase_change=PhaseChange(kwh=3.5, melts_at=40.0)))
        litres = [row.litres for row in seen.rows if row.litres is not None]
        self.assertAlmostEqual(litres[0], 3.5 * 3600 / (4.18 * 0.997 * 30), delta=1.0)
        self.assertEqual(seen.calorimeter.stages, [])
