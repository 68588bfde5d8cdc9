"""The score of logs from elsewhere, on a folder of that form made from a stand-in."""

import gzip
import json
import tempfile
from contextlib import redirect_stderr
from dataclasses import replace
from datetime import UTC, datetime
from io import StringIO
from pathlib import Path
from unittest import TestCase

from ember.description.as_json import installation_to_json
from ember.states import State
from stand_ins.files import table_text
from stand_ins.scenario import rated_table
from tests.core.helpers import foreign_log
from validation.field import Row, scored, table, totals

COLUMNS = {
    "Leistung (W)": "electrical power", "Vorlauf (°C)": "flow temperature",
    "Rücklauf (°C)": "return temperature", "Durchfluss (l/h)": "volume flow",
    "Aussen (°C)": "outdoor air temperature", "WMZ (kWh)": "heat meter reading",
}  # fmt: skip


def stamp(instant: float) -> str:
    return datetime.fromtimestamp(instant, UTC).isoformat()


class Field(TestCase):
    rows: list[Row]

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        good, bad = Path(folder.name) / "good", Path(folder.name) / "torn"
        good.mkdir()
        done = foreign_log(good / "log.csv", 60)
        (good / "log.csv.gz").write_bytes(gzip.compress((good / "log.csv").read_bytes()))
        start = done.trace().start
        run = done.run
        described = replace(done.installation, rated=None)
        (good / "installation.json").write_text(installation_to_json(described))
        (good / "rated.csv").write_text(table_text(rated_table(done.scenario.plant)))
        (good / "about.json").write_text(
            json.dumps({"log": {"columns": {h: {"quantity": q} for h, q in COLUMNS.items()}}})
        )
        on = (run.state >= State.START_UP) & (run.state <= State.COOLING)
        heat, used = done.truth_heat(), done.truth_electricity("H4")
        water = float(run.sums["hot_water"].sum()) / 3.6e6
        truth = {
            "fault": {"kind": "none", "category": "healthy", "must_not_conclude": []},
            "totals": {
                "season": {
                    "heat_kWh": {"total": heat},
                    "elec_kWh": {"total": used},
                    "spf": {"system": heat / used},
                    "by_mode": {"hot_water": {"heat_kWh": water}},
                }
            },
            "stats": {
                "performance_vs_map": {"steady_as_metered": 1.0},
                "compressor": {"on_fraction": float(on.mean())},
            },
            "compressor_starts": [{"time": stamp(start + t)} for t in run.starts.tolist()],
            "defrosts": [
                {"start": stamp(start + a), "end": stamp(start + b)}
                for a, b in run.defrosts.reshape(-1, 2).tolist()
            ],
        }
        (good / "truth.json").write_text(json.dumps(truth))
        bad.mkdir()
        for name in ("installation.json", "about.json", "truth.json", "rated.csv"):
            (bad / name).write_text((good / name).read_text())
        (bad / "log.csv.gz").write_bytes(b"no gzip")
        with redirect_stderr(StringIO()):  # which says what failed
            cls.rows = [scored(good), scored(bad)]

    def test_a_healthy_system_scores_all(self) -> None:
        row = self.rows[0]
        self.assertEqual(row.error, "")
        assert row.columns is not None
        self.assertTrue(row.columns.unaided)
        self.assertEqual(row.columns.right, len(COLUMNS))
        for name in ("heat", "electricity", "COP"):
            value, U, true = row.sums[name]
            self.assertLessEqual(abs(value - true), U, name)
        self.assertEqual((row.doubts, row.acting), ((), ()))
        self.assertAlmostEqual(row.running[0], row.running[1], delta=0.02)

    def test_one_that_fails_is_a_row_and_stops_nothing(self) -> None:
        self.assertIn("IntakeError", self.rows[1].error)
        lines = "\n".join([*table(self.rows), *totals(self.rows)])
        self.assertIn("| systems that failed | 1 of 2 |", lines)
        self.assertIn("| columns: right unaided / sure and wrong | 1 of 1 / 0 |", lines)
        self.assertIn("| healthy told to act | 0 of 1 |", lines)
