"""Runs, starts, defrosts, hot water, control and the refrigerant: sums by hand, reference
libraries,
and the simulation's truth."""

from dataclasses import replace
from functools import cache
from unittest import TestCase

import numpy as np
import psychrolib
from CoolProp.CoolProp import PropsSI

from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import cooling
from ember.basis.periods import Period
from ember.basis.series import Trace, spans_of
from ember.description.installation import AirCircuit, HeatPump, OutdoorSensor, StateIs
from ember.description.thresholds import Thresholds
from ember.events.cells import CellArrays, means, sums
from ember.events.defrost_judgement import judged
from ember.events.defrosts import defrost_cost, defrosts
from ember.events.frost import frosting_potential
from ember.events.hot_water_charges import charges
from ember.events.runs import Ended, most_in_an_hour, runs
from ember.events.starts import overlay, start_loss, starts
from ember.metering import meter
from ember.metering.on import ON_LEAST, on_limit
from ember.operation import operation
from ember.operation.cached import from_bytes, to_bytes
from ember.operation.record import rooms_of
from ember.operation.within import Within
from ember.properties.refrigerant import enthalpies
from ember.states import State, running
from ember.states.state import Basis, Running
from ember.views.control import control_seen
from ember.views.defrosts import defrosts_seen
from ember.views.hot_water import water_seen
from ember.views.inside import inside_seen
from ember.views.runs import Which, runs_seen
from ember.views.starts import Filter, starts_seen
from ember.views.units import meters_seen
from stand_ins.catalogue import SCENARIOS, varied
from stand_ins.scenario import rated_table, simulate
from stand_ins.varrick import INSTALLATIONS
from tests.core.helpers import START, installation, steady, trace
from validation.running import all_told, states_right

psychrolib.SetUnitSystem(psychrolib.SI)
WH = 3600.0


@cache
def ran(key: str, days: int = 60, **plant: float) -> Within:
    """A simulated winter, November on, as a period of its operation."""
    known = {**SCENARIOS, **INSTALLATIONS}[key]
    scenario = replace(known, days=days, plant=known.plant._replace(**plant))
    done = simulate(scenario)
    described = done.installation
    if described.circuits:
        described = replace(described, rated=rated_table(scenario.plant))
    readings = done.trace()
    analysis = analyse_record(described, readings)
    whole = Period("whole", float(analysis.start), float(analysis.stop))
    return Within(analysis, operation(analysis, readings), whole)


def states_of(codes: list[int], step: int = 60) -> Running:
    """A Running made of state codes."""
    state = np.array(codes, np.int8)
    on = spans_of((state >= State.START_UP) & (state <= State.COOLING))
    found = tuple(spans_of(state == State.DEFROST))
    recovery = np.zeros(len(state), np.bool_)
    return Running(state, recovery, tuple(on), found, Basis.INFERRED, {}, ())


class VariedSystems(TestCase):
    """Every kind once; `make validate` does many (docs/validation.md)."""

    def test_states_starts_and_defrosts(self) -> None:
        found = all_told(range(10), days=40)
        self.assertGreater(states_right(found), 0.97)
        starts_true = sum(t.starts for t in found)
        self.assertEqual(sum(t.starts_found for t in found), starts_true)
        self.assertEqual(sum(t.starts_false for t in found), 0)
        total = sum(t.defrosts for t in found)
        self.assertGreater(total, 1500)
        self.assertGreaterEqual(sum(t.defrosts_found for t in found), 0.98 * total)
        self.assertLessEqual(sum(t.defrosts_false for t in found), 0.02 * total)
        cooling = next(t for t in found if t.kind == "cooling").by_state["cooling"]
        self.assertGreater(cooling[1], 0.97 * cooling[0])


class Judgements(TestCase):
    """Drawn systems of several kinds: what is healthy is not accused, what is ill is named."""

    def said(self, seed: int) -> tuple[str, list[str], float]:
        kind, scenario = varied(seed, 70)
        done = simulate(scenario)
        readings = done.trace()
        analysis = analyse_record(done.installation, readings, checked=frozenset())
        whole = Period("whole", float(analysis.start), float(analysis.stop))
        seen = defrosts_seen(Within(analysis, operation(analysis, readings), whole))
        share = seen.expected / seen.count if seen.expected and seen.count else 1.0
        return kind, [one.code for one in seen.said], share

    def test_the_healthy_are_not_accused(self) -> None:
        for seed in (0, 1, 2, 6, 8, 9):
            kind, said, share = self.said(seed)
            self.assertEqual(said, [], kind)
            self.assertAlmostEqual(share, 1.0, delta=0.35, msg=kind)

    def test_the_ill_are_named(self) -> None:
        self.assertEqual(self.said(13)[:2], ("defrosts by the clock", ["timed"]))
        self.assertEqual(self.said(4)[:2], ("defrosts cut short", ["ineffective"]))


class Limits(TestCase):
    """What tells running from rest. Common practice."""

    def test_the_limit_lies_between_rest_and_least_output(self) -> None:
        rng = np.random.default_rng(1)
        rest, least = rng.normal(18, 2, 4000), rng.normal(240, 15, 4000)
        full = rng.normal(2600, 100, 800)
        limit = on_limit(np.concatenate([rest, least, full]))
        self.assertTrue(40 < limit < 180, limit)

    def test_a_unit_that_hardly_rests(self) -> None:
        """Four readings in a thousand at rest, its ramps at starts above them."""
        rng = np.random.default_rng(4)
        running = rng.uniform(550, 2600, 9900)
        power = np.concatenate([np.full(40, 12.0), rng.uniform(240, 420, 60), running])
        self.assertTrue(15 < on_limit(power) < 240)

    def test_a_unit_that_never_rests_has_no_gap(self) -> None:
        power = np.random.default_rng(2).uniform(900, 2400, 5000)
        self.assertAlmostEqual(on_limit(power), 0.1 * np.percentile(power, 95), delta=5)
        self.assertEqual(on_limit(np.zeros(100)), ON_LEAST)

    def test_other_loads_on_the_circuit_are_no_running(self) -> None:
        rng = np.random.default_rng(3)
        power = np.concatenate([rng.normal(320, 8, 3000), rng.normal(1900, 300, 3000)])
        self.assertTrue(360 < on_limit(power) < 1200)


class Found(TestCase):
    def test_a_state_set_by_hand_takes_its_run_with_it(self) -> None:
        readings = steady(4)
        said = StateIs(
            start="2026-01-01T01:00", end="2026-01-01T02:00", state="standby", reason="test mode"
        )
        described = installation(corrections=(said,))
        mine = running(described, readings, meter(described, readings))
        self.assertEqual([(r.start, r.stop) for r in mine.runs], [(0, 60), (120, 240)])
        self.assertTrue((mine.state[60:120] == State.STANDBY).all())
        self.assertEqual(mine.basis["by hand"].words, "1 stretch set by hand")
        self.assertIn("state is standby", analyse_record(described, readings).facts.corrections[0])

    def test_what_an_interval_is_too_coarse_for(self) -> None:
        fine = running(installation(), steady(2, 10), meter(installation(), steady(2, 10)))
        self.assertEqual(fine.notes, ())
        for step, said in ((300, "too coarse to see every defrost"), (900, "how a start goes")):
            readings = steady(12, step)
            mine = running(installation(), readings, meter(installation(), readings))
            self.assertIn(said, " ".join(mine.notes))

    def test_heads_of_one_unit_are_summed(self) -> None:
        n = 180
        readings = trace(
            power_unit=[800.0] * n,
            outdoor_temp=[5.0] * n,
            **{
                f"{c}_air_temp:{h}": [v] * n
                for h in ("a", "b")
                for c, v in (("supply", 32.0), ("return", 22.0))
            },
        )
        heads = tuple(
            AirCircuit(h, f"supply_air_temp:{h}", f"return_air_temp:{h}", nominal_m3h=500.0)
            for h in ("a", "b")
        )
        both = installation(circuits=(), air=heads, unit=HeatPump(kind="air_to_air_multi_head"))
        one = replace(both, air=heads[:1])
        whole = Period("whole", START, START + 3 * 3600.0)
        sums_ = {
            len(described.air): Within(
                analyse_record(described, readings),
                operation(analyse_record(described, readings), readings),
                whole,
            ).total(np.array([0]), np.array([n]))
            for described in (both, one)
        }
        self.assertAlmostEqual(sums_[2].heat.value, 2 * sums_[1].heat.value, 6)
        lacking = readings.with_channels({})
        lacking = type(lacking)(
            lacking.start, 60, {k: v for k, v in lacking.channels.items() if k[-1] != "b"}
        )
        combinations = analyse_record(both, lacking).facts.combinations
        self.assertIn("supply_air_temp:b", str(combinations["H2"].reason))


class Tables(TestCase):
    def test_sums_and_means_over_spans(self) -> None:
        values = np.array([1.0, 2.0, np.nan, 4.0, 5.0])
        start, stop = np.array([0, 3, 5]), np.array([2, 5, 5])
        self.assertEqual(sums(values, start, stop).tolist(), [3.0, 9.0, 0.0])
        self.assertEqual(means(values, np.array([1]), np.array([4])).tolist(), [3.0])
        self.assertTrue(np.isnan(sums(None, start, stop)).all())

    def test_runs_pauses_and_what_ended_them(self) -> None:
        codes = [2] * 5 + [3] * 5 + [4] * 10 + [2] * 10 + [5] * 12 + [2] * 4 + [0] * 4 + [4] * 6
        n = len(codes)
        flow = np.full(n, 35.0)
        flow[18:20] = 40.0  # above its own mean: the curve's limit ended it
        tank = np.full(n, 48.0)
        made = runs(
            CellArrays(
                0, 60, states_of(codes), np.full(n, 300.0), np.full(n, 100.0), flow=flow, tank=tank
            )
        )
        self.assertEqual(made.start.tolist(), [5, 30, 50])
        ended = [Ended(e) for e in made.ended.tolist()]
        self.assertEqual(ended, [Ended.FLOW_WARM, Ended.TANK_WARM, Ended.STILL_RUNNING])
        self.assertEqual(
            [State(m) for m in made.mode], [State.HEATING, State.HOT_WATER, State.HEATING]
        )
        self.assertEqual(made.pause[1], 600.0)
        self.assertTrue(np.isnan(made.pause[[0, 2]]).all(), "a gap hides how long it was")
        self.assertEqual(made.begun.tolist(), [1, 1, 0])
        self.assertEqual(made.electricity.tolist(), [1500.0, 1200.0, 600.0])

    def test_most_starts_within_an_hour(self) -> None:
        self.assertEqual(most_in_an_hour(np.array([0, 10, 20, 59, 60, 300]), 60), 4)
        self.assertEqual(most_in_an_hour(np.empty(0, np.int64), 60), 0)

    def test_bytes_and_back(self) -> None:
        found = ran("as-rated").found
        again = from_bytes(to_bytes(found))
        self.assertEqual((again.level, again.step, again.notes), (found.level, 60, found.notes))
        np.testing.assert_array_equal(again.runs.start, found.runs.start)
        np.testing.assert_array_equal(again.starts.power, found.starts.power)
        self.assertEqual(again.frost, found.frost)
        np.testing.assert_allclose(again.hours.of["flow"], found.hours.of["flow"], rtol=1e-6)


class Starts(TestCase):
    def test_the_worked_start(self) -> None:
        """180 Wh in, 600 Wh out, settled at 4.5: 46.7 Wh. Hand sum, no source."""
        loss = start_loss(np.array([180 * WH]), np.array([600 * WH]), np.array([4.5]))
        self.assertAlmostEqual(float(loss[0]) / WH, 46.67, 2)

    def test_settling_of_a_start_that_is_known(self) -> None:
        """Heat comes up as 1 − exp(−t/τ) at steady power: 90 % after 2.3 τ."""
        step, tau = 10, 240.0
        n = 3600 // step
        t = np.arange(n) * step - 600.0
        on = t >= 0
        codes = np.where(on, np.where(t < 600, State.START_UP, State.HEATING), State.STANDBY)
        heat = np.where(on, 9000.0 * (1 - np.exp(-t / tau)), 0.0) * step
        power = np.where(on, 2000.0, 15.0) * step
        cells = CellArrays(0, step, states_of(codes.tolist()), heat, power)
        found = starts(cells, runs(cells))
        self.assertAlmostEqual(float(found.settled[0]), 4.5, delta=0.05)
        self.assertAlmostEqual(float(found.to_90[0]), 2.303 * tau, delta=60)
        missing = 9000 * tau * (1 - np.exp(-600 / tau))  # heat that did not come [J]
        self.assertAlmostEqual(float(found.loss[0]), missing / 4.5, delta=0.04 * missing / 4.5)
        laid = overlay(found, np.array([0, 0, 0]))
        moment, since = (values[1][30] for values in (laid.instantaneous, laid.since_start))
        self.assertGreater(moment, since, "a display reads better than what the run has made")
        self.assertIsNone(starts(replace(cells, heat=None), runs(cells)))

    def test_filters_and_the_sum_of_all(self) -> None:
        within = ran("as-rated")
        every = starts_seen(within)
        self.assertEqual(every.count, int((within.found.runs.begun > 0).sum()))
        cold = starts_seen(within, Filter(outdoor_high=3.0))
        warm = starts_seen(within, Filter(outdoor_low=3.0))
        self.assertEqual(cold.count + warm.count, every.count)
        self.assertAlmostEqual(cold.loss.value + warm.loss.value, every.loss.value, 6)
        heating = starts_seen(within, Filter(mode="heating", pause_low=900.0))
        self.assertTrue(0 < heating.count < every.count)
        self.assertAlmostEqual(every.cost.value / every.loss.value, within.price(), 6)
        self.assertGreater(every.shown_at_5, every.made_at_5)

    def test_coarse_readings_show_no_start_and_say_so(self) -> None:
        self.assertIn("do not show how a start goes", str(starts_seen(ran("quirky")).reason))


class Frosting(TestCase):
    def test_the_potential_against_psychrolib(self) -> None:
        """ASHRAE Fundamentals ch. 1, through PsychroLib."""
        for air in (-9.0, -3.0, 0.5, 4.0, 7.0):
            for humidity in (60.0, 85.0, 100.0):
                for coil in (-14.0, -6.5, -0.5):
                    held = psychrolib.GetHumRatioFromRelHum(air, humidity / 100, 101325)
                    ice = psychrolib.GetSatHumRatio(coil, 101325)
                    mine = frosting_potential(*(np.array([v]) for v in (air, humidity, coil)))
                    self.assertAlmostEqual(float(mine[0]), max(0.0, held - ice), delta=2e-6)

    def test_a_coil_above_freezing_or_the_dew_point_does_not_frost(self) -> None:
        air, damp = np.array([7.0, 2.0]), np.array([95.0, 20.0])
        found = frosting_potential(air, damp, np.array([0.5, -3.0]))
        self.assertEqual(found.tolist(), [0.0, 0.0])

    def test_a_defrost_is_paid_once(self) -> None:
        """80 Wh, 300 Wh of heat at COP 3, 20 Wh of recovery: 200 Wh. Hand sum, no source."""
        cost = defrost_cost(*(np.array([v]) for v in (80 * WH, 300 * WH, 20 * WH, 3.0)))
        self.assertAlmostEqual(float(cost[0]) / WH, 200.0)

    def test_one_defrost_by_hand(self) -> None:
        """Common practice: a few kelvin of negative ΔT for some five minutes."""
        codes = [4] * 60 + [6] * 5 + [4] * 60
        n = len(codes)
        heat, power = np.full(n, 6000.0 * 60), np.full(n, 2000.0 * 60)
        heat[60:65], power[60:65] = -5000.0 * 60, 1000.0 * 60
        heat[65:68] = 3000.0 * 60  # three minutes of half the output
        found, learned, _ = defrosts(CellArrays(0, 60, states_of(codes), heat, power))
        self.assertIsNone(learned, "nothing is known of the air")
        self.assertAlmostEqual(float(found.cop[0]), 3.0)
        self.assertAlmostEqual(float(found.taken[0]) / WH, 5000 * 5 / 60, 6)
        self.assertAlmostEqual(float(found.electricity[0]) / WH, 1000 * 5 / 60, 6)
        self.assertAlmostEqual(float(found.recovery[0]) / WH, 3000 * 3 / 60 / 3.0, 6)
        self.assertEqual(float(found.back_after[0]), 240.0)

    def test_a_healthy_unit_is_not_accused(self) -> None:
        seen = defrosts_seen(ran("as-rated"))
        self.assertEqual(seen.said, [])
        self.assertIn("learned from", seen.approach)
        self.assertAlmostEqual(seen.expected / seen.count, 1.0, delta=0.3)
        self.assertGreater(seen.interval.median, 60 * 60)
        damp = [c for c in seen.map if c.humidity >= 90 and -2 <= c.outdoor < 2 and c.interval]
        for cell in damp:  # its own frost explains its own intervals
            self.assertAlmostEqual(cell.interval / cell.expected, 1.0, delta=0.35)

    def test_defrosts_by_the_clock(self) -> None:
        seen = defrosts_seen(ran("timed"))
        self.assertEqual([one.code for one in seen.said], ["timed"])
        self.assertIn("every 45 min", seen.said[0].words)
        self.assertIn("its own is not known", seen.approach)

    def test_defrosts_that_do_not_clear_the_coil(self) -> None:
        seen = defrosts_seen(ran("iced"))
        self.assertEqual([one.code for one in seen.said], ["ineffective"])
        self.assertEqual(seen.ended, {"time limit": seen.count})
        self.assertEqual(seen.rows[0].marks, ["time limit"])

    def test_defrosts_in_air_that_cannot_frost(self) -> None:
        """The clock goes on in dry cold: the core is given the same defrosts in dry air."""
        within = ran("timed")
        found = within.found.defrosts
        dry = replace(found, surely=np.zeros(len(found)), load=np.zeros(len(found)))
        said = judged(dry, None, np.arange(len(found)), 60, Thresholds())
        self.assertIn("needless", [one.kind for one in said])
        often = replace(found, running=np.full(len(found), 1500.0))
        every = judged(often, None, np.arange(len(found)), 60, Thresholds())
        words = {one.kind: one.words for one in every}
        self.assertIn("suspicious in any weather", words["too often"])  # 25 min, common practice
        few = judged(often, None, np.arange(5), 60, Thresholds())
        self.assertEqual(few, [], "nothing is concluded from five")

    def test_the_analyst_may_tighten_what_is_too_often(self) -> None:
        """Every 45 min of running: fine by the usual 40, too often by a limit of 50."""
        found = ran("timed").found.defrosts
        every = np.arange(len(found))

        def said(limits: Thresholds) -> list[str]:
            return [one.kind for one in judged(found, None, every, 60, limits)]

        self.assertNotIn("too often", said(Thresholds()))
        self.assertIn("too often", said(Thresholds(defrost_interval=50.0)))

    def test_by_month_and_night(self) -> None:
        seen = defrosts_seen(ran("as-rated"))
        self.assertEqual(sum(month.defrosts for month in seen.months), seen.count)
        self.assertEqual(sum(month.night for month in seen.months), seen.night)
        self.assertEqual(sum(seen.by_hour), seen.count)
        whole = sum(month.cost for month in seen.months)
        self.assertAlmostEqual(whole, seen.cost.value, delta=0.01 * whole)

    def test_a_ground_source_has_none(self) -> None:
        self.assertEqual(defrosts_seen(ran("ground")).count, 0)


class HotWater(TestCase):
    def test_the_snow_test(self) -> None:
        """A tank from 10 to 55 °C in snow: about 2.7 in the lower half, less during the defrost,
        about 2.0 at the end. Common practice."""
        n = 95
        codes = [2] * 5 + [5] * 40 + [6] * 5 + [5] * 40 + [2] * 5
        tank = np.concatenate([np.full(5, 10.0), np.linspace(10, 55, n - 10), np.full(5, 55.0)])
        power = np.full(len(codes), 2000.0 * 60)
        cop = np.where(tank < 32.5, 2.7, 2.0)
        heat = power * cop
        heat[45:50] = -4000.0 * 60
        found = charges(CellArrays(0, 60, states_of(codes), heat, power, tank=tank))
        self.assertEqual((len(found), int(found.defrosts[0])), (1, 1))
        with np.errstate(invalid="ignore"):
            stages = found.by_heat[0] / found.by_electricity[0]
        self.assertAlmostEqual(stages[1], 2.7, 6)  # 15 to 20 °C
        self.assertAlmostEqual(stages[-4], 2.0, 6)  # 50 to 55 °C
        self.assertLess(np.nanmin(stages), 1.5, "the stage of the defrost")

    def test_a_stall_at_the_top(self) -> None:
        codes = [2] * 5 + [5] * 60 + [2] * 5
        tank = np.concatenate([np.full(5, 40.0), np.linspace(40, 50, 30), np.full(35, 50.1)])
        found = charges(CellArrays(0, 60, states_of(codes), None, None, tank=tank))
        self.assertAlmostEqual(float(found.dwell[0]), 1800, delta=600)

    def test_what_the_tank_loses_and_reaches(self) -> None:
        """The stand-in's tank loses 1.8 W/K."""
        seen = water_seen(ran("as-rated"))
        self.assertAlmostEqual(seen.standing.watts / seen.standing.difference, 1.8, delta=0.25)
        self.assertAlmostEqual(seen.warmest, 48.0, delta=0.5)
        self.assertEqual((seen.pasteurisations, seen.stalls), (0, 0))
        total = sum(a.charges for a in seen.schedules)
        self.assertAlmostEqual(total, seen.count, delta=3)
        self.assertGreater(seen.stages[-2].cop, seen.stages[-1].cop, "falling towards the top")

    def test_pasteurisation_told_apart(self) -> None:
        seen = water_seen(ran("thermostat"))
        self.assertEqual(seen.pasteurisations, 60 // 7)
        self.assertIn("pasteurisation", [m for row in seen.rows for m in row.marks])
        self.assertLess(seen.warmest, 53.0)

    def test_without_a_tank_it_says_so(self) -> None:
        readings = steady(30)
        analysis = analyse_record(installation(), readings)
        whole = Period("whole", float(readings.start), float(readings.stop))
        seen = water_seen(Within(analysis, operation(analysis, readings), whole))
        self.assertIn("no tank is described", str(seen.reason))
        self.assertEqual(str(seen.standing_reason), "no tank is described")


class Control(TestCase):
    def test_a_weather_curve_is_seen(self) -> None:
        seen = control_seen(ran("as-rated"))
        self.assertLess(seen.curve.slope, -0.3)
        self.assertLess(seen.curve.scatter, 1.5)
        self.assertIn("A weather curve is followed", seen.said[0])
        self.assertIn("held", seen.room.words)
        self.assertIsNone(seen.night_rest)
        self.assertIsNone(seen.buffer)

    def test_a_fixed_flow_temperature(self) -> None:
        seen = control_seen(ran("thermostat"))
        self.assertIn("No weather curve", seen.said[0])

    def test_set_back_and_buffer(self) -> None:
        seen = control_seen(ran("buffer"))
        self.assertLess(seen.night_rest, 0.5)
        self.assertTrue(any("set back" in one for one in seen.said))
        delta = np.average([b.delta for b in seen.load], weights=[b.hours for b in seen.load])
        self.assertAlmostEqual(seen.buffer.blending / delta, 0.45, delta=0.06)  # the stand-in's
        self.assertGreater(seen.buffer.cost, 0)
        self.assertAlmostEqual(
            seen.buffer.worth, seen.buffer.cost / seen.buffer.each / 60, delta=0.01
        )

    def test_pumps_that_run_with_nothing_made(self) -> None:
        seen = control_seen(ran("as-rated", pump_on=1.0))
        self.assertGreater(seen.pump_share, 0.15)
        self.assertTrue(any("nothing made" in one for one in seen.said))
        self.assertAlmostEqual(seen.pump_energy, seen.pump_hours * 0.045, delta=0.5)

    def test_one_day_shows_no_curve(self) -> None:
        within = ran("as-rated")
        day = Period("day", within.period.start, within.period.start + 86_400)
        self.assertIsNone(control_seen(replace(within, period=day)).curve)


class Inside(TestCase):
    def test_lossless_compression_against_coolprop(self) -> None:
        """CoolProp, computed here: R290 and R32 between the pressures of −5 and 45 °C."""
        for name in ("R290", "R32"):
            low, high = (PropsSI("P", "T", t + 273.15, "Q", 1, name) for t in (-5, 45))
            entropy = PropsSI("S", "T", 273.15 + 1, "P", low, name)
            truth = PropsSI("H", "P", high, "S", entropy, name)
            table = enthalpies(name)
            mine = table.compressed(*(np.array([v]) for v in (low, 6.0, high)))
            rise = truth - PropsSI("H", "T", 273.15 + 1, "P", low, name)
            self.assertAlmostEqual(float(mine[0]), truth, delta=0.02 * rise, msg=name)

    def test_what_the_gauges_say(self) -> None:
        """The stand-in compresses with an efficiency of 0.68, superheats by 6 K when settled and
        condenses 1 to 3.5 K above the flow."""
        seen = inside_seen(ran("gauges"))
        self.assertEqual(seen.refrigerant, "R290")
        self.assertAlmostEqual(seen.whole.efficiency, 0.68, delta=0.03)
        self.assertAlmostEqual(seen.whole.superheat, 6.0, delta=1.5)
        self.assertTrue(1.0 < seen.whole.approach_water < 4.0)
        after = {p.name: p.values for p in seen.starts}
        self.assertGreater(
            after["superheat"][1], after["superheat"][20] + 4, "it falls after a start"
        )
        around = {p.name: p for p in seen.defrosts}
        k = next(i for i, m in enumerate(around["condensing"].minutes) if m > 1)
        self.assertLess(around["condensing"].values[k], around["condensing"].values[0] - 15)
        frost = defrosts_seen(ran("gauges"))
        self.assertIn("evaporating temperature", frost.approach)

    def test_without_gauges_it_says_what_would_help(self) -> None:
        self.assertIn(
            "evaporating and condensing pressure", str(inside_seen(ran("as-rated")).reason)
        )


class Views(TestCase):
    def test_what_is_left_out_is_in_no_table(self) -> None:
        within = ran("as-rated")
        every = runs_seen(within)
        day = within.period.start + 20 * 86_400
        only = replace(within, period=Period("day", day, day + 86_400))
        inside = runs_seen(only)
        self.assertTrue(0 < inside.count < every.count)
        segments = within.analysis.segments
        first, last = (int((t - segments.start) // segments.step) for t in (day, day + 86_400))
        out = (segments.edges[:-1] >= first) & (segments.edges[:-1] < last)
        left = replace(segments, excluded=np.where(out, 0, segments.excluded), reasons=("test",))
        without = replace(within, analysis=replace(within.analysis, segments=left))
        self.assertEqual(runs_seen(without).count, every.count - inside.count)

    def test_rows_are_the_reckonings_of_their_spans(self) -> None:
        within = ran("as-rated")
        seen = runs_seen(within, "cop", descending=True, count=20)
        cops = [row.cop.value for row in seen.rows]
        self.assertEqual(cops, sorted(cops, reverse=True))
        for row in seen.rows[:3]:
            self.assertAlmostEqual(row.heat.value / row.electricity.value, row.cop.value)
            self.assertGreater(row.cop.U, 0)
        with self.assertRaises(ValueError):
            runs_seen(within, "colour")

    def test_rows_between_two_values_and_of_a_mode(self) -> None:
        within = ran("as-rated")
        every = runs_seen(within, count=10_000)
        for by, of in (
            ("length", lambda row: row.stop - row.start),
            ("heat", lambda row: row.heat.value),
            ("outdoor", lambda row: row.outdoor),
        ):
            values = sorted(of(row) for row in every.rows)
            low, high = values[len(values) // 4], values[len(values) // 2]
            some = runs_seen(within, count=10_000, which=Which(by, low + 1e-6, high))
            wanted = sum(low + 1e-6 <= value <= high for value in values)
            self.assertAlmostEqual(some.fit, wanted, delta=2, msg=by)
            self.assertEqual(len(some.rows), some.fit)
            self.assertEqual(some.count, every.count, "the head is of every run")
        modes = [runs_seen(within, which=Which(mode=mode)).fit for mode in every.modes]
        self.assertEqual(sum(modes), every.count)
        self.assertEqual(runs_seen(within, which=Which(mode="asleep")).fit, 0)

    def test_starts_one_by_one_are_those_of_the_sums(self) -> None:
        seen = starts_seen(ran("as-rated"))
        self.assertEqual(len(seen.rows), seen.count)
        known = [row.loss for row in seen.rows if row.loss is not None]
        self.assertEqual(len(known), seen.known)
        self.assertAlmostEqual(sum(known) / 1000, seen.loss.value, 6)
        self.assertEqual(sum(row.by_like for row in seen.rows), seen.by_like)
        shown = sorted(r.shown_at_5 for r in seen.rows if r.shown_at_5 is not None)
        self.assertAlmostEqual(shown[len(shown) // 2], seen.shown_at_5, delta=0.05)

    def test_standby_and_lengths(self) -> None:
        seen = runs_seen(ran("as-rated"))
        self.assertEqual(sum(one.runs for one in seen.lengths), seen.ended)
        self.assertIsNone(seen.cycling)
        self.assertTrue(8 < 1000 * seen.standby.value / seen.standby_hours < 45)  # 12 to 37 W
        self.assertEqual(sum(seen.by_hour), seen.count)
        self.assertIn("a fault", runs_seen(ran("thermostat", days=120)).cycling)

    def test_meters_side_by_side(self) -> None:
        within = ran("heads")
        begin, end = within.period.start, within.period.stop
        edges = [begin + k * 86_400.0 for k in range(int((end - begin) / 86_400) + 1)]
        found = {m.name: m for m in meters_seen(within.analysis, within.period, edges)}
        lounge, bedroom = found["lounge"], found["bedroom"]
        self.assertAlmostEqual(lounge.energy.value / bedroom.energy.value, 0.63 / 0.37, delta=0.05)
        self.assertAlmostEqual(sum(v for v in lounge.bars if v), lounge.energy.value, 3)
        self.assertEqual(found["unit meter"].kind, "electricity")

    def test_cooling_is_reckoned_apart(self) -> None:
        """2 kW for 6 kW taken out: EER 3, and no part of the COP."""
        n = 240
        flow = np.where(np.arange(n) < 120, 35.0, 12.0)
        back = np.where(np.arange(n) < 120, 30.0, 16.3)
        outdoor = np.where(np.arange(n) < 120, 5.0, 27.0)
        power = np.full(n, 2000.0)
        power[118:122] = 10.0
        readings = steady(4).with_channels(
            {
                "flow_temp": flow,
                "return_temp": back,
                "outdoor_temp": outdoor,
                "power:unit": power,
            }
        )
        analysis = analyse_record(installation(), readings)
        whole = Period("whole", float(readings.start), float(readings.stop))
        within = Within(analysis, operation(analysis, readings), whole)
        rows = {row.mode: row for row in runs_seen(within).rows}
        self.assertAlmostEqual(rows["cooling"].cop.value, 3.0, delta=0.05)
        self.assertLess(rows["cooling"].heat.value, 0)
        total = within.total(np.array([0]), np.array([n]))
        self.assertAlmostEqual(total.cop.value, 3.45, delta=0.08)
        self.assertIn("cooling, whose EER", str(total.left_out[0].reason))
        self.assertEqual(total.coverage, 1.0)
        cold = cooling(analysis, whole)
        self.assertAlmostEqual(cold.cop.value, rows["cooling"].cop.value, 6)
        self.assertEqual([line.name for line in cold.heat_lines], ["cooling, taken out"])
        self.assertIsNone(
            cooling(ran("as-rated", days=30).analysis, ran("as-rated", days=30).period)
        )

    def test_a_broken_metering_shows_no_heat(self) -> None:
        within = ran("swapped", days=30)
        self.assertIsNotNone(within.analysis.cop_reason)
        self.assertIsNone(runs_seen(within).rows[0].cop)
        self.assertIn("swapped", str(defrosts_seen(within).reason))
        self.assertIsNotNone(starts_seen(within).reason)


class Sensor(TestCase):
    def test_no_outdoor_sensor_no_frost(self) -> None:
        described = installation(outdoor=OutdoorSensor("outdoor_temp:none"))
        readings = steady(30)
        analysis = analyse_record(described, readings)
        self.assertIsNone(operation(analysis, readings).frost)


class Rooms(TestCase):
    def trace(self, **rooms: np.ndarray) -> Trace:
        return Trace(0, 60, {f"room_temp:{name}": values for name, values in rooms.items()})

    def test_of_several_rooms_the_mean(self) -> None:
        warm, cool = np.full(1000, 21.0), np.full(1000, 18.0)
        cool[500] = np.nan
        found = rooms_of(self.trace(living=warm, bed=cool))
        self.assertEqual((found[0], found[-1]), (19.5, 19.5))
        self.assertTrue(np.isnan(found[500]))  # not 21: one is not known

    def test_a_room_that_goes_is_no_house_that_warms(self) -> None:
        gone = np.full(1000, 15.0)
        gone[300:] = np.nan
        found = rooms_of(self.trace(living=np.full(1000, 21.0), cellar=gone))
        np.testing.assert_array_equal(found, 21.0)

    def test_one_room_is_as_it_is_and_none_is_none(self) -> None:
        one = np.array([20.0, np.nan, 21.0])
        self.assertIs(rooms_of(self.trace(living=one)), one)
        self.assertIsNone(rooms_of(Trace(0, 60, {"outdoor_temp": one})))
