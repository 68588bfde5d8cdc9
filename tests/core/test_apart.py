"""Heating and hot water apart, losses and uses, against the stand-in's truth and sums by hand."""

from dataclasses import replace
from datetime import datetime
from functools import cached_property
from unittest import TestCase

import numpy as np

from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import costs_of, figures
from ember.basis.codes import LossCode
from ember.basis.periods import Period
from ember.description.tariff import Tariff, Tier
from ember.operation import operation
from ember.operation.within import Within
from ember.states.state import State
from ember.views.hot_water import water_seen
from ember.views.losses import losses
from ember.views.modes import modes
from ember.views.runs import Which, runs_seen
from ember.views.starts import starts_seen
from ember.views.uses import uses
from stand_ins.catalogue import SCENARIOS
from stand_ins.scenario import Simulated, rated_table, simulate


class Seen:
    """A scenario of some weeks, looked at once."""

    def __init__(self, steep: float = 0.0) -> None:
        scenario = replace(SCENARIOS["as-rated"], days=40)
        scenario = replace(scenario, plant=scenario.plant._replace(steep=steep))
        self.done: Simulated = simulate(scenario)

    @cached_property
    def within(self) -> Within:
        table = rated_table(self.done.scenario.plant)
        described = replace(self.done.installation, rated=table)
        analysis = analyse_record(described, self.done.trace())
        period = Period("all", analysis.start, analysis.stop)
        return Within(analysis, operation(analysis, self.done.trace()), period)


HEALTHY = Seen()


class Apart(TestCase):
    def test_heating_and_hot_water_are_those_of_the_plant(self) -> None:
        """Within U of the truth, by the true state of each cell; with rest they are the whole."""
        within, done = HEALTHY.within, HEALTHY.done
        found = {one.mode: one for one in modes(within)}
        self.assertEqual(set(found), {State.HEATING, State.HOT_WATER})
        truth = np.asarray(done.run.state)
        hot = found[State.HOT_WATER].reckoning
        self.assertEqual(hot.level.value, "H3")
        charging = truth == State.HOT_WATER
        self.assertGreater(charging.sum(), 1000)
        # The stand-in calls the start of a charge a start-up; a charge holds it.
        true = done.truth_heat(charging)
        self.assertGreater(hot.heat.value, 0.97 * true)
        self.assertLess(hot.heat.value, 1.12 * true)
        heating = found[State.HEATING].reckoning
        together = hot.heat.value + heating.heat.value
        self.assertAlmostEqual(together / done.truth_heat(), 1, delta=0.06)
        self.assertGreater(heating.cop.value, hot.cop.value)

    def test_they_and_what_is_used_at_rest_are_the_whole(self) -> None:
        within = HEALTHY.within
        whole = next(
            one
            for one in figures(within.analysis, [within.period])[0].reckonings
            if one.level.value == "H3"
        )
        apart = sum(one.reckoning.electricity.value for one in modes(within))
        (rest,) = [loss for loss in losses(within, None) if loss.code == LossCode.STANDBY]
        # Standby is summed at the level of the table, without the backup, which rests then.
        self.assertAlmostEqual(apart + rest.electricity.value, whole.electricity.value, delta=0.5)

    def test_a_charge_costs_what_its_kwh_cost(self) -> None:
        within = HEALTHY.within
        tariff = within.analysis.installation.tariff
        assert isinstance(tariff, Tariff)
        seen = water_seen(within)
        assert seen.total is not None and seen.total.paid is not None
        self.assertAlmostEqual(
            seen.total.paid.value, sum(row.paid.value for row in seen.rows if row.paid), 6
        )
        self.assertAlmostEqual(seen.total.each.value, seen.total.paid.value / seen.count)
        prices = (tariff.price, tariff.bands[0].price)
        for run in runs_seen(within, which=Which(mode="heating")).rows[:20]:
            paid = run.paid.value / run.electricity.value
            # All metered electricity is paid, the level of the runs leaves the pump out.
            self.assertGreater(paid, min(prices) * 0.99)
            self.assertLess(paid, max(prices) * 1.35)


class Lost(TestCase):
    def test_each_is_what_its_own_view_says(self) -> None:
        within = HEALTHY.within
        used = figures(within.analysis, [within.period])[0].electricity
        assert used is not None
        found = {one.code: one for one in losses(within, used)}
        start = found[LossCode.START]
        self.assertEqual(start.electricity, starts_seen(within).loss)
        self.assertAlmostEqual(start.share or 0, start.electricity.value / used.value)
        order = [one.electricity.value - one.electricity.U for one in losses(within, used)]
        self.assertEqual(order, sorted(order, reverse=True))
        self.assertNotIn(LossCode.FLOW, found)  # a healthy house is not accused of its flow

    def test_a_curve_too_steep_costs(self) -> None:
        within = Seen(steep=10.0).within
        flow = next(one for one in losses(within, None) if one.code == LossCode.FLOW)
        self.assertGreater(flow.electricity.value, flow.electricity.U)
        self.assertIn("by the rated table", flow.formula)


class Used(TestCase):
    def test_uses_add_up_to_the_whole_in_kwh_and_money(self) -> None:
        within = HEALTHY.within
        found = uses(within.analysis, within.period)
        whole = figures(within.analysis, [within.period])[0]
        (cost,) = costs_of(within.analysis, [within.period]) or []
        self.assertAlmostEqual(sum(one.electricity.value for one in found), whole.electricity.value)
        paid = sum(one.paid.value for one in found)
        self.assertAlmostEqual(paid + cost.standing, cost.total.value)
        self.assertAlmostEqual(
            sum(one.hours for one in found), 40 * 24 * cost.covered, delta=40 * 24 * 0.001
        )
        for one in found:
            self.assertAlmostEqual(one.price_paid, one.paid.value / one.electricity.value)

    def test_with_tiers_too_each_at_what_the_month_had_reached(self) -> None:
        """Against a loop in the order of time: above 100 and 250 kWh a kWh costs more."""
        tiers = (Tier(100.0, 0.05), Tier(250.0, 0.10))
        tariff = Tariff(price=0.30, vat=0.2, standing_charge=0.5, tiers=tiers, other_uses_kwh=60.0)
        described = replace(HEALTHY.within.analysis.installation, tariff=tariff)
        analysis = analyse_record(described, HEALTHY.done.trace())
        period = Period("all", analysis.start, analysis.stop)
        segments, shares = analysis.segments, analysis.facts.shares
        energy = sum(sign * segments.energy(name) for sign, name in shares) / 3.6e6
        reached, month, owed = 60.0, None, dict.fromkeys(State, 0.0)
        states = [State(int(code)) for code in segments.state]
        for state, begin, kwh in zip(states, segments.begins, np.nan_to_num(energy), strict=True):
            now = datetime.fromtimestamp(begin, analysis.zone).month
            reached, month = (60.0 if now != month else reached), now
            dear = sum(
                tier.price_more
                * (max(reached + kwh - tier.above_kwh, 0) - max(reached - tier.above_kwh, 0))
                for tier in tiers
            )
            owed[state] += 1.2 * (0.30 * kwh + dear)
            reached += kwh
        found = uses(analysis, period)
        self.assertGreater(len(found), 3)
        for one in found:
            self.assertAlmostEqual(one.paid.value, owed[one.state], 9, one.state)
        (cost,) = costs_of(analysis, [period]) or []
        paid = sum(one.paid.value for one in found)
        self.assertAlmostEqual(paid + cost.standing, cost.total.value)
        self.assertGreater(sum(row.money.value for row in cost.bands if row.on_top), 0.1 * paid)
        # One error of the meter shifts them all: its share of each adds up to that of the whole.
        bound = sum(one.paid.U for one in found)
        self.assertAlmostEqual(bound, cost.total.U, delta=0.02 * cost.total.U)
