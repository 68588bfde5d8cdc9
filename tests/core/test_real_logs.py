"""Logs as real loggers write them: on change, at the end of an interval, in several files, with
markers for nothing and registers that count net. What is to come out is worked out by hand, or by
the truth of the stand-in."""

import tempfile
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from unittest import TestCase

import numpy as np

from ember.assessment.assess import assess
from ember.basis.clock import DAY
from ember.basis.errors import IntakeError
from ember.basis.registers import falls
from ember.basis.series import Trace
from ember.description.installation import ElectricityMeter
from ember.intake import IntakeReport, laid_over, read_log, read_logs
from ember.intake.columns import flow_by_volume
from ember.intake.interval import Marks, marked
from ember.intake.onchange import on_change, uneven
from ember.trust import Soundness
from stand_ins.catalogue import SCENARIOS
from stand_ins.scenario import simulate
from tests.core.helpers import LITRE_PER_MIN, START, UNIT, installation

NOW = float(START + 400 * DAY)
HEADS = ("time,flow_temp [°C],return_temp [°C],flow_rate [L/min],power_unit [W]",)


def stamp(instant: float) -> str:
    """ISO 8601."""
    return datetime.fromtimestamp(instant, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


class Reads(TestCase):
    """Logs in a folder of their own."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def written(self, name: str, lines: Sequence[str]) -> Path:
        path = self.folder / name
        path.write_text("\n".join(lines) + "\n", encoding="utf-8")
        return path

    def read(self, lines: Sequence[str], **changes: Any) -> tuple[Trace, IntakeReport]:
        return read_log(self.written("log.csv", lines), installation(**changes), NOW)


def by_minutes(days: float = 2.0) -> list[tuple[int, tuple[float, ...]]]:
    """Running for two hours in three at 2 kW, 35/30 °C and 20 L/min, by the minute."""
    rows = []
    for k in range(round(days * 1440)):
        on = k % 180 < 120
        rows.append((START + 60 * k, (35.0, 30.0, 20.0, 2000.0) if on else (25.0, 25.0, 0.0, 10.0)))
    return rows


def row(instant: int, values: Sequence[float]) -> str:
    return f"{stamp(instant)}," + ",".join(f"{v:g}" for v in values)


class OnChange(Reads):
    """A row only where something changed, and every half hour."""

    def lines(self, silence: tuple[int, int] = (0, 0)) -> list[str]:
        lines, last, last_at = [*HEADS], None, 0
        wobble = np.random.default_rng(3)
        for instant, values in by_minutes(10.0):
            if silence[0] <= instant < silence[1]:
                continue
            # A flow temperature that moves now and then while it runs, as sensors do.
            shown = (values[0] + 0.1 * wobble.integers(0, 2) * (values[2] > 0), *values[1:])
            if shown != last or instant - last_at >= 1800:
                lines.append(row(instant, shown))
                last, last_at = shown, instant
        return lines

    def test_no_energy_is_lost_over_silences(self) -> None:
        trace, report = self.read(self.lines())
        energy = float(np.nansum(trace["power:unit"])) * trace.step
        true = sum(values[3] * 60 for _, values in by_minutes(10.0))
        self.assertAlmostEqual(energy / true, 1.0, delta=0.005)
        self.assertTrue(any("change" in one.text for one in report.notes), report.notes)

    def test_an_outage_is_longer_than_the_heartbeat_and_stays_a_gap(self) -> None:
        dead = (START + 3 * DAY, START + 3 * DAY + 6 * 3600)
        trace, _ = self.read(self.lines(dead))
        inside = trace.between(dead[0] + 2400, dead[1] - 600)["power:unit"]
        self.assertTrue(np.isnan(inside).all())

    def test_the_heartbeat_that_is_described_counts(self) -> None:
        dead = (START + 3 * DAY, START + 3 * DAY + 6 * 3600)
        trace, _ = self.read(self.lines(dead), log_heartbeat=7 * 3600.0)
        self.assertTrue(np.isfinite(trace.between(*dead)["power:unit"]).all())

    def test_a_log_by_the_clock_is_not_taken_for_one(self) -> None:
        times = START + 60 * np.arange(3000)
        values = np.sin(np.arange(3000.0))
        self.assertFalse(uneven(times))
        self.assertIsNone(on_change(times, [values], None))
        keep = np.random.default_rng(1).random(3000) < 0.9  # rows lost by chance
        self.assertIsNone(on_change(times[keep], [values[keep]], None))


class Registers(TestCase):
    def test_net_heat_falls_a_little_and_is_no_reset(self) -> None:
        kwh = 3.6e6
        readings = np.array([5000.0, 5001.0, 5000.6, 5002.0]) * kwh
        self.assertFalse(falls(readings, net=True).any())
        self.assertTrue(falls(readings, net=False).any())
        reset = np.array([5000.0, 5001.0, 0.4, 1.0]) * kwh
        self.assertEqual(np.flatnonzero(falls(reset, net=True)).tolist(), [1])
        young = np.array([2.0, 2.4, 0.1, 0.5]) * kwh  # more than half is gone
        self.assertEqual(np.flatnonzero(falls(young, net=True)).tolist(), [1])

    def test_the_flow_of_a_volume_register(self) -> None:
        volume = np.cumsum(np.full(600, 0.02))  # 20 L a minute
        flow = flow_by_volume(volume, 60)
        np.testing.assert_allclose(flow[10:-10], 20 * LITRE_PER_MIN, rtol=1e-9)


class Intervals(Reads):
    """The register tells whether a mean is that before its stamp or after it."""

    def means(self, shift: int) -> dict[str, Any]:
        """Ten minutes of running and five of rest."""
        k = np.arange(6 * 1440)
        power = np.where(k % 15 < 10, 2000.0, 10.0)
        register = np.concatenate([[0.0], np.cumsum(power * 60)])[:-1]
        return {"energy:unit": register + 1e9, "power:unit": np.roll(power, shift)}

    def test_what_a_stamp_marks(self) -> None:
        self.assertEqual(marked(self.means(0), 60), Marks.BEGINNING)
        self.assertEqual(marked(self.means(1), 60), Marks.END)
        moment = self.means(0)
        power = moment["power:unit"]
        moment["power:unit"] = 0.5 * (power + np.roll(power, 1))
        self.assertEqual(marked(moment, 60), Marks.MOMENT)
        self.assertIsNone(marked({"power:unit": power}, 60))

    def test_means_stamped_at_the_end_move_back(self) -> None:
        columns = self.means(1)
        lines = ["time,power_unit [W],energy_unit [kWh]"]
        for k, power in enumerate(columns["power:unit"]):
            energy = columns["energy:unit"][k] / 3.6e6
            lines.append(f"{stamp(START + 60 * k)},{power:.1f},{energy:.5f}")
        meters = (
            ElectricityMeter("unit meter", "power:unit", UNIT),
            ElectricityMeter("register", "energy:unit", UNIT),
        )
        trace, report = self.read(lines, circuits=(), electricity=meters)
        at = trace.cell(START + 10 * 60)  # the first cell of rest
        self.assertGreater(trace["power:unit"][at - 1], 1000)
        self.assertLess(trace["power:unit"][at], 1000)
        self.assertTrue(any("end of" in n.text for n in report.notes), report.notes)


class Nothing(Reads):
    def test_markers_for_nothing_are_no_readings(self) -> None:
        rng = np.random.default_rng(2)
        for marker in (-9999.0, 999.0, 327.67):
            lines = [*HEADS]
            for instant, values in by_minutes(4.0):
                temps = (values[0] + rng.normal(0, 0.1), values[1] + rng.normal(0, 0.1))
                shown = (marker, marker) if rng.random() < 0.02 else temps
                lines.append(row(instant, (*(round(t, 2) for t in shown), *values[2:])))
            trace, report = self.read(lines)
            self.assertLess(np.nanmax(np.abs(trace["flow_temp"])), 40, marker)
            said = " ".join(note.text for note in report.notes)
            self.assertIn(f"{marker:g}", said)


class Several(Reads):
    """Files of one system, each with its own clock and step."""

    def test_two_loggers_and_two_weeks(self) -> None:
        rows = by_minutes(2.0)
        half = len(rows) // 2
        power = ["time,power_unit [W]"]
        for instant, values in rows:
            power += [f"{stamp(instant + s)},{values[3]:g}" for s in range(0, 60, 10)]
        paths = [self.written("power.csv", power)]
        for name, part in (("one.csv", rows[: half + 30]), ("two.csv", rows[half:])):
            lines = ["Zeit;flow_temp_c;return_temp_c;flow_rate_lpm"]  # an hour ahead, and repeated
            for instant, v in part:
                local = datetime.fromtimestamp(instant + 3600, UTC).strftime("%d.%m.%Y %H:%M")
                lines.append(f"{local};{v[0]};{v[1]};{v[2]}")
            paths.append(self.written(name, lines))
        trace, reports = read_logs(paths, installation(log_zone="Etc/GMT-1"), NOW)
        self.assertEqual(len(reports), 3)
        self.assertEqual((trace.step, trace.start), (10, START))
        found = assess(installation(), trace).main
        assert found is not None and found.cop is not None and found.electricity is not None
        hours = sum(values[2] > 0 for _, values in rows) / 60
        self.assertAlmostEqual(found.electricity.value, hours * 2.0 + (48 - hours) * 0.01, 1)
        heat = hours * 20 * LITRE_PER_MIN * 994.7 * 4179 * 5 / 1000  # properties of EN 1434, 32 °C
        self.assertAlmostEqual(found.cop.value, heat / found.electricity.value, 1)

    def test_none_of_them_says_anything(self) -> None:
        lines = ["time,room_temp [°C]", *(f"{stamp(START + 60 * k)},20.5" for k in range(200))]
        paths = [self.written("a.csv", lines), self.written("b.csv", lines)]
        with self.assertRaisesRegex(IntakeError, r"a\.csv, b\.csv: no column"):
            read_logs(paths, installation(), NOW)

    def test_what_the_earlier_knows_stays(self) -> None:
        fine = Trace(START, 60, {"flow_temp": np.full(10, 35.0)})
        coarse = Trace(START, 300, {"flow_temp": np.array([30.0, 31.0, 32.0, 33.0])})
        whole = laid_over([fine, coarse])
        self.assertEqual(whole["flow_temp"].tolist(), [35.0] * 10 + [32.0] * 5 + [33.0] * 5)


class Again(Reads):
    def test_blocks_that_a_logger_sends_again(self) -> None:
        """After a reconnect: a fifth of the rows twice, none lost, none doubled."""
        rows = [row(instant, values) for instant, values in by_minutes(2.0)]
        lines = [*HEADS, *rows[:1000], *rows[700:1500], *rows[1200:]]
        trace, report = self.read(lines)
        plain, _ = self.read([*HEADS, *rows])
        np.testing.assert_array_equal(trace["power:unit"], plain["power:unit"])
        self.assertTrue(any("the later row was kept" in n.text for n in report.notes))

    def test_a_row_a_reading_is_still_told_from_that(self) -> None:
        rows = [row(instant, values) for instant, values in by_minutes(1.0)]
        with self.assertRaisesRegex(IntakeError, "rows repeat a time"):
            self.read([*HEADS, *(line for line in rows for _ in range(2))])


class NetHeat(TestCase):
    def test_a_net_register_is_neither_doubted_nor_split(self) -> None:
        """A register that falls beside defrosts agrees with flow × ΔT as it is, and is no reset."""
        base = SCENARIOS["as-rated"]
        errors = replace(base.errors, net=True, heat_step=0.1)
        done = simulate(replace(base, errors=errors, days=60))
        trace = done.trace()
        counted = trace["heat_energy"]
        self.assertTrue((np.diff(counted[np.isfinite(counted)]) < 0).any())
        found = assess(done.installation, trace)
        said = {c.name: c.soundness for c in found.checks}
        self.assertEqual(said["counter resets"], Soundness.SOUND)
        self.assertEqual(said["register against flow × ΔT"], Soundness.SOUND)
        register = replace(done.installation.registers[0], circuit=None)
        described = replace(done.installation, circuits=(), registers=(register,))
        alone = assess(described, trace).main
        assert alone is not None and alone.heat is not None
        self.assertLess(abs(alone.heat.value - done.truth_heat()), alone.heat.U)
