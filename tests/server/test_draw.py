"""What a chart draws: every state, every defrost, and no heat where none may be stated."""

import itertools
from dataclasses import replace

import numpy as np
from django.test import TestCase

from ember.assessment.record_analysis import analyse_record
from ember.basis.periods import Period
from ember.description.installation import Swap
from ember.states import State
from server.assessments.cache import cache_results, cut_at, find
from server.assessments.draw import window
from server.readings.codec import CODEC_QUARTER, overview
from server.readings.models import Block
from server.readings.store import store, trace_of
from tests.core.helpers import simulated
from tests.server.helpers import log, part, system

DAY = 86_400


class Windows(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.system = system(days=40)
        store(cls.system, log(days=40))
        cache_results(cls.system)
        cls.system.refresh_from_db()

    def drawn(self, first: float, last: float, points: int = 800):
        analysis = find(self.system).analysis
        period = Period("", analysis.start + first * DAY, analysis.start + last * DAY)
        head, values = window(self.system, analysis, period, points)
        lanes = {}
        for lane in head["lanes"]:
            parts = values[lane["at"] : lane["at"] + lane["arrays"] * lane["count"]]
            lanes[lane["channel"]] = parts.reshape(lane["arrays"], lane["count"])
        return analysis, period, head, lanes

    def test_the_states_fill_the_window(self) -> None:
        for first, last in ((3, 4), (3.3, 3.4), (0, 14), (0, 40)):
            _analysed, period, head, _ = self.drawn(first, last)
            starts = head["state_starts"]
            self.assertEqual(starts[0], period.start)
            self.assertTrue(all(a < b for a, b in itertools.pairwise(starts)))
            self.assertLess(starts[-1], period.stop)
            neighbours = zip(head["states"][:-1], head["states"][1:], strict=True)
            self.assertTrue(all(a != b for a, b in neighbours))

    def test_the_states_of_a_day_are_those_of_the_survey(self) -> None:
        analysis, _period, head, _ = self.drawn(5, 6)
        states = analysis.states().state
        step = analysis.segments.step
        for start, name in zip(head["state_starts"], head["states"], strict=True):
            cell = int((start - analysis.start) // step)
            self.assertEqual(State(int(states[cell])).words, name)

    def test_every_defrost_is_there_at_any_zoom(self) -> None:
        analysis, *_ = self.drawn(0, 40)
        whole = len(analysis.defrosts)
        self.assertGreater(whole, 0)
        self.assertEqual(len(self.drawn(0, 40)[2]["defrost_starts"]), whole)
        by_days = sum(len(self.drawn(k, k + 1)[2]["defrost_starts"]) for k in range(40))
        self.assertGreaterEqual(by_days, whole)  # one across midnight is seen on both days

    def test_a_defrost_shows_as_negative_heat_in_the_whole_record(self) -> None:
        _, _, _, lanes = self.drawn(0, 40)
        self.assertLess(np.nanmin(lanes["heat"][0]), -500)
        _, _, _, short = self.drawn(0, 14)
        self.assertIn("heat", short)

    def test_power_over_a_day_is_the_meters(self) -> None:
        _analysed, period, _, lanes = self.drawn(6, 7, 4000)
        trace = trace_of(self.system).between(period.start, period.stop)
        meters = sum(trace[c] for c in trace.channels if c.startswith("power:"))
        np.testing.assert_allclose(lanes["power"][0], meters, rtol=1e-5, atol=1e-3)

    def test_the_rated_line_lies_only_where_it_is_compared(self) -> None:
        analysis, period, _head, lanes = self.drawn(8, 9, 4000)
        rated = np.isfinite(lanes["rated"][0])
        states = analysis.states().state
        first = int((period.start - analysis.start) // 60)
        allowed = states[first : first + len(rated)] == State.HEATING
        self.assertTrue((allowed | ~rated).all())
        self.assertGreater(int(rated.sum()), 60)

    def test_the_kept_overview_begins_on_a_quarter(self) -> None:
        found = find(self.system)
        low, _mean, high = overview(bytes(self.system.cached.overview), ("power",))["power"]
        self.assertEqual(
            len(low), -(-(found.analysis.stop - found.analysis.start) // CODEC_QUARTER)
        )
        self.assertTrue((low[np.isfinite(low)] <= high[np.isfinite(high)]).all())

    def test_a_stale_survey_is_not_cut(self) -> None:
        self.system.description += " "
        found = find(self.system)
        self.assertTrue(found.stale)
        instant = found.analysis.start + 90.0 * 60 + 60
        self.assertIs(cut_at(self.system, found, (instant,)).analysis, found.analysis)


class Broken(TestCase):
    def test_swapped_sensors_draw_readings_but_no_heat_no_cop_no_defrosts(self) -> None:
        mine = system("swapped", name="swapped")
        store(mine, log("swapped"))
        cache_results(mine)
        analysis = find(mine).analysis
        for days in (1, 12):
            period = Period("", analysis.start, analysis.start + days * DAY)
            head, _ = window(mine, analysis, period, 800)
            channels = {lane["channel"] for lane in head["lanes"]}
            self.assertIn("flow_temp", channels)
            self.assertIn("power", channels)
            self.assertFalse(channels & {"heat", "cop", "rated"})
            self.assertEqual(head["defrost_starts"], [])

    def test_an_accepted_swap_shows_over_a_day_and_over_weeks(self) -> None:
        mine = system("swapped", days=40, name="uncrossed")
        store(mine, log("swapped", days=40))
        swap = Swap(channels=("flow_temp", "return_temp"), reason="columns")
        mine.put(replace(mine.installation, corrections=(swap,)), None)
        cache_results(mine)
        analysis = find(mine).analysis
        for days in (1, 30):
            period = Period("", analysis.start, analysis.start + days * DAY)
            head, values = window(mine, analysis, period, 800)
            mean = {
                lane["channel"]: float(np.nanmean(values[lane["at"] : lane["at"] + lane["count"]]))
                for lane in head["lanes"]
            }
            self.assertGreater(mean["flow_temp"], mean["return_temp"] + 0.5, days)

    def test_a_record_with_a_hole_of_weeks(self) -> None:
        mine = system(days=40, name="holed")
        rows = len(simulated("as-rated", days=40).columns["flow_temp"])
        store(mine, part(log(days=40), 0, 6000, "one.csv"))
        store(mine, part(log(days=40), rows - 6000, rows, "two.csv"))
        cache_results(mine)
        analysis = find(mine).analysis
        middle = analysis.start + 20 * DAY
        for first, last in ((middle, middle + DAY), (analysis.start, analysis.stop)):
            head, _values = window(mine, analysis, Period("", first, last), 800)
            self.assertTrue(head["states"])
        head, _ = window(mine, analysis, Period("", middle, middle + DAY), 800)
        self.assertEqual(set(head["states"]), {"unknown"})

    def test_a_coarse_log(self) -> None:
        done = simulated("as-rated", days=30, step=900)
        mine = system(name="coarse")
        trace = done.trace()
        self.assertEqual(analyse_record(mine.installation, trace).segments.step, 900)
        from server.readings.codec import encode, summarise, weeks_of

        for week, piece in weeks_of(trace).items():
            Block.objects.create(
                system=mine, week=week, payload=encode(piece), overview=summarise(piece, week)
            )
        cache_results(mine)
        analysis = find(mine).analysis
        for days in (1, 28):
            period = Period("", analysis.start, analysis.start + days * DAY)
            head, _ = window(mine, analysis, period, 800)
            lane = next(lane for lane in head["lanes"] if lane["channel"] == "flow_temp")
            self.assertEqual(lane["step"], 900 * max(1, -(-days * 96 // 800)))
