"""Corrections that an analyst accepts: each does what it says, and says what it does."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from ember.assessment.assess import assess
from ember.basis.clock import zone_named
from ember.basis.errors import DescriptionError
from ember.boundary import Level
from ember.corrections.applied import corrected, stands_out, words
from ember.description.as_json import correction_from_json, correction_to_json
from ember.description.installation import (
    ClockShift,
    Consumer,
    Exclusion,
    Factor,
    HeatRegister,
    Loads,
    Offset,
    Prefer,
    Rule,
    StateIs,
    Swap,
)
from ember.description.remedies import REMEDIES_CORRECTIONS
from tests.core.helpers import UNIT, installation, steady, trace

UTC = zone_named("UTC")
REASON = "a reason"


def made(correction, readings, **described):
    return corrected(installation(corrections=(correction,), **described), readings, UTC)


class Channels(TestCase):
    def test_an_offset_between_two_times(self) -> None:
        offset = Offset(
            channel="flow_temp",
            add=-0.5,
            U=0.1,
            reason=REASON,
            start="2026-01-01T01:00",
            end="2026-01-01T02:00",
        )
        found = made(offset, steady(3)).trace["flow_temp"]
        self.assertEqual(found[59:61].tolist(), [35.0, 34.5])
        self.assertEqual(found[119:121].tolist(), [34.5, 35.0])

    def test_a_factor_on_a_register_goes_on_from_where_it_begins(self) -> None:
        """1 kWh an hour read as half: from the second hour on 0.5 is made 1 (hand sum)."""
        counts = np.array([100.0, 101.0, 101.5, 102.0])
        factor = Factor(channel="heat_energy", factor=2.0, reason=REASON, start="2026-01-01T01:00")
        found = made(factor, trace(3600, heat_energy=counts)).trace["heat_energy"]
        self.assertEqual(np.diff(found).tolist(), [1.0, 1.0, 1.0])

    def test_a_clock_moved_leaves_its_end_unknown(self) -> None:
        shift = ClockShift(channels=("power:unit",), seconds=-120, reason=REASON)
        found = made(shift, trace(power_unit=[1, 2, 3, 4, 5])).trace["power:unit"]
        np.testing.assert_array_equal(found, [3, 4, 5, np.nan, np.nan])

    def test_another_source_of_the_outdoor_temperature(self) -> None:
        prefer = Prefer(use="outdoor_temp:weather", instead_of="outdoor_temp", reason=REASON)
        readings = steady(2).with_channels({"outdoor_temp:weather": np.full(120, -3.0)})
        self.assertEqual(made(prefer, readings).trace["outdoor_temp"][0], -3.0)

    def test_a_swap_of_a_part(self) -> None:
        swap = Swap(channels=("flow_temp", "return_temp"), reason=REASON, end="2026-01-01T00:30")
        found = made(swap, steady(1)).trace
        self.assertEqual((found["flow_temp"][0], found["flow_temp"][30]), (30.0, 35.0))
        self.assertEqual((found["return_temp"][0], found["return_temp"][30]), (35.0, 30.0))


class Rules(TestCase):
    def test_readings_below_a_limit_at_certain_hours(self) -> None:
        outdoor = np.where(np.arange(1440) < 720, -5.0, 5.0)
        rule = Rule(
            channel="outdoor_temp", below=0, from_time="23:00", to_time="02:00", reason=REASON
        )
        spans = made(rule, steady(24).with_channels({"outdoor_temp": outdoor})).excluded
        self.assertEqual([(s.start, s.stop) for s, _ in spans], [(0, 120)])

    def test_single_readings_that_stand_out(self) -> None:
        values = np.array([30.0, 31.0, 80.0, 31.0, 30.0, 60.0, 61.0, 60.0])
        self.assertEqual(np.flatnonzero(stands_out(values, 20.0)).tolist(), [2])

    def test_what_is_left_out_is_one_line(self) -> None:
        flow = np.where(np.arange(180) % 20 == 0, 0.0, 3e-4)
        rule = Rule(channel="flow_rate", below=1e-4, reason="no flow")
        readings = steady(3).with_channels({"flow_rate": flow})
        main = assess(installation(corrections=(rule,)), readings).main
        self.assertEqual([(str(x.reason), x.seconds) for x in main.left_out], [("no flow", 540.0)])


class Meters(TestCase):
    def test_a_meter_that_holds_more_than_was_said(self) -> None:
        """The pump behind the unit's meter: H2 can no longer be told, H4 can."""
        holds = Loads(
            meter="unit meter", includes=(*UNIT, Consumer.DISTRIBUTION_PUMP), reason=REASON
        )
        found = assess(installation(corrections=(holds,)), steady(3))
        by_level = {x.level: x.reason for x in found.levels}
        self.assertIn("also holds distribution pump", str(by_level[Level.H2]))
        self.assertIsNone(by_level[Level.H4])
        self.assertIn("unit meter holds compressor", found.corrections[0])

    def test_the_register_preferred_to_the_sensors(self) -> None:
        registers = (HeatRegister("register", resolution_kwh=0.001),)
        kwh = 3.6e6 * np.arange(180) * 6.0 / 60
        readings = steady(3).with_channels({"heat_energy": kwh})
        prefer = Prefer(use="register", instead_of="circuit", reason=REASON)
        plain = assess(installation(registers=registers), readings).main
        mine = assess(installation(registers=registers, corrections=(prefer,)), readings).main
        self.assertEqual((plain.heat_meters, mine.heat_meters), (("circuit",), ("register",)))
        self.assertAlmostEqual(mine.cop.value, 3.0, 2)


class Words(TestCase):
    every = (
        Exclusion(start="2026-01-01T00:00", end="2026-01-02T00:00", reason=REASON),
        Rule(channel="flow_temp", jump=25.0, reason=REASON),
        Swap(channels=("flow_temp", "return_temp"), reason=REASON),
        Offset(channel="flow_temp", add=-0.4, U=0.1, reason=REASON),
        Factor(channel="power:unit", factor=2.0, U=0.02, reason=REASON),
        ClockShift(channels=("power:unit",), seconds=3600, reason=REASON),
        Prefer(use="outdoor_temp:weather", instead_of="outdoor_temp", reason=REASON),
        Loads(meter="circuit", includes=("heat_pump", "backup_heater"), reason=REASON),
        correction_from_json({"kind": "add_electricity", "meter": "circuit", "reason": REASON}),
        correction_from_json(
            {
                "kind": "transfer",
                "meter": "circuit",
                "factor": 0.9,
                "U": 0.05,
                "low": 0,
                "high": 9,
                "until": "2026-06-01T00:00",
                "reason": REASON,
            }
        ),
        StateIs(start="2026-01-01T00:00", end="2026-01-01T01:00", state="hot_water", reason=REASON),
    )

    def test_every_kind_says_what_it_does_and_why(self) -> None:
        self.assertEqual({type(c) for c in self.every}, set(REMEDIES_CORRECTIONS))
        said = [words(c) for c in self.every]
        for text in said:
            self.assertTrue(text.endswith(f": {REASON}"), text)
        self.assertIn("jumping by more than 25 °C", said[1])
        self.assertIn("-0.4 ± 0.1 K on flow_temp", said[3])
        self.assertIn("power:unit × 2 ± 2.0%", said[4])
        self.assertIn("power:unit +60 min", said[5])

    def test_every_kind_comes_back_from_its_json(self) -> None:
        for correction in self.every:
            self.assertEqual(correction_from_json(correction_to_json(correction)), correction)

    def test_what_cannot_be_names_its_field(self) -> None:
        cases = (
            ({"kind": "rule", "reason": REASON, "channel": "flow_temp"}, "channel"),
            ({"kind": "rule", "reason": REASON, "from_time": "01:00"}, "from_time, to_time"),
            ({"kind": "offset", "channel": "flow_temp", "add": 1, "reason": REASON}, "U"),
            (
                {
                    "kind": "exclude",
                    "start": "2026-01-02T00:00",
                    "end": "2026-01-01T00:00",
                    "reason": REASON,
                },
                "end",
            ),
            ({"kind": "nothing", "reason": REASON}, "kind"),
        )
        for value, field in cases:
            with self.subTest(field), self.assertRaisesRegex(DescriptionError, field):
                correction_from_json(value)

    def test_a_meter_that_is_none_is_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "no meter is called 'moon'"):
            installation(corrections=(Loads(meter="moon", includes=("heat_pump",), reason=REASON),))

    def test_taking_one_off_the_list_undoes_it(self) -> None:
        offset = Offset(channel="flow_temp", add=-1.0, U=0.1, reason=REASON)
        described = installation(corrections=(offset,))
        before = assess(installation(), steady(3)).main
        self.assertNotEqual(assess(described, steady(3)).main.cop, before.cop)
        self.assertEqual(assess(replace(described, corrections=()), steady(3)).main, before)
