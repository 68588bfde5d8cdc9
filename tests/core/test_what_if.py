"""What if: against what a plant really does with the other setting, against exact sums, and
against the best that a linear programme finds."""

from dataclasses import replace
from datetime import time
from functools import cache
from unittest import TestCase

import numpy as np
from scipy.optimize import linprog

from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import costs_of
from ember.basis.codes import ReasonCode
from ember.basis.errors import DescriptionError
from ember.basis.periods import Period
from ember.description.installation import RatedTable
from ember.description.tariff import Band, Tariff
from ember.operation import operation
from ember.operation.within import Within
from ember.states.state import State
from ember.views.modes import modes
from ember.what_if import (
    Store,
    StoreKind,
    UsePart,
    WhatIfAsked,
    WhatIfCode,
    WhatIfEffect,
    asked_from_json,
    what_if,
)
from ember.what_if.parts import UseParts
from ember.what_if.storing import _Held, _one_day
from stand_ins.catalogue import SCENARIOS
from stand_ins.scenario import rated_table, simulate
from stand_ins.varrick import INSTALLATIONS

DAYS = 60
TWO_PRICES = Tariff(
    price=0.4,
    standing_charge=0.5,
    bands=(Band(name="cheap", price=0.15, start=time(0, 30), end=time(5, 30)),),
)


@cache
def house(**plant: float) -> Within:
    """Some weeks of the healthy house, with parts of its plant changed."""
    scenario = replace(SCENARIOS["as-rated"], days=DAYS)
    table = rated_table(scenario.plant)  # that of the unit as it was sold
    done = simulate(replace(scenario, plant=scenario.plant._replace(**plant)))
    described = replace(done.installation, rated=table)
    analysis = analyse_record(described, done.trace())
    period = Period("all", analysis.start, analysis.stop)
    return Within(analysis, operation(analysis, done.trace()), period)


def asked(within: Within, **what: object) -> WhatIfEffect:
    (effect,) = what_if(within, WhatIfAsked(**what)).effects  # type: ignore[arg-type]
    return effect


def used(within: Within, part: UsePart) -> float:
    return UseParts(within).electricity[part].value


def at_same_heat(was: Within, other: Within, mode: State) -> float:
    """What the other plant uses less for as much heat in a mode [kWh]."""
    mine, theirs = (
        next(one.reckoning for one in modes(within) if one.mode == mode) for within in (was, other)
    )
    assert mine.heat is not None and theirs.heat is not None
    share = mine.heat.value / theirs.heat.value
    return mine.electricity.value - theirs.electricity.value * share


def mean_flow(within: Within) -> float:
    """Flow of settled heating, weighted by electricity [degC]."""
    of = within.found.hours.of
    known = np.isfinite(of["flow"]) & (of["electricity"] > 0)
    return float(np.average(of["flow"][known], weights=of["electricity"][known]))


def better(table: RatedTable, factor: float) -> RatedTable:
    points = tuple(replace(p, cop=p.cop * factor) for p in table.points if p.cop)
    return replace(table, points=points, name="Type 9")


class AgainstThePlant(TestCase):
    """The same house and weather, simulated with the other setting; the answer holds the truth
    within U (k = 2)."""

    def test_another_unit(self) -> None:
        table = house().analysis.installation.rated
        assert table is not None
        effect = asked(house(), unit=better(table, 1.15))
        truth = used(house(), UsePart.HEATING) - used(house(cop_factor=1.15), UsePart.HEATING)
        assert effect.electricity is not None
        self.assertGreater(truth, 20)
        self.assertLess(abs(effect.electricity.value - truth), effect.electricity.U)
        # And the smaller part of it is not all there is to say: U is less than half of it.
        self.assertLess(effect.electricity.u, truth)

    def test_hot_water_colder(self) -> None:
        """At the same heat: the plant also draws less from a colder tank."""
        effect = asked(house(), hot_water_lower=6)
        truth = at_same_heat(house(), house(tank_set=42.0), State.HOT_WATER)
        assert effect.electricity is not None
        self.assertGreater(truth, 10)
        self.assertLess(abs(effect.electricity.value - truth), effect.electricity.U)
        self.assertIn("legionella", " ".join(effect.comfort))

    def test_a_curve_that_was_too_hot(self) -> None:
        """It also makes the unit start more often: both are asked, as much as they were."""
        right = house()
        for steep in (4.0, 8.0, 16.0):
            with self.subTest(steep=steep):
                hot = house(steep=steep)
                starts = [len(within.found.runs.start) for within in (hot, right)]
                lower = mean_flow(hot) - mean_flow(right)
                self.assertGreater(lower, 1)
                both = WhatIfAsked(flow_lower=lower, fewer_starts=1 - starts[1] / starts[0])
                found = what_if(hot, both).together
                assert found is not None and found.electricity is not None
                truth = at_same_heat(hot, right, State.HEATING)
                self.assertLess(abs(found.electricity.value - truth), found.electricity.U)

    def test_a_right_curve_leaves_the_emitters_little(self) -> None:
        """Where the unit heats nearly all day, a lower flow would not hold the rooms: it is
        counted only as far as they are held."""
        most = asked(house(), flow_lower=12)
        some = asked(house(), flow_lower=3)
        assert most.electricity is not None and some.electricity is not None
        self.assertLess(most.electricity.value, 3 * some.electricity.value)
        self.assertRegex(" ".join(most.comfort), r"on \d+ days by less")


class AgainstSums(TestCase):
    def test_the_parts_are_the_whole(self) -> None:
        parts = UseParts(house())
        first = house().cell(house().period.start)
        last = house().cell(house().period.stop)
        whole = house().used_together(np.array([first]), np.array([last]))
        assert whole is not None
        total = sum(one.value for one in parts.electricity.values())
        self.assertAlmostEqual(total, whole.value, delta=1e-6 * total)
        halves = sum(float(values.sum()) for values in parts.by_half.values())
        self.assertAlmostEqual(halves, total, delta=1e-6 * total)

    def test_another_tariff_is_what_its_own_assessment_says(self) -> None:
        """Described with that tariff and cut at its prices, to a thousandth."""
        within = house()
        money = asked(within, tariff=TWO_PRICES).money
        assert money is not None
        described = replace(within.analysis.described, tariff=TWO_PRICES)
        scenario = replace(SCENARIOS["as-rated"], days=DAYS)
        other = analyse_record(described, simulate(scenario).trace())
        now, then = (costs_of(one, [within.period]) for one in (within.analysis, other))
        assert now is not None and then is not None
        exact = now[0].total.value - then[0].total.value
        self.assertAlmostEqual(money.value, exact, delta=1e-3 * now[0].total.value)

    def test_another_tariff_beside_own_solar_and_a_battery(self) -> None:
        """Against an assessment that is described with it, to a hundredth: the mix of a half-hour
        is one."""
        scenario = replace(INSTALLATIONS["one-meter"], days=30)
        done = simulate(scenario)
        tariff = replace(TWO_PRICES, export_price=0.12)
        bills = []
        for described in (done.installation, replace(done.installation, tariff=tariff)):
            analysis = analyse_record(described, done.trace())
            period = Period("all", analysis.start, analysis.stop)
            (paid,) = costs_of(analysis, [period]) or []
            bills.append((analysis, period, paid.total.value))
        analysis, period, bill = bills[0]
        within = Within(analysis, operation(analysis, done.trace()), period)
        money = asked(within, tariff=tariff).money
        assert money is not None
        self.assertAlmostEqual(money.value, bill - bills[1][2], delta=0.01 * bill)
        # Where the supply's readings lack nothing is said of prices by the hour.
        left = {n: v for n, v in done.trace().channels.items() if n != "grid_power"}
        trace = replace(done.trace(), channels=left)
        untold = analyse_record(done.installation, trace)
        found = asked(Within(untold, operation(untold, trace), period), tariff=tariff)
        assert found.reason is not None
        self.assertEqual(found.reason.code, ReasonCode.WHAT_IF_NO_HOURS)

    def test_nothing_is_counted_twice(self) -> None:
        every = WhatIfAsked(flow_lower=4, fewer_starts=0.5, hot_water_lower=5)
        found = what_if(house(), every)
        assert found.together is not None and found.together.electricity is not None
        alone = [e.electricity.value for e in found.effects if e.electricity is not None]
        self.assertEqual(len(alone), 3)
        self.assertLess(found.together.electricity.value, sum(alone))
        self.assertGreater(found.together.electricity.value, max(alone))

    def test_the_unit_that_is_there_has_its_own_starts(self) -> None:
        table = house().analysis.installation.rated
        assert table is not None
        found = what_if(house(), WhatIfAsked(unit=better(table, 1.1), fewer_starts=1.0))
        assert found.together is not None and found.together.electricity is not None
        alone = found.effects[0].electricity
        assert alone is not None
        self.assertAlmostEqual(found.together.electricity.value, alone.value)
        self.assertAlmostEqual(found.together.electricity.U, alone.U)


class Stores(TestCase):
    def test_never_better_than_the_best_and_not_much_worse(self) -> None:
        """Against the linear programme of the same day: what is moved to earlier half-hours with
        losses, within the store's daily turnover and the unit's power (scipy, HiGHS)."""
        rng = np.random.default_rng(7)
        gained = best = 0.0
        for _ in range(25):
            used = rng.uniform(0.1, 1.0, 48)
            price = rng.choice([0.15, 0.3, 0.45], 48)
            full, per_half, daily = 1.2, 0.01, float(rng.uniform(1, 6))
            by = _Held(daily, per_half, 0.0, (UsePart.HEATING,), (), ())
            taken, extra = _one_day(used, price, full, 24, by)
            self.assertTrue((taken <= used + 1e-9).all())
            self.assertTrue((used + extra <= full + 1e-9).all())
            self.assertLessEqual(taken.sum(), daily + 1e-9)
            mine = float((taken * price).sum() - (extra * price).sum())
            pairs = [(i, j) for j in range(48) for i in range(max(0, j - 24), j)]
            factor = np.array([1 + per_half * (j - i) for i, j in pairs])
            gain = np.array(
                [price[j] - price[i] * f for (i, j), f in zip(pairs, factor, strict=True)]
            )
            a = np.zeros((97, len(pairs)))
            for k, (i, j) in enumerate(pairs):
                a[j, k], a[48 + i, k], a[96, k] = 1, factor[k], 1
            limits = np.concatenate([used, full - used, [daily]])
            optimum = linprog(-gain, A_ub=a, b_ub=limits)
            self.assertLessEqual(mine, -optimum.fun + 1e-6)
            gained, best = gained + mine, best - optimum.fun
        self.assertGreater(gained, 0.95 * best)

    def test_a_battery_pays_by_the_difference_less_its_losses(self) -> None:
        """4 kWh a day from 0.15 to 0.40 at 80 %: 4 · (0.40 − 0.15 ÷ 0.8), by hand."""
        within = house()
        described = replace(within.analysis.described, tariff=TWO_PRICES)
        cheap = replace(within, analysis=replace(within.analysis, described=described))
        effect = asked(cheap, store=Store(kind=StoreKind.BATTERY, kwh=4, efficiency=0.8, hours=24))
        assert effect.money is not None and effect.electricity is not None
        days = within.days
        self.assertLess(effect.money.value, days * 4 * (0.40 - 0.15 / 0.8) * 1.001)
        self.assertGreater(effect.money.value, 0.8 * days * 4 * (0.40 - 0.15 / 0.8))
        moved = effect.money.value / (0.40 - 0.15 / 0.8)
        self.assertAlmostEqual(-effect.electricity.value, moved * (1 / 0.8 - 1), delta=0.02 * moved)

    def test_one_price_leaves_nothing_to_gain(self) -> None:
        within = house()
        described = replace(within.analysis.described, tariff=Tariff(price=0.3))
        flat = replace(within, analysis=replace(within.analysis, described=described))
        effect = asked(flat, store=Store(kind=StoreKind.BATTERY, kwh=4))
        assert effect.reason is not None
        self.assertEqual(effect.reason.code, ReasonCode.WHAT_IF_ONE_PRICE)
        # But with another tariff that is asked beside it there is.
        both = WhatIfAsked(store=Store(kind=StoreKind.BATTERY, kwh=4), tariff=TWO_PRICES)
        moved, _ = what_if(flat, replace(both, tariff=replace(TWO_PRICES, currency="EUR"))).effects
        assert moved.money is not None
        self.assertGreater(moved.money.value, 0)
        self.assertIn("other tariff", " ".join(moved.assumptions))


class NotTold(TestCase):
    def test_each_says_why(self) -> None:
        scenario = replace(SCENARIOS["swapped"], days=30)
        done = simulate(scenario)
        described = replace(done.installation, rated=rated_table(scenario.plant))
        analysis = analyse_record(described, done.trace())
        period = Period("all", analysis.start, analysis.stop)
        swapped = Within(analysis, operation(analysis, done.trace()), period)
        every = WhatIfAsked(
            flow_lower=3, fewer_starts=0.5, defrosts_as_expected=True, hot_water_lower=5,
            heaters_off=True, unit=described.rated,
        )  # fmt: skip
        found = what_if(swapped, every)
        self.assertEqual(len(found.effects), 6)
        for effect in found.effects:
            self.assertIsNone(effect.electricity, effect.name)
            self.assertIsNone(effect.money, effect.name)
            assert effect.reason is not None
            self.assertEqual(effect.reason.code, ReasonCode.METERING_BROKEN)
        self.assertIsNone(found.together)

    def test_a_heater_that_is_not_there(self) -> None:
        effect = asked(house(backup=0.0), heaters_off=True)
        self.assertEqual(effect.code, WhatIfCode.HEATERS)
        self.assertIsNotNone(effect.reason)

    def test_what_is_asked_in_a_file(self) -> None:
        told = asked_from_json('{"flow_lower": 3, "store": {"kind": "battery", "kwh": 4}}')
        self.assertEqual(told.store, Store(kind=StoreKind.BATTERY, kwh=4))
        for text, said in (
            ('{"flow": 3}', "flow: there is no such field"),
            ('{"flow_lower": 300}', "flow_lower"),
            (
                '{"store": {"kind": "building", "kwh_k": 8}}',
                "needs swing_k|needs kwh_k and swing_k",
            ),
            ("no", "no JSON"),
        ):
            with self.assertRaisesRegex(DescriptionError, said):
                asked_from_json(text)
