"""Long tables, pulses, amounts of each row, registers that fall, and days in two zones."""

import csv
import tempfile
import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import ClassVar
from zoneinfo import ZoneInfo

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ember.basis.errors import IntakeError
from ember.basis.series import Trace
from ember.description.installation import Installation
from ember.description.logged import Column
from ember.intake import IntakeReport, joined, read_log, read_pieces
from ember.intake.columns import running_total
from ember.metering.register import increments
from tests.core.helpers import simulated

START = datetime(2026, 1, 10, tzinfo=UTC)


def described(**more: object) -> Installation:
    return replace(simulated("as-rated", days=2).installation, **more)


class Reads(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def read(
        self, text: str, installation: Installation | None = None, name: str = "log.csv"
    ) -> tuple[Trace, IntakeReport]:
        path = self.folder / name
        path.write_text(text)
        return read_log(path, installation or described(), START.timestamp() + 1e8)

    def said(self, report: IntakeReport) -> str:
        return " ".join(note.text for note in report.notes)


class Long(Reads):
    NAMES: ClassVar = {
        "flow_temp": ("°C", 35.0),
        "return_temp": ("°C", 30.0),
        "flow_rate": ("L/min", 20.0),
        "power unit": ("W", 1500.0),
    }

    def table(
        self,
        apart: int = 0,
        skip: set[tuple[int, str]] = frozenset(),
        rows: int = 60,
        unit: bool = True,
    ) -> str:
        lines = ["time,entity,value" + (",unit" if unit else "")]
        for k in range(rows):
            for j, (name, (symbol, value)) in enumerate(self.NAMES.items()):
                if (k, name) in skip:
                    continue
                when = START + timedelta(seconds=60 * k + apart * j)
                header = name if unit else f"{name} [{symbol}]"
                lines.append(
                    f"{when:%Y-%m-%dT%H:%M:%SZ},{header},{value + k % 5}"
                    + (f",{symbol}" if unit else "")
                )
        return "\n".join(lines)

    def test_a_long_table_is_the_wide_one(self) -> None:
        for unit in (True, False):
            trace, report = self.read(self.table(unit=unit))
            self.assertIn("long table of 4 names", report.dialect)
            self.assertEqual((trace.step, len(trace)), (60, 60))
            expected = np.arange(60) % 5
            np.testing.assert_allclose(trace["flow_temp"], 35 + expected)
            np.testing.assert_allclose(trace["power:unit"], 1500 + expected)
            np.testing.assert_allclose(trace["flow_rate"], (20 + expected) / 60e3)

    def test_channels_that_are_read_some_seconds_apart_share_a_minute(self) -> None:
        trace, _ = self.read(self.table(apart=7))
        self.assertEqual(trace.step, 60)
        self.assertGreaterEqual(np.isfinite(trace["power:unit"]).sum(), 59)

    def test_a_gap_of_one_channel_stays_its_own(self) -> None:
        trace, _ = self.read(self.table(skip={(k, "flow_temp") for k in range(20, 40)}))
        self.assertFalse(np.isfinite(trace["flow_temp"][22:39]).any())
        self.assertTrue(np.isfinite(trace["return_temp"]).all())

    def test_a_name_in_two_units_is_refused(self) -> None:
        text = self.table().replace(",36.0,°C", ",96.8,°F")
        with self.assertRaisesRegex(IntakeError, "'flow_temp' is given in .* and in "):
            self.read(text)

    def test_a_wide_table_with_a_text_column_is_no_long_one(self) -> None:
        lines = ["time,flow_temp_c,return_temp_c,power_unit_w,mode"]
        for k in range(60):
            when = START + timedelta(minutes=k)
            mode = "heat" if k % 2 else "idle"
            lines.append(f"{when:%Y-%m-%dT%H:%M:%SZ},35,30,1500,{mode}")
        _, report = self.read("\n".join(lines))
        self.assertNotIn("long", report.dialect)


class Registers(Reads):
    def log(self, values: list[float | None], header: str = "counter", step: int = 60) -> str:
        lines = [f"time,flow_temp_c,{header}"]
        for k, value in enumerate(values):
            when = START + timedelta(seconds=step * k)
            lines.append(f"{when:%Y-%m-%dT%H:%M:%SZ},35,{'' if value is None else value}")
        return "\n".join(lines)

    def columns(self, **more: object) -> Installation:
        base = described()
        meters = (replace(base.electricity[0], channel="energy:unit"), *base.electricity[1:])
        columns = (
            Column("flow_temp_c", "flow_temp", "degC"),
            Column("counter", "energy:unit", **more),
        )
        return replace(base, electricity=meters, columns=columns)

    def energy(self, trace: Trace) -> np.ndarray:
        found, _, _ = increments(trace["energy:unit"], trace.step, trace.native_of("energy:unit"))
        return found

    def test_pulses_with_what_one_is_worth(self) -> None:
        # 1000 pulses a kWh is the usual constant of a meter's LED (common practice): 1 Wh each.
        trace, report = self.read(
            self.log([1000 + 25 * k for k in range(30)]), self.columns(unit="Wh", counts=1.0)
        )
        np.testing.assert_allclose(self.energy(trace)[:-1], 25 * 3600.0)
        self.assertIn("one pulse is 1 Wh", self.said(report))

    def test_amounts_of_each_row(self) -> None:
        trace, report = self.read(
            self.log([0.5, 0.02, 0.03, 0.01, 0.02] * 6), self.columns(unit="kWh", each_row=True)
        )
        found = self.energy(trace)[:-1] / 3.6e6
        np.testing.assert_allclose(found, ([0.5, 0.02, 0.03, 0.01, 0.02] * 6)[1:], atol=1e-9)
        self.assertIn("added up to a register", self.said(report))

    def test_an_amount_that_is_missing_is_not_made_up(self) -> None:
        amounts: list[float | None] = [0.02] * 30
        amounts[10] = None
        trace, _ = self.read(self.log(amounts), self.columns(unit="kWh", each_row=True))
        found = self.energy(trace)[:-1]
        self.assertEqual(np.flatnonzero(np.isnan(found)).tolist(), [9])
        np.testing.assert_allclose(np.delete(found, 9), 0.02 * 3.6e6)

    @given(
        st.lists(st.one_of(st.none(), st.floats(0, 50)), min_size=3, max_size=40),
        st.sets(st.integers(1, 38), max_size=5),
    )
    def test_a_running_total_gives_each_known_amount_back(self, amounts, gone) -> None:
        values = np.array([np.nan if a is None else a for a in amounts]) * 3.6e6
        times = np.array([60 * k for k in range(len(values))])
        keep = np.array([k not in gone for k in range(len(values))])
        values, times = values[keep], times[keep]
        if len(values) < 2:
            return
        total = running_total(values, times)
        self.assertGreaterEqual(total.min(), 0)
        usual = np.median(np.diff(times))
        for k in range(1, len(values)):
            rise = total[k] - total[k - 1]
            if np.isfinite(values[k]) and times[k] - times[k - 1] <= 1.5 * usual:
                self.assertAlmostEqual(rise, values[k], delta=1e-6 * max(1.0, total[k]))
            else:
                self.assertLess(rise, 0)

    def test_a_register_that_falls_is_said_and_split(self) -> None:
        values = [100 + 0.1 * k for k in range(20)] + [0.1 * k for k in range(20)]
        trace, report = self.read(self.log(values), self.columns(unit="kWh"))
        found = self.energy(trace)
        self.assertEqual(np.flatnonzero(np.isnan(found[:-1])).tolist(), [19])
        self.assertAlmostEqual(np.nansum(found) / 3.6e6, 3.8)
        self.assertIn(
            "Row 22: the register 'counter' falls, first from 101.9 to 0.0 kWh", self.said(report)
        )

    def test_counts_need_a_unit_and_a_register(self) -> None:
        with self.assertRaisesRegex(Exception, "what one pulse is worth"):
            Column("x", "energy:unit", counts=1.0)
        with self.assertRaisesRegex(Exception, "is no register"):
            Column("x", "flow_temp", "degC", each_row=True)

    def test_airflow_and_refrigerant_columns_by_their_units(self) -> None:
        lines = [
            "time,power_unit_w,air flow [CFM],superheat [°F],suction pressure [psig],"
            "compressor speed [rpm]"
        ]
        lines += [
            f"{START + timedelta(minutes=k):%Y-%m-%dT%H:%M:%SZ},1500,400,9,100,3600"
            for k in range(40)
        ]
        trace, _ = self.read("\n".join(lines))
        # Exact by definition: 1 ft = 0.3048 m; 1 psi = 6894.757 Pa (NIST SP 811, table B.8).
        self.assertAlmostEqual(trace["airflow"][0], 400 * 0.3048**3 / 60)
        self.assertAlmostEqual(trace["superheat"][0], 5.0)
        self.assertAlmostEqual(trace["evaporating_pressure"][0], 689475.7, delta=0.1)
        self.assertAlmostEqual(trace["compressor_speed"][0], 60.0)


class Pieces(Reads):
    """A large file read in pieces is the file read at once."""

    def table(self, rows: int = 3000, stamp: str = "%Y-%m-%dT%H:%M:%SZ") -> str:
        lines = ["logger 7", "time,flow_temp_c,power_unit_w,outdoor_temp_c"]
        for k in range(rows):
            when = f"{START + timedelta(minutes=k):{stamp}}"
            outdoor = f"{k // 60 % 9}.5" if k % 60 == 0 else ""  # slow: once an hour
            power = "broken" if k in (10, 1700, 2900) else 1500 + k % 7
            lines.append(f"{when},{30 + k % 11},{power},{outdoor}")
        return "\n".join(lines)

    def both(self, text: str, piece: int = 20_000) -> tuple[list, tuple[Trace, IntakeReport]]:
        whole = self.read(text)
        found = read_pieces(self.folder / "log.csv", described(), START.timestamp() + 1e8, piece)
        return list(found), whole

    def test_the_same_readings_and_the_same_row_numbers(self) -> None:
        pieces, (whole, report) = self.both(self.table())
        self.assertGreater(len(pieces), 3)
        for trace, _ in pieces:
            first = (trace.start - whole.start) // whole.step
            # A piece begins within an hour of readings of the one before, in which a slow channel
            # is not known yet.
            for channel, values in trace.channels.items():
                here = whole[channel][first : first + len(values)]
                begins = 60 if first else 0
                np.testing.assert_array_equal(values[begins:], here[begins:], channel)
        together = joined([one for _, one in pieces])
        self.assertEqual(
            (together.rows, together.start, together.stop), (report.rows, report.start, report.stop)
        )
        said = " ".join(note.text for note in together.notes)
        for row in (13, 1703, 2903):
            self.assertIn(f"Row {row:,}: 'power_unit_w' is 'broken'", said)

    def test_a_wall_clock_and_a_small_file_are_not_cut(self) -> None:
        self.assertEqual(len(self.both(self.table(stamp="%d.%m.%Y %H:%M"))[0]), 1)
        self.assertEqual(len(self.both(self.table(100))[0]), 1)


class Clocks(Reads):
    """The hour that is doubled and the one that is missing, against the IANA data in zoneinfo."""

    def test_naive_local_logs_over_both_changes_in_two_zones(self) -> None:
        for name, spring, autumn in (
            ("Europe/Berlin", datetime(2026, 3, 29), datetime(2026, 10, 25)),
            ("America/New_York", datetime(2026, 3, 8), datetime(2026, 11, 1)),
        ):
            zone = ZoneInfo(name)
            for day in (spring, autumn):
                begin = day.replace(tzinfo=zone).timestamp()
                end = (day + timedelta(days=1)).replace(tzinfo=zone).timestamp()
                instants = np.arange(begin, end, 300)
                local = [
                    datetime.fromtimestamp(t, zone).strftime("%d.%m.%Y %H:%M") for t in instants
                ]
                text = "\n".join(
                    [
                        "time,flow_temp_c,power_unit_w",
                        *[f"{t},{k / 10},1500" for k, t in enumerate(local)],
                    ]
                )
                trace, report = self.read(text, described(zone=name))
                self.assertEqual((trace.start, len(trace)), (begin, len(instants)), (name, day))
                np.testing.assert_allclose(trace["flow_temp"], np.arange(len(instants)) / 10)
                self.assertEqual("the clock shows twice" in self.said(report), day is autumn)


SUFFIX = {"°C": "c", "°F": "f", "W": "w", "kW": "kw", "L/min": "lpm"}
DIALECTS = st.fixed_dictionaries({
    "separator": st.sampled_from([",", ";", "\t", "|"]),
    "decimal": st.sampled_from([".", ","]),
    "encoding": st.sampled_from(["utf-8", "utf-8-sig", "cp1252", "utf-16"]),
    "newline": st.sampled_from(["\n", "\r\n"]),
    "quote": st.booleans(),
    "preamble": st.integers(0, 4),
    "units": st.sampled_from(["header", "row", "suffix"]),
    "stamp": st.sampled_from([
        "%Y-%m-%dT%H:%M:%SZ", "%d.%m.%Y %H:%M", "%m/%d/%Y %I:%M %p", "%Y/%m/%d %H:%M:%S", "epoch",
        "ms",
    ]),
    "sums": st.booleans(),
    "fahrenheit": st.booleans(),
    "kilowatt": st.booleans(),
    "shuffle": st.permutations(range(4)),
})  # fmt: skip


class Dialects(Reads):
    """The same readings in any dialect that Hypothesis makes up are the same record."""

    def written(self, d: dict, folder: Path) -> Path:
        rows = 240
        base = np.arange(rows)
        temp = "°F" if d["fahrenheit"] else "°C"
        flow, back = 30 + base % 7 * 1.5, 25 + base % 5 * 1.5
        power = 1500.0 + base % 3 * 250
        columns = [
            ("flow temp", temp, flow * 1.8 + 32 if d["fahrenheit"] else flow),
            ("return temp", temp, back * 1.8 + 32 if d["fahrenheit"] else back),
            (
                "power unit",
                "kW" if d["kilowatt"] else "W",
                power / 1000 if d["kilowatt"] else power,
            ),
            ("flow rate", "L/min", 20.0 + base % 4),
        ]
        columns = [columns[k] for k in d["shuffle"]]

        def number(value: float) -> str:
            return f"{value:.4f}".replace(".", d["decimal"])

        def stamp(k: int) -> str:
            when = datetime(2026, 1, 20, tzinfo=UTC) + timedelta(minutes=k)
            if d["stamp"] == "epoch":
                return f"{when.timestamp():.0f}"
            return (
                f"{when.timestamp() * 1000:.0f}"
                if d["stamp"] == "ms"
                else when.strftime(d["stamp"])
            )

        heads = {
            "header": [f"{n} [{u}]" for n, u, _ in columns],
            "row": [n for n, _, _ in columns],
            "suffix": [f"{n.replace(' ', '_')}_{SUFFIX[u]}" for n, u, _ in columns],
        }[d["units"]]
        path = folder / "log.csv"
        with path.open("w", encoding=d["encoding"], newline="") as file:
            for k in range(d["preamble"]):
                file.write(f"logger {k}{d['newline']}")
            quoting = csv.QUOTE_ALL if d["quote"] else csv.QUOTE_MINIMAL
            out = csv.writer(
                file, delimiter=d["separator"], lineterminator=d["newline"], quoting=quoting
            )
            out.writerow(["time", *heads])
            if d["units"] == "row":
                out.writerow(["", *[u for _, u, _ in columns]])
            for k in range(rows):
                out.writerow([stamp(k), *[number(float(v[k])) for _, _, v in columns]])
            if d["sums"]:
                out.writerow(["Total", *["" for _ in columns[1:]], number(1.0)])
        return path

    @settings(max_examples=40, suppress_health_check=[HealthCheck.too_slow], deadline=None)
    @given(DIALECTS)
    def test_any_dialect(self, dialect: dict) -> None:
        if dialect["decimal"] == "," and dialect["separator"] == ",":
            dialect = {**dialect, "decimal": "."}
        with tempfile.TemporaryDirectory() as folder:
            path = self.written(dialect, Path(folder))
            trace, report = read_log(path, described(log_zone="UTC"), START.timestamp() + 1e8)
        self.assertEqual((trace.step, len(trace), report.rows), (60, 240, 240))
        base = np.arange(240)
        np.testing.assert_allclose(trace["flow_temp"], 30 + base % 7 * 1.5, atol=1e-3)
        np.testing.assert_allclose(trace["return_temp"], 25 + base % 5 * 1.5, atol=1e-3)
        np.testing.assert_allclose(trace["power:unit"], 1500 + base % 3 * 250, atol=0.1)
        np.testing.assert_allclose(trace["flow_rate"], (20 + base % 4) / 60e3, atol=1e-8)
        said = " ".join(note.text for note in report.notes)
        self.assertEqual("no time" in said or "'Total'" in said, dialect["sums"], said)


if __name__ == "__main__":
    unittest.main()
