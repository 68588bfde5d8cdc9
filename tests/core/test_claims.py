"""The trust state of a period: what may be claimed from a metering, and what would allow more; and
the readings behind a figure."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from ember.assessment.assess import answer, assess
from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import figures
from ember.basis.periods import Period
from ember.description.installation import (
    Consumer,
    ElectricityMeter,
    Exclusion,
    FixedPower,
    HeatRegister,
    Offset,
    ReportedHeat,
    Swap,
)
from ember.trust import Soundness, TrustKind
from ember.views.behind import behind, channels_behind
from ember.views.standing import standing, trust_of
from tests.core.helpers import START, UNIT, installation, simulated, steady
from tests.core.test_checks import cycling

DAY = 86_400


def state(readings, start=None, stop=None, **described):
    """The trust state between two instants, all of the record by default."""
    cuts = [t for t in (start, stop) if t is not None]
    found = analyse_record(installation(**described), readings, cuts)
    period = Period("", start or found.start, stop or found.stop)
    return trust_of(found, figures(found, [period])[0])


class State(TestCase):
    def test_a_sound_metering_claims_its_u(self) -> None:
        found = state(cycling())
        cop, energies, starts, defrosts, table = found.claims
        # Two class-B probes at 5 K are 16 % of the heat; the pump runs 90 minutes for 40 of heat.
        self.assertEqual(found.kind, TrustKind.WIDE)
        self.assertRegex(cop.words, r"± 3\d%")
        self.assertIn("100% covered", energies.words)
        self.assertTrue(starts.may and defrosts.may)
        self.assertEqual((table.may, table.words), (False, "no: no rated table is given"))
        self.assertEqual(found.brief, cop.words)

    def test_a_doubt_counts_only_in_the_days_that_it_touches(self) -> None:
        readings = cycling(days=10)
        values = readings["return_temp"].copy()
        values[4 * 1440 : 5 * 1440] = values[4 * 1440]
        ill = readings.with_channels({"return_temp": values})
        self.assertEqual(state(ill).kind, TrustKind.DOUBTFUL)
        before = state(ill, START, START + 3 * DAY)
        self.assertEqual(before.kind, TrustKind.WIDE)
        inside = state(ill, START + 4 * DAY, START + 5 * DAY)
        self.assertIn("stuck readings", inside.claims[0].words)
        self.assertTrue(inside.claims[2].may)  # starts can be counted all the same

    def test_gaps_leave_the_cop_and_take_the_totals(self) -> None:
        readings = cycling(days=10)
        flow = readings["flow_rate"].copy()
        flow[3 * 1440 : 6 * 1440] = np.nan
        found = state(readings.with_channels({"flow_rate": flow}))
        self.assertTrue(found.claims[0].may)
        self.assertFalse(found.claims[1].may)
        self.assertIn("gaps", found.claims[1].words)

    def test_broken_sensors_leave_the_electricity(self) -> None:
        readings = cycling()
        crossed = {"flow_temp": readings["return_temp"], "return_temp": readings["flow_temp"]}
        found = state(readings.with_channels(crossed))
        self.assertEqual(found.kind, TrustKind.ELECTRICITY)
        self.assertEqual(found.brief, "no COP, electricity yes")

    def test_electricity_alone_counts_starts_and_says_what_is_cheapest(self) -> None:
        alone = cycling()
        alone = replace(
            alone,
            channels={
                c: v for c, v in alone.channels.items() if c not in ("flow_temp", "return_temp")
            },
        )
        found = state(alone, circuits=())
        self.assertEqual(found.kind, TrustKind.COUNTS_ONLY)
        self.assertIn("no heat is measured", found.claims[0].words)
        self.assertTrue(found.claims[2].may)
        self.assertFalse(found.claims[3].may)  # nothing tells a defrost
        self.assertIn("read by hand each month", found.addition)

    def test_a_controller_alone_is_told_of_the_borrowed_meter(self) -> None:
        n = 6 * 1440
        readings = cycling().with_channels({"heat_power": np.full(n, 3000.0)})
        found = state(readings, circuits=(), reported=(ReportedHeat("controller"),))
        self.assertEqual(found.kind, TrustKind.COUNTS_ONLY)
        self.assertIn("transfer factor", found.addition)

    def test_a_level_that_lacks_the_pump_names_the_plug_meter(self) -> None:
        found = state(cycling(), consumers=(*UNIT, Consumer.DISTRIBUTION_PUMP))
        self.assertIn("plug meter on the circulation pump", found.addition)

    def test_the_fleets_row_says_the_same(self) -> None:
        made = analyse_record(installation(), cycling())
        row = standing(made)
        found = trust_of(made, answer(made).total)
        self.assertEqual((row.metering_words, row.metering_line), (found.brief, found.words))
        self.assertEqual(row.metering, Soundness.SOUND)


class Behind(TestCase):
    """The readings add up to the figure, and are shown as logged and as corrected."""

    def shown(self, described, readings, name, start=None, stop=None):
        found = analyse_record(described, readings)
        first, last = start or found.start, stop or found.stop
        return behind(found, readings, name, first, last), found

    def test_cells_add_up_to_the_line(self) -> None:
        shown, _ = self.shown(installation(), cycling(), "circuit")
        heat = assess(installation(), cycling()).main.heat.value
        self.assertAlmostEqual(float(shown.energy.sum()), heat, 9)
        self.assertEqual(list(shown.logged), ["flow_rate", "flow_temp", "return_temp"])
        self.assertEqual(len(shown.state), len(shown.energy))

    def test_corrected_beside_logged(self) -> None:
        offset = Offset(channel="flow_temp", add=-0.5, U=0.1, reason="x")
        shown, _ = self.shown(installation(corrections=(offset,)), cycling(1), "circuit")
        np.testing.assert_allclose(shown.corrected["flow_temp"] - shown.logged["flow_temp"], -0.5)
        self.assertEqual(shown.start, START)

    def test_swapped_channels_are_shown_where_they_were_logged(self) -> None:
        swap = Swap(channels=("flow_temp", "return_temp"), reason="x")
        readings = steady(3, flow_temp=30.0, return_temp=35.0)
        shown, _ = self.shown(installation(corrections=(swap,)), readings, "circuit")
        self.assertEqual((shown.logged["flow_temp"][0], shown.corrected["flow_temp"][0]), (30, 35))
        self.assertGreater(shown.energy[0], 0)

    def test_what_is_left_out_has_its_reason(self) -> None:
        out = Exclusion(start="2026-01-01T01:00", end="2026-01-01T02:00", reason="a test")
        shown, _ = self.shown(installation(corrections=(out,)), steady(3), "circuit")
        self.assertEqual(
            (shown.reason[59], shown.reason[60], shown.reason[120]), ("", "a test", "")
        )

    def test_a_window_of_a_register_has_its_increments(self) -> None:
        """6 kWh an hour, read each minute: 0.1 kWh a cell (hand sum)."""
        kwh = 3.6e6 * np.arange(180) * 6.0 / 60
        described = installation(registers=(HeatRegister("register", resolution_kwh=0.001),))
        readings = steady(3).with_channels({"heat_energy": kwh})
        shown, _ = self.shown(described, readings, "register", START + 3600, START + 7200)
        np.testing.assert_allclose(shown.energy, 0.1)
        self.assertEqual(shown.formula, "increment of the register")

    def test_a_fixed_power_has_no_channel(self) -> None:
        pump = FixedPower("pump", (Consumer.DISTRIBUTION_PUMP,), 60.0)
        described = installation(consumers=(*UNIT, Consumer.DISTRIBUTION_PUMP), fixed=(pump,))
        shown, _ = self.shown(described, steady(3), "pump")
        self.assertEqual(shown.logged, {})
        self.assertAlmostEqual(float(shown.energy.sum()), 0.18)

    def test_every_meter_of_the_demo_can_be_opened(self) -> None:
        done = simulated("as-rated", days=4, step=300)
        found = analyse_record(done.installation, done.trace())
        for name in found.segments.meters:
            shown = behind(found, done.trace(), name, found.start, found.stop)
            total = np.nansum(found.segments.energy(name)) / 3.6e6
            self.assertAlmostEqual(float(np.nansum(shown.energy)), total, 6, name)

    def test_a_meter_without_readings_says_so(self) -> None:
        pump = ElectricityMeter("pump", "power:pump", (Consumer.DISTRIBUTION_PUMP,))
        meters = (*installation().electricity, pump)
        described = installation(electricity=meters, consumers=(*UNIT, Consumer.DISTRIBUTION_PUMP))
        with self.assertRaisesRegex(LookupError, "no readings of power:pump"):
            self.shown(described, steady(3), "pump")
        with self.assertRaisesRegex(LookupError, "No meter is called 'moon'"):
            channels_behind(replace(described), "moon")
