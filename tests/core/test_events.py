"""Tables of events against plain loops over drawn data, and against curves that are known."""

from dataclasses import replace
from itertools import pairwise
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from ember.basis.series import Span
from ember.description.installation import AirCircuit, Consumer, ElectricityMeter, HeatPump
from ember.events.cells import CellArrays, at, means, sums, windows
from ember.events.defrosts import How, defrosts
from ember.events.frost import frost, frosting_potential
from ember.events.hot_water_charges import STAGES, charges, pasteurisations
from ember.events.hours import hours
from ember.events.runs import most_in_an_hour, runs
from ember.events.starts import overlay, start_loss, starts
from ember.metering import meter
from ember.metering.on import on_limit
from ember.states import State, running
from ember.views.control import Curve, _curve
from tests.core.helpers import LITRE_PER_MIN, START, installation, steady, trace
from tests.core.test_operation import states_of

CODES = st.lists(st.sampled_from([0, 2, 3, 4, 5, 6, 9]), min_size=20, max_size=120)
SPANS = st.lists(st.integers(1, 9), min_size=2, max_size=24)


def cut(lengths: list[int]) -> tuple[np.ndarray, np.ndarray, int]:
    """Spans in order from lengths of span and gap in turn; the cells in all."""
    edges = np.concatenate([[0], np.cumsum(lengths)])
    count = len(lengths) // 2
    start, stop = edges[0 : 2 * count : 2], edges[1 : 2 * count + 1 : 2]
    return start.astype(np.int64), stop.astype(np.int64), int(edges[-1])


class OverSpans(TestCase):
    @given(SPANS, st.integers(0, 10_000))
    @settings(max_examples=60, deadline=None)
    def test_sums_and_means_are_those_of_a_loop(self, lengths: list[int], seed: int) -> None:
        start, stop, n = cut(lengths)
        rng = np.random.default_rng(seed)
        values = rng.normal(100, 30, n)
        values[rng.random(n) < 0.1] = np.nan
        pairs = list(zip(start, stop, strict=True))
        np.testing.assert_allclose(sums(values, start, stop), [values[a:b].sum() for a, b in pairs])
        known = [values[a:b][np.isfinite(values[a:b])] for a, b in pairs]
        expected = [k.mean() if len(k) else np.nan for k in known]
        np.testing.assert_allclose(means(values, start, stop), expected)

    def test_single_cells_and_windows(self) -> None:
        values = np.arange(5.0)
        self.assertEqual(at(values, np.array([0, 4, 9])).tolist(), [0.0, 4.0, 4.0])
        self.assertTrue(np.isnan(at(None, np.array([1]))).all())
        seen = windows(values, np.array([-1, 3]), 3)
        np.testing.assert_array_equal(seen, [[np.nan, 0, 1], [3, 4, np.nan]])
        self.assertTrue(np.isnan(windows(None, np.array([0]), 2)).all())


class FromStates(TestCase):
    @given(CODES, st.integers(0, 10_000))
    @settings(max_examples=60, deadline=None)
    def test_runs_hold_all_the_energy_of_running(self, codes: list[int], seed: int) -> None:
        rng = np.random.default_rng(seed)
        heat, power = rng.normal(6e5, 1e5, len(codes)), rng.normal(2e5, 1e4, len(codes))
        states = states_of(codes)
        table = runs(CellArrays(START, 60, states, heat, power))
        self.assertAlmostEqual(float(table.heat.sum()), float(heat[states.on].sum()), delta=1.0)
        self.assertAlmostEqual(
            float(table.electricity.sum()), float(power[states.on].sum()), delta=1.0
        )
        self.assertEqual(int(table.defrosts.sum()), len(states.defrosts))
        for k, (a, b) in enumerate(zip(table.start, table.stop, strict=True)):
            self.assertTrue(states.on[a:b].all())
            self.assertTrue(a == 0 or not states.on[a - 1])
            if k and not (states.state[table.stop[k - 1] : a] == State.UNKNOWN).any():
                self.assertEqual(table.pause[k], (a - table.stop[k - 1]) * 60)

    @given(CODES)
    @settings(max_examples=40, deadline=None)
    def test_hours_hold_all_the_time(self, codes: list[int]) -> None:
        states = states_of(codes)
        n = len(codes)
        found = hours(
            CellArrays(START + 1500, 60, states, np.full(n, 3.0), np.full(n, 1.0)), None
        ).of
        self.assertEqual(found["on"].sum(), states.on.sum() * 60)
        apart = sum(found[name].sum() for name in ("on", "pump_only", "standby", "unknown"))
        self.assertEqual(apart, n * 60)
        self.assertEqual(found["starts"].sum(), len(states.runs))
        self.assertEqual(found["defrosts"].sum(), len(states.defrosts))
        self.assertEqual(found["heat"].sum(), 3.0 * (found["settled"].sum() / 60))

    @given(CODES)
    @settings(max_examples=40, deadline=None)
    def test_intervals_between_defrosts_count_running_alone(self, codes: list[int]) -> None:
        states = states_of(codes)
        n = len(codes)
        found, _, _ = defrosts(CellArrays(0, 60, states, np.full(n, 6e5), np.full(n, 2e5)))
        spans = states.defrosts
        for k, (before, here) in enumerate(pairwise(spans), 1):
            between = states.state[before.stop : here.start]
            if (between == State.UNKNOWN).any():
                self.assertTrue(np.isnan(found.running[k]))
            else:
                self.assertEqual(found.running[k], states.on[before.stop : here.start].sum() * 60)
                self.assertEqual(found.interval[k], len(between) * 60)

    @given(st.lists(st.integers(0, 600), min_size=1, max_size=40, unique=True))
    @settings(max_examples=60, deadline=None)
    def test_starts_within_an_hour(self, minutes: list[int]) -> None:
        at_ = np.array(sorted(minutes))
        naive = max(sum(t <= other < t + 60 for other in at_) for t in at_)
        self.assertEqual(most_in_an_hour(at_, 60), naive)

    @given(st.integers(0, 10_000), st.integers(20, 90))
    @settings(max_examples=30, deadline=None)
    def test_stages_hold_all_of_a_lift(self, seed: int, length: int) -> None:
        rng = np.random.default_rng(seed)
        codes = [2] * 3 + [5] * length + [2] * 3
        tank = np.concatenate([[20.0] * 3, np.sort(rng.uniform(15, 62, length)), [62.0] * 3])
        heat, power = rng.uniform(1e5, 6e5, len(codes)), rng.uniform(1e5, 2e5, len(codes))
        found = charges(CellArrays(0, 60, states_of(codes), heat, power, tank=tank))
        self.assertEqual(found.by_heat.shape, (1, len(STAGES) - 1))
        self.assertAlmostEqual(float(found.by_heat.sum()), float(found.heat[0]), delta=1.0)
        self.assertAlmostEqual(
            float(found.by_electricity.sum()), float(found.electricity[0]), delta=1.0
        )
        self.assertAlmostEqual(float(found.high[0]), float(tank[3:-3].max()))


class Known(TestCase):
    def test_a_lift_with_a_rest_in_it_is_one_and_one_after_heating_is_another(self) -> None:
        rest = [2] + [5] * 10 + [2] * 15 + [5] * 10 + [2]
        other = [2] + [5] * 10 + [4] * 15 + [5] * 10 + [2]
        tank = np.full(37, 45.0)
        for codes, count in ((rest, 1), (other, 2)):
            found = charges(CellArrays(0, 60, states_of(codes), None, None, tank=tank))
            self.assertEqual(len(found), count)
            self.assertTrue(np.isnan(found.heat).all())

    def test_hygiene_is_hot_and_unusual(self) -> None:
        codes = ([2] * 25 + [5] * 20) * 6 + [2] * 25

        def tank(last: float) -> np.ndarray:
            tops = [48.0] * 5 + [last]
            parts = [np.concatenate([[40.0] * 25, np.linspace(40, top, 20)]) for top in tops]
            return np.concatenate([*parts, [40.0] * 25])

        for last, count in ((61.0, 1), (55.0, 0)):
            found = charges(CellArrays(0, 60, states_of(codes), None, None, tank=tank(last)))
            self.assertEqual(int(pasteurisations(found).sum()), count)
        always = charges(CellArrays(0, 60, states_of(codes), None, None, tank=tank(61.0) + 14.0))
        self.assertEqual(int(pasteurisations(always).sum()), 1, "hot as a habit is no hygiene")

    @given(st.floats(-10, 6), st.floats(40, 99), st.floats(-15, -0.5))
    @settings(max_examples=80, deadline=None)
    def test_damper_air_and_a_colder_coil_frost_more(
        self, air: float, humidity: float, coil: float
    ) -> None:
        def potential(h: float, c: float) -> float:
            return float(frosting_potential(np.array([air]), np.array([h]), np.array([c]))[0])

        base = potential(humidity, coil)
        self.assertGreaterEqual(potential(humidity + 1, coil), base)
        self.assertGreaterEqual(potential(humidity, coil - 1), base)
        self.assertGreaterEqual(base, 0.0)

    def test_few_defrosts_teach_nothing(self) -> None:
        codes = ([4] * 60 + [6] * 4) * 8
        n = len(codes)
        cells = CellArrays(
            0,
            60,
            states_of(codes),
            np.full(n, 6e5),
            np.full(n, 2e5),
            outdoor=np.full(n, 1.0),
            humidity=np.full(n, 90.0),
        )
        start = np.array([d.start for d in cells.states.defrosts])
        stop = np.array([d.stop for d in cells.states.defrosts])
        learned = frost(cells, start, stop)
        self.assertFalse(learned.learned)
        self.assertIsNone(learned.load)
        self.assertIn("its own is not known", learned.by)

    def test_lengths_that_vary_end_by_themselves_and_equal_long_ones_by_a_limit(self) -> None:
        for lengths, how in (
            ([4, 6, 8, 5, 7, 9, 6, 5, 8, 10], How.TEMPERATURE),
            ([10] * 10, How.TIME_LIMIT),
            ([4] * 10, How.TEMPERATURE),
        ):
            codes = [code for length in lengths for code in [4] * 40 + [6] * length] + [4] * 20
            found, _, _ = defrosts(CellArrays(0, 60, states_of(codes), None, None))
            most = np.bincount(found.ended, minlength=3).argmax()
            self.assertEqual(How(int(most)), how, lengths)

    @given(st.floats(0.2, 3.0))
    @settings(max_examples=30, deadline=None)
    def test_the_limit_scales_with_the_unit(self, factor: float) -> None:
        rng = np.random.default_rng(5)
        power = np.concatenate([rng.normal(40, 3, 3000), rng.normal(1500, 250, 3000)])
        ratio = on_limit(factor * power) / on_limit(power)
        self.assertAlmostEqual(ratio, factor, delta=0.15 * factor)

    def test_an_overlay_is_the_median_of_its_starts(self) -> None:
        codes = ([2] * 20 + [3] * 10 + [4] * 40) * 4
        n = len(codes)
        level = np.repeat([3.0, 3.5, 4.0, 5.0], 70)
        power = np.full(n, 2000.0 * 60)
        cells = CellArrays(0, 60, states_of(codes), power * level, power)
        found = starts(cells, runs(cells))
        laid = overlay(found, np.array([0, 1, 3]))
        self.assertAlmostEqual(laid.since_start[1][5], 3.5)
        self.assertAlmostEqual(laid.instantaneous[1][5], 3.5)
        self.assertEqual(laid.count.tolist(), [3] * 30)
        np.testing.assert_allclose(found.settled, [3.0, 3.5, 4.0, 5.0], rtol=1e-6)
        np.testing.assert_allclose(found.loss, 0.0, atol=1.0)
        nothing = start_loss(np.array([1.0]), np.array([1.0]), np.array([np.nan]))
        self.assertTrue(np.isnan(nothing[0]))

    def test_a_curve_is_found_through_outliers(self) -> None:
        rng = np.random.default_rng(8)
        outdoor = rng.uniform(-8, 14, 400)
        flow = 40.0 - 0.65 * outdoor + rng.normal(0, 0.5, 400)
        flow[:12] += 15.0  # hours after hot water
        found: Curve = _curve(outdoor, flow)
        self.assertAlmostEqual(found.at_zero, 40.0, delta=0.3)
        self.assertAlmostEqual(found.slope, -0.65, delta=0.03)
        self.assertLess(found.scatter, 0.8)


class Detection(TestCase):
    """Rules of single states, each by readings that show it."""

    def test_the_turning_of_the_valve_is_no_defrost(self) -> None:
        readings = steady(2, outdoor_temp=1.0)
        warm = readings["flow_temp"].copy()
        valve = np.zeros(120)
        valve[60:] = 1.0
        warm[60:63] = 27.0
        turned = readings.with_channels({"flow_temp": warm, "hot_water_on": valve})
        mine = running(installation(), turned, meter(installation(), turned))
        self.assertEqual(mine.defrosts, ())
        warm[63:68] = 24.0  # it goes on: a defrost that began with it
        longer = readings.with_channels({"flow_temp": warm, "hot_water_on": valve})
        mine = running(installation(), longer, meter(installation(), longer))
        self.assertEqual(mine.defrosts, (Span(60, 68),))

    def test_a_defrost_of_an_air_to_air_unit(self) -> None:
        n = 150
        supply = np.full(n, 38.0)
        supply[70:75] = 20.5
        supply[-3:] = 20.0  # the run ends, which is none
        power = np.full(n, 900.0)
        power[-2:] = 12.0
        readings = trace(power_unit=power, outdoor_temp=np.full(n, 0.0)).with_channels(
            {"supply_air_temp": supply, "return_air_temp": np.full(n, 20.0)}
        )
        described = installation(
            circuits=(),
            air=(AirCircuit("air", nominal_m3h=600.0),),
            unit=HeatPump(kind="air_to_air_single"),
        )
        mine = running(described, readings, meter(described, readings))
        self.assertEqual(mine.defrosts, (Span(70, 75),))
        self.assertIn("supply air falls", mine.basis["defrost"].words)

    def test_swapped_sensors_in_summer_are_no_cooling(self) -> None:
        """Hot water with flow and return crosswise: ΔT negative for an hour, but warm."""
        n = 240
        power = np.where((np.arange(n) > 60) & (np.arange(n) < 140), 2000.0, 12.0)
        flow = np.where(power > 100, 20 * LITRE_PER_MIN, 0.0)
        for warm, cools in ((45.0, False), (12.0, True)):
            readings = trace(
                power_unit=power,
                flow_rate=flow,
                outdoor_temp=np.full(n, 24.0),
                flow_temp=np.full(n, warm),
                return_temp=np.full(n, warm + 5.0),
            )
            mine = running(installation(), readings, meter(installation(), readings))
            self.assertEqual(bool((mine.state == State.COOLING).any()), cools)

    def test_minutes_of_cold_water_within_a_heating_run_are_no_cooling(self) -> None:
        n = 240
        outdoor = np.full(n, 11.0)
        outdoor[100:108] = 13.0  # mild for minutes, in which the loop is cold
        flow = np.full(n, 35.0)
        flow[100:108] = 18.0
        readings = steady(4).with_channels({"outdoor_temp": outdoor, "flow_temp": flow})
        mine = running(installation(), readings, meter(installation(), readings))
        self.assertFalse((mine.state == State.COOLING).any())

    def test_backup_alone_and_a_flag_of_cooling(self) -> None:
        base = installation()
        backup = ElectricityMeter("backup", "power:backup", (Consumer.BACKUP_HEATER,))
        described = replace(
            base,
            electricity=(*base.electricity, backup),
            consumers=(*base.consumers, Consumer.BACKUP_HEATER),
        )
        n = 120
        power = np.where(np.arange(n) < 60, 12.0, 2000.0)
        readings = steady(2).with_channels(
            {
                "power:unit": power,
                "power:backup": np.where(np.arange(n) < 60, 3000.0, 0.0),
                "flow_rate": np.full(n, 20 * LITRE_PER_MIN),
                "cooling_on": np.where(np.arange(n) > 100, 1.0, 0.0),
            }
        )
        mine = running(described, readings, meter(described, readings))
        self.assertEqual(mine.state[30], State.BACKUP_ONLY)
        self.assertEqual(mine.state[110], State.COOLING)
        self.assertEqual(mine.basis["cooling"].words, "flag cooling_on")
