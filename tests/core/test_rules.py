"""Each rule by itself, on a ground whose numbers are put in by hand: on which side of its threshold
it speaks, and how it weighs. What the rules make of whole systems is in test_findings."""

from dataclasses import replace
from functools import cache
from unittest import TestCase

import numpy as np

from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import figures
from ember.basis.calendar import whole
from ember.basis.codes import SourceCode
from ember.basis.periods import Period
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.comparison.drift import Drift, StepChange
from ember.diagnosis import FindingContext, Weight
from ember.diagnosis.antifreeze import weak_antifreeze
from ember.diagnosis.at_rest import high_standby, pump_always_on
from ember.diagnosis.capacity import capacity_short, low_limit, oversized
from ember.diagnosis.comfort import room_not_held
from ember.diagnosis.cycling import short_cycling
from ember.diagnosis.defrosts import (
    frequent_defrosts,
    ineffective_defrosts,
    needless_defrosts,
    timed_defrosts,
)
from ember.diagnosis.flow import fixed_flow, steep_curve
from ember.diagnosis.heaters import heaters_overused
from ember.diagnosis.hot_water import hot_water_too_hot, hot_water_too_often
from ember.diagnosis.hydraulics import blending, fighting_pumps, narrow_delta, wide_delta
from ember.diagnosis.refrigerant import weak_unit
from ember.diagnosis.since import below_since
from ember.messages import Source
from ember.operation import operation
from ember.operation.within import Spread
from ember.properties import Fluid, FluidKind
from ember.views.control import Curve, LoadBand
from ember.views.defrosts import DefrostNote
from ember.views.flow import needed_flow
from ember.views.house import Buffer
from ember.views.inside import InsideDay
from stand_ins.scenario import simulate
from stand_ins.troubles import described_anew, house
from validation.trust import described

DAYS = 120


@cache
def healthy() -> FindingContext:
    """A healthy house over some months."""
    scenario = described_anew(house(747, DAYS))
    done = simulate(scenario)
    analysis = analyse_record(described(scenario, done), done.trace())
    ran = operation(analysis, done.trace())
    period = whole(float(analysis.start), float(analysis.stop))
    return FindingContext(analysis, ran, figures(analysis, [period])[0])


def with_seen(**seen: object) -> FindingContext:
    """The same ground with what rules look at replaced."""
    base = healthy()
    made = FindingContext(base.analysis, base.ran, base.figures)
    vars(made).update(seen)  # cached properties are taken from there
    return made


def with_hours(**changed: object) -> FindingContext:
    """The same ground with columns of its hours replaced, by an array or a function of it."""
    base = healthy()
    of = dict(base.ran.hours.of)
    for name, value in changed.items():
        of[name] = value(of) if callable(value) else np.full(len(of["on"]), value)
    ran = replace(base.ran, hours=replace(base.ran.hours, of=of))
    return FindingContext(base.analysis, ran, base.figures)


def with_description(**changed: object) -> FindingContext:
    """The same ground with another description."""
    base = healthy()
    analysis = replace(base.analysis, described=replace(base.analysis.described, **changed))
    return FindingContext(analysis, base.ran, base.figures)


class Healthy(TestCase):
    def test_none_of_these_speaks(self) -> None:
        for rule in (
            below_since,
            capacity_short,
            low_limit,
            needless_defrosts,
            timed_defrosts,
            frequent_defrosts,
            ineffective_defrosts,
            fixed_flow,
            steep_curve,
            wide_delta,
            fighting_pumps,
            blending,
            heaters_overused,
            hot_water_too_hot,
            hot_water_too_often,
            high_standby,
            pump_always_on,
            room_not_held,
            weak_antifreeze,
        ):
            self.assertIsNone(rule(healthy()), rule.__name__)


class Cost(TestCase):
    def test_ten_hours_are_no_days(self) -> None:
        base = healthy()
        start = base.period.start
        short = replace(base.figures, period=Period("ten hours", start, start + 36_000.0))
        said = FindingContext(base.analysis, base.ran, short).costed(
            base.loss(3.0, 0.1, "x"), "of it"
        )
        self.assertTrue(said.basis.startswith("3 kWh in 10 hours, of it"), said.basis)
        self.assertIn(f"kWh in {DAYS} days", base.costed(base.loss(3.0, 0.1, "x"), "y").basis)


class Since(TestCase):
    def context(self, step: float, se: float, days_left: float = 60.0) -> FindingContext:
        at = healthy().period.stop - days_left * 86400
        change = StepChange(
            at, at - 86400, at + 86400, 1.0, 1.0 + step, step, se, abs(step) > 5 * se
        )
        return with_seen(drift=Drift([], change))

    def test_a_sure_fall_is_said_with_its_date(self) -> None:
        found = below_since(self.context(-0.2, 0.01))
        self.assertIn("20% worse since 20", found.sentence)
        self.assertEqual(found.weight, Weight.ACTION)
        self.assertIn("(95 %)", found.causes[0].speaks_for[0])

    def test_unsure_small_upward_or_too_young_are_not(self) -> None:
        for context in (
            self.context(-0.2, 0.1),
            self.context(-0.05, 0.001),
            self.context(0.2, 0.01),
            self.context(-0.2, 0.01, days_left=5),
        ):
            self.assertIsNone(below_since(context))


class CapacityRules(TestCase):
    def context(self, over: float, charges: float | None, U: float = 0.05) -> FindingContext:
        estimate = Estimate(
            over, "", (UncertaintyComponent(Source(SourceCode.METHOD, detail="x"), U / 2),)
        )
        seen = replace(
            healthy().capacity,
            over_rated=estimate,
            charges_over_rated=charges,
            limit_hours=40,
            outdoor_limit=-4.0,
        )
        return with_seen(capacity=seen)

    def test_short_with_lifts_that_do_not_reach_it_either(self) -> None:
        self.assertEqual(capacity_short(self.context(0.6, 0.62)).weight, Weight.ACTION)

    def test_lifts_that_reach_it_show_the_reserve(self) -> None:
        self.assertIsNone(capacity_short(self.context(0.6, 0.98)))

    def test_without_lifts_it_is_worth_a_look_only(self) -> None:
        self.assertEqual(capacity_short(self.context(0.6, None)).weight, Weight.ADVISORY)

    def test_within_U_it_is_not_said(self) -> None:
        self.assertIsNone(capacity_short(self.context(0.88, 0.7, U=0.05)))

    def test_oversized_needs_short_runs_too(self) -> None:
        seen = replace(healthy().capacity, at_design=4.0, rated_design=9.0)
        short = replace(healthy().runs, minutes=12.0)
        long = replace(healthy().runs, minutes=90.0)
        unit = replace(healthy().installation.unit, minimum_output_kw=99.0)
        base = with_description(unit=unit)
        for runs, expected in ((short, True), (long, False)):
            vars(base).update(capacity=seen, runs=runs)
            self.assertEqual(oversized(base) is not None, expected)

    def test_the_low_limit_needs_hours_with_the_unit_off(self) -> None:
        base = healthy()
        coldest = float(np.nanmin(base.ran.hours.of["outdoor"]))
        unit = replace(base.installation.unit, low_outdoor_limit=coldest + 4)
        self.assertIsNone(low_limit(with_description(unit=unit)))  # it ran all the same
        off = with_description(unit=unit)
        of = dict(off.ran.hours.of)
        of["on"] = np.where(of["outdoor"] < coldest + 4, 0.0, of["on"])
        off = FindingContext(
            off.analysis, replace(off.ran, hours=replace(off.ran.hours, of=of)), off.figures
        )
        self.assertIn("stood still", low_limit(off).sentence)


class DefrostRules(TestCase):
    def context(self, kind: str, count: int, minutes: float) -> FindingContext:
        spread = Spread(minutes * 60 * 0.98, minutes * 60, minutes * 60 * 1.02)
        cost = Estimate(
            200.0, "kWh", (UncertaintyComponent(Source(SourceCode.METHOD, detail="x"), 5.0),)
        )
        seen = replace(
            healthy().defrosts,
            said=[DefrostNote(kind, count, "as said")],
            count=100,
            interval=spread,
            cost=cost,
            expected=40.0,
        )
        return with_seen(defrosts=seen)

    def test_needless_costs_its_share(self) -> None:
        found = needless_defrosts(self.context("needless", 60, 70))
        self.assertAlmostEqual(found.lost.value, 120.0)
        self.assertEqual(found.weight, Weight.ACTION)

    def test_timed_costs_what_is_beyond_the_frost(self) -> None:
        self.assertAlmostEqual(timed_defrosts(self.context("timed", 90, 45)).lost.value, 120.0)

    def test_at_the_shortest_interval_it_is_too_often_not_timed(self) -> None:
        self.assertIsNone(timed_defrosts(self.context("timed", 90, 20)))
        found = frequent_defrosts(self.context("too often", 90, 20))
        self.assertAlmostEqual(found.lost.value, 200 * (1 - 20 / 60))

    def test_ineffective(self) -> None:
        self.assertEqual(
            ineffective_defrosts(self.context("ineffective", 80, 50)).weight, Weight.ACTION
        )


class Cycling(TestCase):
    def context(self, share: float, most: int, loss: float | None) -> FindingContext:
        runs = replace(
            healthy().runs,
            short_share=share,
            most_an_hour=most,
            count=2000,
            cycling="as said",
            most_at=None,
        )
        estimate = (
            None
            if loss is None
            else Estimate(
                loss, "kWh", (UncertaintyComponent(Source(SourceCode.METHOD, detail="x"), 1.0),)
            )
        )
        starts = replace(healthy().starts, loss=estimate, known=2000 if loss else 0)
        return with_seen(runs=runs, starts=starts)

    def test_short_and_dear_asks_for_action(self) -> None:
        self.assertEqual(short_cycling(self.context(0.4, 3, 400.0)).weight, Weight.ACTION)

    def test_short_and_cheap_is_worth_a_look(self) -> None:
        self.assertEqual(short_cycling(self.context(0.4, 3, 1.0)).weight, Weight.ADVISORY)

    def test_without_a_known_loss_only_twice_the_share_is_sure(self) -> None:
        self.assertEqual(short_cycling(self.context(0.4, 3, None)).weight, Weight.ADVISORY)
        self.assertEqual(short_cycling(self.context(0.6, 3, None)).weight, Weight.ACTION)

    def test_a_gain_is_no_loss(self) -> None:
        self.assertIsNone(short_cycling(self.context(0.4, 3, -50.0)).lost)

    def test_neither_short_nor_crowded(self) -> None:
        self.assertIsNone(short_cycling(self.context(0.2, 5, 400.0)))
        self.assertIsNotNone(short_cycling(self.context(0.2, 6, 400.0)))


class Flow(TestCase):
    def control(self, **changed: object) -> FindingContext:
        return with_seen(control=replace(healthy().control, **changed))

    def test_the_flow_that_is_needed_by_hand(self) -> None:
        """EN 442: at half the load the excess is 0.5^(1/1.3) = 0.587 of that at design."""
        context = healthy()
        house = context.installation.house
        half = (15.0 + house.design_outdoor) / 2
        (value,), words = needed_flow(
            context.installation.house, context.control.curve, np.array([half])
        )
        excess = house.design_flow - house.design_indoor
        self.assertAlmostEqual(value, house.design_indoor + excess * 0.5 ** (1 / 1.3), 9)
        self.assertIn("as described", words)

    def test_a_flat_warm_line_is_fixed(self) -> None:
        flat = Curve(49.0, 0.02, 1.0, -5.0, 12.0, 900)
        self.assertEqual(fixed_flow(self.control(curve=flat)).weight, Weight.ACTION)

    def test_cool_or_scattered_or_falling_it_is_not(self) -> None:
        for at_zero, slope, scatter in ((33.0, 0.0, 1.0), (49.0, 0.0, 9.0), (49.0, -0.6, 1.0)):
            curve = Curve(at_zero, slope, scatter, -5.0, 12.0, 900)
            self.assertIsNone(fixed_flow(self.control(curve=curve)))

    def test_a_curve_far_above_the_need(self) -> None:
        context = with_hours(flow=lambda of: of["flow"] + 9.0)
        found = steep_curve(context)
        self.assertGreater(found.evidence[0].measured.value, 6.0)
        self.assertGreater(found.lost.value, 0)
        self.assertIsNone(steep_curve(with_hours(flow=lambda of: of["flow"] + 1.0)))


class Hydraulics(TestCase):
    def load(self, *deltas: float, water: float = 2e-4, top: float = 1.0) -> FindingContext:
        size = healthy().installation.unit.capacity_kw
        loads = [top * size * (k + 1) / len(deltas) for k in range(len(deltas))]
        bands = [
            LoadBand(0.0, 1.0, 100, 40.0, delta, water, load, 20.0, 3.0)
            for delta, load in zip(deltas, loads, strict=True)
        ]
        return with_seen(control=replace(healthy().control, load=bands))

    def test_wide_at_full_load(self) -> None:
        self.assertIn("ΔT at the largest load is 14.0 K", wide_delta(self.load(6, 14)).sentence)
        self.assertIsNone(wide_delta(self.load(3, 7)))

    def test_wide_told_from_half_load_with_an_unchanging_flow(self) -> None:
        """7 K at half the capacity with the same flow is 14 K at all of it."""
        found = wide_delta(self.load(2.4, 4.7, 7.0, top=0.5))
        self.assertIn("14.0 K", found.sentence)
        self.assertIn("full load", found.sentence)

    def test_narrow_at_full_load_only(self) -> None:
        self.assertEqual(narrow_delta(self.load(1, 2)).weight, Weight.ADVISORY)
        self.assertIsNone(narrow_delta(self.load(1, 2, top=0.5)))

    def test_a_swinging_flow(self) -> None:
        found = fighting_pumps(with_hours(swing=0.25))
        self.assertEqual(found.weight, Weight.ACTION)
        self.assertIsNone(fighting_pumps(with_hours(swing=0.05)))
        self.assertIsNone(fighting_pumps(with_hours(swing=np.nan)))

    def test_a_buffer_that_mixes(self) -> None:
        mixing = Buffer(4.0, 300.0, 20.0, 0.05, 3.0, 40.0)
        context = with_seen(control=replace(healthy().control, buffer=mixing))
        found = blending(context)
        self.assertEqual((found.weight, found.lost.value), (Weight.ACTION, 300.0))
        small = with_seen(control=replace(healthy().control, buffer=replace(mixing, blending=1.0)))
        self.assertIsNone(blending(small))


class AtRest(TestCase):
    def test_standby(self) -> None:
        """80 W at rest, in J an hour of rest."""
        context = with_hours(resting_energy=lambda of: of["standby"] * 80.0)
        found = high_standby(context)
        self.assertIn("80 W", found.sentence)
        hours = healthy().ran.hours.of["standby"][healthy().within.hours()].sum() / 3600
        self.assertAlmostEqual(found.lost.value, (80 - 15) * hours / 1000, 6)
        self.assertIsNone(high_standby(with_hours(resting_energy=lambda of: of["standby"] * 40.0)))

    def test_pumps(self) -> None:
        control = replace(healthy().control, pump_share=0.3, pump_hours=800.0, pump_energy=300.0)
        self.assertEqual(pump_always_on(with_seen(control=control)).weight, Weight.ACTION)
        control = replace(control, pump_share=0.02)
        self.assertIsNone(pump_always_on(with_seen(control=control)))

    def test_heaters_in_hours_with_reserve(self) -> None:
        """1 kW in every hour in which it runs, far below the rated capacity."""
        context = with_hours(heater=lambda of: np.where(of["on"] > 0, 3.6e6, 0.0))
        found = heaters_overused(context)
        self.assertGreater(found.evidence[0].measured.value, 0.02)
        self.assertLess(found.lost.value, found.evidence[0].measured.value * context.used.value)
        self.assertIsNone(heaters_overused(with_hours(heater=0.0)))


class HotWater(TestCase):
    def context(self, **changed: object) -> FindingContext:
        return with_seen(water=replace(healthy().water, **changed))

    def test_too_hot(self) -> None:
        found = hot_water_too_hot(self.context(warmest=60.0))
        self.assertIn("60 °C", found.sentence)
        self.assertIn("legionella", found.caution)
        self.assertIsNone(hot_water_too_hot(self.context(warmest=54.0)))

    def test_too_often_only_with_small_lifts(self) -> None:
        found = hot_water_too_often(self.context(a_day=9.0, low=47.0, warmest=49.0))
        self.assertIn("9.0 times a day, by 2 K", found.sentence)
        self.assertIsNone(hot_water_too_often(self.context(a_day=9.0, low=38.0, warmest=49.0)))
        self.assertIsNone(hot_water_too_often(self.context(a_day=3.0, low=47.0, warmest=49.0)))


class Comfort(TestCase):
    def test_cold_when_it_is_cold_outdoors(self) -> None:
        def room(of):
            return np.where(of["outdoor"] < np.nanpercentile(of["outdoor"], 30), 17.5, 20.5)

        self.assertEqual(room_not_held(with_hours(room=room)).weight, Weight.ACTION)

    def test_a_house_kept_cool_is_worth_a_look_only(self) -> None:
        found = room_not_held(with_hours(room=16.0))
        self.assertEqual(found.weight, Weight.ADVISORY)
        self.assertIn("the described", found.sentence)

    def test_a_degree_below_is_held(self) -> None:
        self.assertIsNone(room_not_held(with_hours(room=19.6)))


class Antifreeze(TestCase):
    def test_five_to_ten_percent_protects_from_nothing(self) -> None:
        """5–10 % protects only to −2…−4 °C (handbook §9, common practice)."""
        weak = Fluid(FluidKind.PROPYLENE_GLYCOL, 0.08)
        self.assertIn("8%", weak_antifreeze(with_description(fluid=weak)).sentence)
        enough = Fluid(FluidKind.PROPYLENE_GLYCOL, 0.3)
        self.assertIsNone(weak_antifreeze(with_description(fluid=enough)))


class Gauges(TestCase):
    """High superheat and low evaporating speak for low charge; a large coil approach with normal
    superheat for the air side; condensing far above the flow for the water side (handbook §7)."""

    def causes(self, superheat: float, air: float, water: float, subcooling: float = 5.0):
        day = InsideDay(0.0, -8.0, 40.0, superheat, subcooling, 70.0, 0.68, air, water)
        seen = replace(healthy().inside, whole=day, reason=None)
        return weak_unit(with_seen(inside=seen))

    def test_charge(self) -> None:
        first = self.causes(18.0, 8.0, 3.0, subcooling=0.5)[0]
        self.assertEqual(first.name, "refrigerant charge")
        self.assertIn("18.0 K: high", first.speaks_for[0])

    def test_air_side(self) -> None:
        first = self.causes(6.0, 16.0, 3.0)[0]
        self.assertIn("air side", first.name)
        self.assertIn("16.0 K below the air", first.speaks_for[0])

    def test_water_side(self) -> None:
        self.assertIn("water side", self.causes(6.0, 8.0, 9.0)[0].name)

    def test_without_gauges_the_charge_comes_late(self) -> None:
        causes = weak_unit(healthy())
        names = [c.name for c in causes]
        self.assertGreater(names.index("refrigerant charge"), 0)
        charge = causes[names.index("refrigerant charge")]
        self.assertIn("suspicion", charge.speaks_against[0])
