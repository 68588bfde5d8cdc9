"""What once accused the healthy, each with the case that did; and what must still be found."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from ember.assessment.assess import answer, assess
from ember.assessment.record_analysis import analyse_record
from ember.basis.codes import SourceCode
from ember.basis.quantity import rectangular
from ember.description.installation import Offset
from ember.messages import Source
from ember.metering.heat import DELTA_MIN, PAIR, mean_delta, register_shares
from ember.metering.on import on_limit
from ember.operation import operation
from ember.states import State
from ember.trust import Soundness
from stand_ins.scenario import Scenario, simulate
from stand_ins.usual import USUAL, usual
from validation.trust import described


def kind(name: str, days: int = 60) -> Scenario:
    """A healthy plant of a kind."""
    return usual(USUAL.index(name), days)[1]


class RestAndRunning(TestCase):
    def test_pumps_and_controls_make_gaps_of_their_own(self) -> None:
        """12 W of controls, 38 W with the pump, 76 W in between; the compressor from 260 W on: the
        wide gap from 12 to 38 W is not the one."""
        rng = np.random.default_rng(1)
        rest = [np.full(1600, 12.0), np.full(500, 38.0), np.full(80, 50.0), np.full(150, 76.0)]
        power = np.concatenate([*rest, rng.uniform(260, 1700, 48_000)])
        self.assertTrue(76 < on_limit(power) < 260)

    def test_the_gap_from_rest_to_the_least_output_counts_however_low_its_middle(self) -> None:
        power = np.concatenate([np.full(4000, 14.0), np.full(4000, 200.0), np.full(900, 2600.0)])
        self.assertTrue(14 < on_limit(power) < 200)


class RegisterAlone(TestCase):
    def test_the_pair_counts_by_the_delta_in_use(self) -> None:
        """EN 1434-1 (from memory): ±(0.5 + 3·Δθ_min/Δθ) %; at 1.5 K it is 6.5 %, at 5 K 2.3 %."""
        plant = simulate(kind("counters alone")).scenario
        assert plant.installation is not None
        register = plant.installation.registers[0]
        for delta in (1.5, 5.0):
            shares = dict(register_shares(register, (), None, delta))
            self.assertAlmostEqual(
                shares[Source(SourceCode.TEMPERATURE_PAIR, register.name)],
                rectangular(PAIR[0] + PAIR[1] * DELTA_MIN / delta),
                12,
            )

    def test_delta_by_the_heat(self) -> None:
        """Two parts heat at 2 K and one at 4 K: 3 ÷ (2/2 + 1/4) = 2.4 K; rest counts nothing."""
        energy = np.array([2.0, 1.0, 0.0])
        flow, back = np.array([32.0, 34.0, 25.0]), np.array([30.0, 30.0, 25.0])
        self.assertAlmostEqual(mean_delta(energy, flow, back), 2.4, 12)
        self.assertEqual(mean_delta(np.zeros(3), flow, back), 5.0)


class PairOffset(TestCase):
    """A pump that sniffs for minutes never rests for ten: its last readings tell all the same."""

    def offset(self, wrong: float):
        scenario = kind("sniffing pump")
        errors = replace(scenario.errors, return_offset=scenario.errors.flow_offset - wrong)
        scenario = replace(scenario, errors=errors)
        done = simulate(scenario)
        found = assess(described(scenario, done), done.trace())
        return next(c for c in found.checks if c.name == "pair offset")

    def test_found_with_its_sign_and_U(self) -> None:
        check = self.offset(0.8)
        self.assertNotEqual(check.soundness, Soundness.SOUND, check.sentence)
        (proposal,) = [p for p in check.proposals if isinstance(p, Offset)]
        sign = 1.0 if proposal.channel == "return_temp" else -1.0
        self.assertLess(abs(sign * proposal.add - 0.8), proposal.U + 0.02)

    def test_not_where_there_is_none(self) -> None:
        self.assertFalse(self.offset(0.0).unsound)


class Defrosts(TestCase):
    def test_alike_by_nature_is_no_time_limit(self) -> None:
        """Nearly all last 7 min, a few 8: the longest are few, so no clock ends them."""
        scenario = kind("neither valve nor tank sensor", 90)
        done = simulate(scenario)
        analysis = analyse_record(described(scenario, done), done.trace())
        found = answer(analysis, ran=operation(analysis, done.trace()))
        self.assertGreater(len(analysis.defrosts), 100)
        self.assertNotIn("ineffective defrosts", [f.name for f in found.findings])


class HotWater(TestCase):
    def test_it_follows_heating_without_a_stop(self) -> None:
        """Neither valve nor tank sensor: charges found by the turns alone, no start added."""
        scenario = kind("neither valve nor tank sensor")
        done = simulate(scenario)
        analysis = analyse_record(described(scenario, done), done.trace())
        self.assertIn("valve turns", analysis.facts.basis["hot water"].words)
        cells = np.bincount(analysis.segments.state, analysis.segments.cells, minlength=len(State))
        true = np.count_nonzero(done.run.state == State.HOT_WATER)
        self.assertAlmostEqual(cells[State.HOT_WATER] / true, 1.0, delta=0.15)
        begun = int((analysis.runs[:, 0] > 0).sum())
        self.assertAlmostEqual(begun, int((done.run.starts > 0).sum()), delta=2)
