"""States, runs, defrosts and starts against the simulation's truth."""

from unittest import TestCase

import numpy as np

from ember.basis.series import spans_of
from ember.description.installation import HeatPump
from ember.metering import meter
from ember.states import State, running
from tests.core.helpers import LITRE_PER_MIN, installation, simulated, steady, trace


def found(done, without: tuple[str, ...] = ()):
    readings = done.trace()
    channels = {k: v for k, v in readings.channels.items() if k not in without}
    readings = type(readings)(readings.start, readings.step, channels)
    return running(done.installation, readings, meter(done.installation, readings))


class AgainstTruth(TestCase):
    """A winter's two months of one-minute readings, the core not knowing the truth."""

    def test_states(self) -> None:
        done = simulated("as-rated", days=60)
        mine = found(done)
        agreement = np.mean(mine.state == done.run.state)
        self.assertGreater(agreement, 0.97)
        for state in (State.HEATING, State.HOT_WATER, State.STANDBY):
            truth = done.run.state == state
            self.assertGreater(np.mean(mine.state[truth] == state), 0.97, state.words)

    def test_starts_and_defrosts(self) -> None:
        done = simulated("as-rated", days=60)
        mine = found(done)
        self.assertAlmostEqual(len(mine.runs), len(done.run.starts), delta=2)
        self.assertGreater(len(done.run.defrosts), 50)
        middles = np.array([(d.start + d.stop) / 2 * 60 for d in mine.defrosts])
        hit = [np.abs(middles - (a + b) / 2).min() < 180 for a, b in done.run.defrosts]
        self.assertGreater(np.mean(hit), 0.95)
        self.assertLess(len(mine.defrosts), 1.03 * len(done.run.defrosts) + 2)

    def test_hot_water_by_the_tank_alone(self) -> None:
        done = simulated("as-rated", days=60)
        mine = found(done, without=("hot_water_on",))
        truth = done.run.state == State.HOT_WATER
        self.assertGreater(np.mean(mine.state[truth] == State.HOT_WATER), 0.8)
        self.assertIn("inferred: the tank grows warmer", mine.basis["hot water"].words)

    def test_hot_water_by_the_water_alone(self) -> None:
        """Neither valve nor tank: flow and return jump as the valve turns, and back."""
        for step in (60, 300):
            done = simulated("as-rated", days=60, step=step)
            mine = found(done, without=("hot_water_on", "tank_temp"))
            truth = done.run.state == State.HOT_WATER
            said = mine.state == State.HOT_WATER
            self.assertGreater(np.mean(said[truth]), 0.8, step)
            self.assertLess(np.mean(said[~truth]), 0.015, step)
            self.assertIn("jump as the valve turns", mine.basis["hot water"].words)

    def test_what_cannot_be_told_is_said(self) -> None:
        done = simulated("as-rated", days=20, step=900)
        mine = found(done, without=("hot_water_on", "tank_temp"))
        self.assertFalse((mine.state == State.HOT_WATER).any())
        self.assertIn("not told apart from heating", " ".join(mine.notes))
        self.assertIn("too coarse to see every defrost", " ".join(mine.notes))


class Rules(TestCase):
    def test_flags_go_before_inference(self) -> None:
        n = 120
        flag = np.zeros(n)
        flag[30:90] = 1
        readings = steady(2).with_channels({"compressor_on": flag, "defrost_on": np.zeros(n)})
        mine = running(installation(), readings, meter(installation(), readings))
        self.assertEqual([(r.start, r.stop) for r in mine.runs], [(30, 90)])
        self.assertEqual(mine.basis["runs"].words, "flag compressor_on")
        self.assertEqual(mine.state[29], State.PUMP_OVERRUN)
        self.assertEqual(mine.state[35], State.START_UP)
        self.assertEqual(mine.state[60], State.HEATING)

    def test_a_long_negative_delta_is_no_defrost(self) -> None:
        """Swapped sensors show ΔT below zero for hours; a defrost lasts minutes."""
        readings = steady(5, flow_temp=28.0, return_temp=33.0)
        mine = running(installation(), readings, meter(installation(), readings))
        self.assertEqual(mine.defrosts, ())

    def test_a_defrost_and_its_recovery(self) -> None:
        readings = steady(2, outdoor_temp=1.0)
        warm = readings["flow_temp"].copy()
        warm[60:65] = 27.0
        readings = readings.with_channels({"flow_temp": warm})
        mine = running(installation(), readings, meter(installation(), readings))
        self.assertEqual([(d.start, d.stop) for d in mine.defrosts], [(60, 65)])
        self.assertEqual(spans_of(mine.recovery)[0].start, 65)
        ground = installation(unit=HeatPump(kind="ground_source"))
        self.assertEqual(running(ground, readings, meter(ground, readings)).defrosts, ())

    def test_warm_air_makes_no_defrost(self) -> None:
        readings = steady(2, outdoor_temp=16.0)
        warm = readings["flow_temp"].copy()
        warm[60:65] = 27.0
        readings = readings.with_channels({"flow_temp": warm})
        self.assertEqual(
            running(installation(), readings, meter(installation(), readings)).defrosts, ()
        )

    def test_unknown_where_nothing_was_read(self) -> None:
        power = np.full(60, 2000.0)
        power[20:30] = np.nan
        readings = steady(1).with_channels({"power:unit": power})
        mine = running(installation(), readings, meter(installation(), readings))
        self.assertTrue((mine.state[20:30] == State.UNKNOWN).all())

    def test_off_and_standby(self) -> None:
        power = [0.0] * 20 + [14.0] * 20 + [1800.0] * 40
        readings = trace(
            power_unit=power,
            flow_rate=[20 * LITRE_PER_MIN] * 80,
            flow_temp=[35.0] * 80,
            return_temp=[30.0] * 80,
        )
        readings = readings.with_channels({"flow_rate": np.where(np.arange(80) < 40, 0, 3e-4)})
        mine = running(installation(), readings, meter(installation(), readings))
        self.assertEqual(mine.state[10], State.OFF)
        self.assertEqual(mine.state[30], State.STANDBY)
        self.assertEqual(State.START_UP.words, "start-up")
        self.assertEqual(State.HOT_WATER.words, "hot water")
