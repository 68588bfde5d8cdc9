"""Comparing at the boundary that is metered, and tables of any levels: sums written out by hand."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from ember.assessment.assess import assess
from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import compared_between, judge
from ember.basis.codes import CheckCode
from ember.basis.errors import TableError
from ember.basis.periods import Period
from ember.basis.series import Trace
from ember.boundary import Level
from ember.boundary.combinations import summed
from ember.comparison.performance_ratio import stands_at
from ember.description.installation import (
    Consumer,
    ElectricityMeter,
    FixedPower,
    HeatSource,
    RatedPoint,
    RatedTable,
    RunsWith,
)
from ember.rated import surface, surfaces, table_from_csv
from ember.rated.further import FURTHER_PUMP
from ember.trust import Affects, Check, Soundness
from stand_ins.scenario import rated_table, simulate
from stand_ins.usual import usual
from tests.core.helpers import LITRE_PER_MIN, START, UNIT, installation
from validation.trust import described

EVERYTHING = (*UNIT, Consumer.DISTRIBUTION_PUMP)
# One COP everywhere in use, whatever the weather: 4.0 at 35 °C and 2 °C outdoors.
FLAT = RatedTable(
    points=tuple(RatedPoint(o, f, 8.0, 4.0) for o in (-10.0, 15.0) for f in (25.0, 45.0)),
    includes_defrost=False,
)


def plant(pump_on: bool = False, pump: float = 60.0, heater: float = 0.0) -> Trace:
    """Four days: four hours of running at a COP of 4 and two of rest; water of 20 L/min at
    35/30 °C, a pump, and on the last two days a heater for half an hour in the middle of a run."""
    n, k = 4 * 1440, np.arange(4 * 1440)
    on = k % 360 < 240
    moving = on | (pump_on & (k % 360 >= 300))
    heat = 20 * LITRE_PER_MIN * 994.0 * 4179 * 5.0
    helped = on & (k % 360 >= 110) & (k % 360 < 140) & (k >= n // 2) & (heater > 0)
    power = np.where(on, heat / 4, 12.0) + pump * moving + heater * helped
    extra = heater * helped / (20 * LITRE_PER_MIN * 994.0 * 4179)
    channels = {
        "flow_rate": 20 * LITRE_PER_MIN * moving,
        "flow_temp": np.where(on, 35.0 + extra, 28.0),
        "return_temp": np.where(on, 30.0, 28.0),
        "power:unit": power,
        "outdoor_temp": np.full(n, 2.0) + 0.5 * np.sin(k / 200),
    }
    return Trace(START, 60, channels)


def one_meter(**changes):
    """Everything behind one meter."""
    held = changes.pop("held", EVERYTHING)
    return installation(
        electricity=(ElectricityMeter("main", "power:unit", held),),
        consumers=held,
        rated=FLAT,
        **changes,
    )


class AtTheMeter(TestCase):
    """COP 4 exactly as rated: the ratio is 1 at whichever level the meter stands."""

    def compared(self, described, trace):
        found = assess(described, trace)
        assert found.comparison is not None
        return found.comparison

    def test_a_pump_that_is_read_from_the_log(self) -> None:
        found = self.compared(one_meter(), plant(pump_on=True))
        self.assertEqual(found.measured.level, Level.H4)
        (pump,) = found.further
        self.assertAlmostEqual(pump.watts, 60.0, delta=1.0)  # 72 W with flow, 12 W without
        self.assertAlmostEqual(found.ratio.value, 1.0, delta=0.004)
        words = " ".join(stands_at(found))
        self.assertIn("72 W with the water flowing and the compressor at rest, 12 W", words)

    def test_a_pump_that_cannot_be_read_is_a_range_in_U(self) -> None:
        found = self.compared(one_meter(), plant())
        (pump,) = found.further
        self.assertEqual(
            (pump.watts, pump.limit),
            (sum(FURTHER_PUMP) / 2, (FURTHER_PUMP[1] - FURTHER_PUMP[0]) / 2),
        )
        self.assertLess(abs(found.ratio.value - 1), found.ratio.U)
        self.assertIn("pump: power", " ".join(p.source for p in found.ratio.budget))
        self.assertIn("What would narrow it", " ".join(stands_at(found)))
        read = self.compared(one_meter(), plant(pump_on=True))
        self.assertGreater(found.ratio.U, read.ratio.U)

    def test_a_pump_that_is_described_brings_the_table_back_to_H2(self) -> None:
        fixed = FixedPower("pump", (Consumer.DISTRIBUTION_PUMP,), 60.0, RunsWith.PUMP, limit=0.05)
        found = self.compared(one_meter(fixed=(fixed,)), plant())
        self.assertEqual((found.measured.level, found.further), (Level.H2, ()))
        self.assertAlmostEqual(found.ratio.value, 1.0, delta=0.004)

    def test_a_heater_in_the_same_meter_is_told_by_its_steps(self) -> None:
        described = one_meter(held=(*EVERYTHING, Consumer.BACKUP_HEATER))
        both = (HeatSource.HEAT_PUMP, HeatSource.BACKUP_HEATER)
        described = replace(described, circuits=(replace(described.circuits[0], includes=both),))
        found = self.compared(described, plant(pump_on=True, heater=3000.0))
        self.assertAlmostEqual(found.ratio.value, 1.0, delta=0.01)
        # Half an hour in each of the eight runs of the last two days, and what is too near to it.
        self.assertGreaterEqual(found.heater_hours, 4.0)
        self.assertLess(found.heater_hours, 8.0)
        assert found.with_heater is not None
        self.assertLess(found.with_heater.value, found.ratio.value)

    def test_what_the_log_doubts_is_shown_and_not_judged(self) -> None:
        trace = plant(pump_on=True)
        less = trace.with_channels({"power:unit": trace["power:unit"] * 0.65})
        found = assess(one_meter(), less)
        assert found.comparison is not None
        self.assertGreater(found.comparison.ratio.value, 1.4)
        self.assertTrue(any(c.unsound for c in found.checks))
        self.assertNotIn(found.verdict.kind.value, ("as rated", "below rated", "watch"))

    def test_a_short_span_is_not_doubted(self) -> None:
        """Five hours give no verdict, but nothing is wrong with their ratio."""
        trace = plant(pump_on=True)
        short = assess(one_meter(), trace, START, START + 5 * 3600)
        self.assertEqual((short.verdict.kind.value, short.verdict.doubted), ("no verdict", False))
        analysis = analyse_record(one_meter(), trace)
        whole = Period("whole", float(analysis.start), float(analysis.stop))
        check = Check(
            CheckCode.PAIR_OFFSET,
            Soundness.DOUBTFUL,
            "It is off.",
            (whole,),
            "",
            (),
            (Affects.HEAT,),
        )
        ill = replace(analysis, facts=replace(analysis.facts, checks=(check,)))
        found = judge(ill, compared_between(ill, whole), whole)
        self.assertEqual((found.kind.value, found.doubted), ("no verdict", True))


class Submeter(TestCase):
    def test_a_heater_with_a_submeter_inside_the_main_meter(self) -> None:
        """Described as what each holds, and subtracted: no steps need to be told."""
        trace = plant(pump_on=True, heater=3000.0)
        k = np.arange(len(trace))
        on = (k % 360 >= 110) & (k % 360 < 140) & (k >= len(trace) // 2)
        trace = trace.with_channels({"power:heater": 3000.0 * on})
        whole = (*EVERYTHING, Consumer.BACKUP_HEATER)
        base = one_meter(held=whole)
        both = (HeatSource.HEAT_PUMP, HeatSource.BACKUP_HEATER)
        heater = ElectricityMeter("heater", "power:heater", (Consumer.BACKUP_HEATER,))
        described = replace(
            base,
            electricity=(*base.electricity, heater),
            circuits=(replace(base.circuits[0], includes=both),),
        )
        found = assess(described, trace)
        self.assertIn("as rated", found.verdict.kind.value)
        assert found.comparison is not None
        # Eight half hours, and five minutes before and after each, in which nothing is settled.
        self.assertAlmostEqual(found.comparison.heater_hours, 8 * 40 / 60, 3)
        self.assertAlmostEqual(found.comparison.ratio.value, 1.0, delta=0.01)


class GivenHeat(TestCase):
    def test_a_heater_behind_the_heat_meter_counts_as_its_electricity(self) -> None:
        """Heat of a level: Σ of its heat meters, and of heaters that are metered by electricity
        alone (COP 1), in one function: here that of the circuit and 1 kW all the time."""
        trace = plant().with_channels({"power:heater": np.full(4 * 1440, 1000.0)})
        heater = ElectricityMeter("heater", "power:heater", (Consumer.BACKUP_HEATER,))
        base = one_meter()
        described = replace(
            base,
            electricity=(*base.electricity, heater),
            consumers=(*EVERYTHING, Consumer.BACKUP_HEATER),
        )
        analysis = analyse_record(described, trace)
        whole = analysis.facts.combinations[Level.H4]
        given = summed(whole.given, analysis.segments.energy)
        assert given is not None
        circuit = analysis.segments.energy("circuit")
        np.testing.assert_allclose(given.sum() - circuit.sum(), 1000.0 * 4 * 86_400)
        reckoned = assess(described, trace).main
        assert reckoned is not None and reckoned.heat is not None
        self.assertAlmostEqual(reckoned.heat.value, given.sum() / 3.6e6, 6)


class Levels(TestCase):
    """Tables as makers give them."""

    def points(self, levels: dict[str, tuple[float, float]]) -> RatedTable:
        return RatedTable(
            points=tuple(
                RatedPoint(o, f, kw, cop, speed=name)
                for name, (kw, cop) in levels.items()
                for o in (-7.0, 7.0)
                for f in (35.0, 45.0)
            )
        )

    def test_any_number_of_loads_by_any_name(self) -> None:
        at = np.array([0.0]), np.array([40.0])
        made = ((2.0, 3.0), (4.0, 2.8), (8.0, 2.4))
        for names in (("25 %", "50 %", "100 %"), ("30 Hz", "60 Hz", "90 Hz"), ("a", "b", "c")):
            shape = surfaces(self.points(dict(zip(names, made, strict=True))))
            place = np.array([3000.0])
            least, middle = (float(shape.levels[k].cop(*at)[0]) for k in (0, 1))
            # Half-way between 2 and 4 kW stands half-way between their COPs.
            self.assertAlmostEqual(float(shape.cop(*at, place)[0]), (least + middle) / 2, 9)

    def test_numbers_count_and_not_letters(self) -> None:
        table = self.points({"100 %": (8, 3.5), "9 %": (1, 5), "50 %": (4, 4.5)})
        self.assertEqual(table.speeds, ("9 %", "50 %", "100 %"))
        self.assertEqual(self.points({"40 Hz": (4, 4), "80 Hz": (8, 3)}).hertz("80 Hz"), 80.0)

    def test_a_cell_that_cannot_be_is_left_out_and_the_rest_serves(self) -> None:
        rows = ["outdoor [°C],flow [°C],capacity [kW],cop"]
        rows += [
            f"{o},{f},8,{round(0.4 * (f + 273) / (f - o), 2)}" for o in (-7, 2, 7) for f in (35, 45)
        ]
        rows += ["20,35,9,7.1", "20,20,9,9", "20,45,9,5.0"]  # 20 → 20 °C has no lift
        table = table_from_csv("\n".join(rows), "t.csv")
        self.assertNotIn((20.0, 20.0), {(p.outdoor, p.flow) for p in table.points})
        self.assertTrue(np.isfinite(surface(table).cop(np.array([10.0]), np.array([40.0])))[0])
        with self.assertRaises(TableError):
            table_from_csv("\n".join([rows[0], "20,20,9,9", "25,20,9,9", "2,35,8,3"]), "t.csv")

    def test_rows_of_airflow_are_interpolated(self) -> None:
        points = tuple(
            RatedPoint(o, i, kw, cop, airflow_m3h=flow)
            for flow, kw, cop in ((400.0, 3.0, 4.0), (800.0, 4.0, 4.4))
            for o in (-7.0, 7.0)
            for i in (16.0, 24.0)
        )
        table = RatedTable(points=points, kind="air")
        at = np.array([0.0]), np.array([20.0])
        shape = surface(table, airflow=600.0)
        self.assertAlmostEqual(float(shape.capacity_at(*at)[0]), 3500.0, 6)
        # Input 0.75 and 0.909 kW: capacity over input, each half-way.
        self.assertAlmostEqual(float(shape.cop(*at)[0]), 3.5 / ((3 / 4 + 4 / 4.4) / 2), 6)
        self.assertAlmostEqual(float(surface(table, airflow=2000.0).capacity_at(*at)[0]), 4000.0, 6)

    def test_no_surface_leaves_the_range_of_the_points_around_it(self) -> None:
        """Where the lift is small, the share of Carnot makes a hump between two points."""
        table = RatedTable(
            points=tuple(
                RatedPoint(o, f, 8.0, cop)
                for o, cops in ((12.0, (7.6, 5.2)), (20.0, (8.4, 6.4)))
                for f, cop in zip((25.0, 35.0), cops, strict=True)
            )
        )
        outdoor = np.linspace(12, 20, 33)
        for flow, (low, high) in ((25.0, (7.6, 8.4)), (35.0, (5.2, 6.4))):
            found = surface(table).cop(outdoor, np.full(33, flow))
            self.assertGreaterEqual(found.min(), low - 1e-9)
            self.assertLessEqual(found.max(), high + 1e-9)


class Usual(TestCase):
    def test_counters_alone_are_compared_with_an_honest_U(self) -> None:
        """No power, no flow: registers of electricity, heat and water, and two temperatures."""
        seed = next(k for k in range(12) if usual(k)[0] == "counters alone")
        _, scenario = usual(seed, 40)
        done = simulate(scenario)
        trace = done.trace()
        self.assertNotIn("power:unit", trace)
        found = assess(described(scenario, done), trace)
        assert found.comparison is not None
        self.assertEqual(found.comparison.measured.level, Level.H4)
        self.assertLess(abs(found.comparison.ratio.value - 1), found.comparison.ratio.U + 0.03)
        self.assertGreater(len(rated_table(scenario.plant).points), 8)
