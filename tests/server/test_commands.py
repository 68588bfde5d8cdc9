"""assess and simulate as a user runs them: what is printed, written and refused."""

import gzip
import io
import json
import subprocess
import sys
import tempfile
from pathlib import Path

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import CommandError
from django.test import SimpleTestCase

from ember.description.as_json import installation_from_json

HEADER = "time,flow_temp_c,return_temp_c,flow_rate_lpm,power_unit_w,outdoor_temp_c"


class Simulated(SimpleTestCase):
    """Twenty winter days of the system that is 20 % below, written by the command itself."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        call_command(
            "simulate",
            str(cls.folder / "house"),
            "--scenario",
            "below-rated",
            "--days",
            "20",
            "--first-day",
            "2026-01-05",
            "--dialect",
            "continental",
            "--gzip",
            stdout=io.StringIO(),
        )
        cls.house = cls.folder / "house"

    def assess(self, *arguments: str, log: Path | None = None, more: tuple[Path, ...] = ()) -> str:
        out = io.StringIO()
        call_command(
            "assess",
            str(log or self.house / "log.csv.gz"),
            *map(str, more),
            "--installation",
            str(self.house / "installation.json"),
            *arguments,
            stdout=out,
        )
        return out.getvalue()

    def test_simulate_writes_log_description_table_and_truth(self) -> None:
        names = {path.name for path in self.house.iterdir()}
        self.assertEqual(names, {"log.csv.gz", "installation.json", "rated.csv", "truth.json"})
        with gzip.open(self.house / "log.csv.gz", "rt", encoding="utf-8") as log:
            first = log.read(400)
        self.assertIn("Datum;Flow temp [°C]", first)
        installation_from_json((self.house / "installation.json").read_bytes())
        truth = json.loads((self.house / "truth.json").read_text())
        self.assertIn("20 % below", truth["fault"])
        self.assertEqual(len(truth["states"][0]), 2)
        self.assertIn("defrost", {state for _, state in truth["states"]})
        self.assertGreater(len(truth["starts"]), 10)

    def test_the_sum_is_written_out(self) -> None:
        text = self.assess("--rated", str(self.house / "rated.csv"))
        for words in (
            "RECKONING · H4 WITH PUMPS",
            "Heating",
            "Defrost, taken back",
            "Heat ",
            "Unit meter",
            "Electricity",
            "COP",
            "(k = 2)",
            "Covers 100.0% of the time",
            "BOUNDARIES",
            "'unit meter' also holds controls and source",
            "METERING",
            "Below rated.",
            "certified technicians",
            "Caution",
            "MONTHS",
            "2026-01",
            "COST",
            "night",
            "UNCERTAINTY OF THE COP AT H4",
            "temperature pair",
            "log.csv.gz: 28,800 rows",
            "semicolon-separated, decimal comma",
            "wall clock, WET",
            "Flow rate [m³/h]",
        ):
            self.assertIn(words, text)
        self.assertLessEqual(max(len(line) for line in text.splitlines()), 96)

    def test_the_lines_add_up_as_printed(self) -> None:
        lines = self.assess().splitlines()
        begin = next(k for k, line in enumerate(lines) if "RECKONING" in line)
        sums: list[int] = []
        run = 0
        for line in lines[begin + 1 :]:
            if "═" in line:
                break
            words = line.replace("−", "-").replace(",", "").split()
            numbers = [w for w in words if w.lstrip("-").isdigit()]
            if line.strip().startswith(("Heat ", "Electricity ")):
                sums.append(run - int(numbers[0]))
                run = 0
            elif numbers:
                run += int(numbers[0])
        self.assertEqual(len(sums), 2)
        for difference in sums:
            self.assertLessEqual(abs(difference), 3)  # each line rounded by itself

    def test_the_truth_lies_within_what_is_stated(self) -> None:
        out = self.folder / "out.json"
        self.assess("--json", str(out))
        document = json.loads(out.read_text())
        season = document["season"]
        self.assertEqual(
            season["whole"]["cop"], document["assessment"]["total"]["reckonings"][-1]["cop"]
        )
        self.assertIn("heating", [one["mode"] for one in season["modes"]])
        self.assertIn("standby", [one["state"] for one in season["uses"]])
        truth = json.loads((self.house / "truth.json").read_text())
        for reckoning in document["assessment"]["total"]["reckonings"]:
            cop = reckoning["cop"]
            self.assertLess(abs(cop["value"] - truth["spf"][reckoning["level"]]), cop["U"])
        self.assertEqual(document["intake"]["rows"], 28800)
        self.assertEqual(document["installation"]["name"], "School house")

    def test_a_season_on_the_terminal(self) -> None:
        said = self.assess("--season")
        for words in ("HEATING AND HOT WATER APART", "LOSSES, NOT TO BE ADDED", "WHAT THE ELECTR"):
            self.assertIn(words, said)

    def test_json_on_the_terminal_is_nothing_but_json(self) -> None:
        self.assertEqual(json.loads(self.assess("--json", "-"))["assessment"]["zone"], "WET")

    def test_two_weekly_files_are_one_log(self) -> None:
        """The same sum as from the whole, and an intake of each."""
        with gzip.open(self.house / "log.csv.gz", "rt", encoding="utf-8") as log:
            lines = log.readlines()
        head = next(k for k, line in enumerate(lines) if line.startswith("Datum"))
        halves = []
        for k, rows in enumerate((lines[head + 1 : 15_000], lines[14_900:])):  # some rows twice
            halves.append(self.folder / f"week{k}.csv")
            halves[-1].write_text("".join([*lines[: head + 1], *rows]), encoding="utf-8")
        both = json.loads(self.assess("--json", "-", log=halves[0], more=(halves[1],)))
        whole = json.loads(self.assess("--json", "-"))
        self.assertEqual([i["file"] for i in both["intakes"]], ["week0.csv", "week1.csv"])
        for one, other in zip(
            both["assessment"]["total"]["reckonings"],
            whole["assessment"]["total"]["reckonings"],
            strict=True,
        ):
            self.assertAlmostEqual(one["cop"]["value"], other["cop"]["value"], 6)
            self.assertAlmostEqual(one["heat"]["value"], other["heat"]["value"], 3)

    def test_a_cell_that_cannot_be_is_named_and_the_rest_serves(self) -> None:
        table = self.folder / "with-a-slip.csv"
        text = (self.house / "rated.csv").read_text().rstrip()
        table.write_text(f"{text}\n20,20,9,9\n")  # no lift
        document = json.loads(self.assess("--rated", str(table), "--json", "-"))
        self.assertIsNotNone(document["assessment"]["comparison"])
        self.assertIn("with-a-slip.csv", " ".join(document["doubts"]))
        plain = json.loads(self.assess("--rated", str(self.house / "rated.csv"), "--json", "-"))
        ratio = [d["assessment"]["comparison"]["ratio"]["value"] for d in (document, plain)]
        self.assertAlmostEqual(ratio[0], ratio[1], 9)

    def test_a_table_of_brine_is_read_for_a_unit_on_brine(self) -> None:
        installation = self.folder / "brine.json"
        value = json.loads((self.house / "installation.json").read_text())
        value["unit"]["kind"] = "ground_source"
        installation.write_text(json.dumps(value))
        out = io.StringIO()
        call_command(
            "assess",
            str(self.house / "log.csv.gz"),
            "--installation",
            str(installation),
            "--rated",
            str(self.house / "rated.csv"),
            "--json",
            "-",
            stdout=out,
        )
        document = json.loads(out.getvalue())
        self.assertEqual(document["installation"]["rated"]["kind"], "ground")
        self.assertIsNone(document["assessment"]["comparison"])  # no brine is logged

    def test_a_period_in_local_days(self) -> None:
        document = json.loads(
            self.assess("--from", "2026-01-10", "--to", "2026-01-11", "--json", "-")
        )
        self.assertEqual(document["assessment"]["start"], "2026-01-10T00:00:00Z")
        self.assertEqual(document["assessment"]["stop"], "2026-01-12T00:00:00Z")

    def test_refusals(self) -> None:
        """One sentence, exit code 2."""
        other = self.folder / "other"
        other.mkdir(exist_ok=True)
        bad = other / "bad.json"
        bad.write_text('{"name": 3}')
        table = other / "table.csv"
        table.write_text("outdoor,flow,capacity,cop\n7,35,8,31\n")
        empty = other / "empty.csv"
        empty.write_text("")
        for arguments, log, words in (
            (("--installation", str(bad)), None, "bad.json: name: "),
            (("--installation", str(other / "none.json")), None, "cannot be read"),
            (("--rated", str(table)), None, "table.csv, row 2: capacity 8 kW at COP 31"),
            ((), empty, "empty.csv: the file is empty."),
            ((), other / "none.csv", "none.csv: the file cannot be read"),
            (("--from", "yesterday"), None, "--from: 'yesterday' is no day or time"),
            (("--from", "2031-01-01"), None, "there are no readings between"),
            (("--json", str(other / "no" / "out.json")), None, "cannot be written"),
        ):
            with self.subTest(words), self.assertRaises(CommandError) as caught:
                self.assess(*arguments, log=log)
            self.assertIn(words, str(caught.exception))
            self.assertEqual(caught.exception.returncode, 2)

    def test_simulate_refuses_what_it_cannot_do(self) -> None:
        for arguments, words in (
            (("--step", "45"), "multiple of 10"),
            (("--days", "0"), "between 1 day and ten years"),
        ):
            with self.assertRaisesRegex(CommandError, words):
                call_command("simulate", str(self.folder / "x"), *arguments)


class Process(SimpleTestCase):
    """The command as a process of its own: exit codes, no traceback, whatever the file."""

    def written(self, content: bytes, folder: Path) -> list[str]:
        """A log and a description in a folder; the words after `assess` for them."""
        log = folder / "log.csv"
        log.write_bytes(content)
        described = folder / "installation.json"
        described.write_text(
            json.dumps(
                {
                    "name": "House",
                    "zone": "UTC",
                    "electricity": [
                        {
                            "name": "unit meter",
                            "channel": "power:unit",
                            "includes": ["compressor", "source", "controls"],
                        }
                    ],
                    "circuits": [{"name": "circuit"}],
                }
            )
        )
        return [str(log), "--installation", str(described)]

    def run_assess(self, content: bytes, folder: Path) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "manage.py", "assess", *self.written(content, folder)],
            capture_output=True,
            text=True,
            cwd=settings.BASE_DIR,
            check=False,
        )

    def test_broken_files_exit_with_two_and_a_sentence(self) -> None:
        row = "2026-01-10T00:{:02}:00Z,35.0,30.0,20.0,2000,2.5"
        rows = [row.format(m) for m in range(60)]
        with tempfile.TemporaryDirectory() as folder:
            done = self.run_assess(b"\x89PNG\r\n\x1a\n" + bytes(500), Path(folder))
            self.assertEqual(done.returncode, 2, done.stderr)
            self.assertNotIn("Traceback", done.stderr + done.stdout)
            self.assertIn("Problem: log.csv: ", done.stderr)
            for content in (
                b"",
                gzip.compress("\n".join([HEADER, *rows]).encode())[:-20],
                "\n".join([HEADER, *[r.replace(",", ";") for r in rows]]).encode(),
                "\n".join([HEADER, *[r.replace("2026", "2096") for r in rows]]).encode(),
            ):
                with self.assertRaisesRegex(CommandError, "^log.csv: ") as refused:
                    call_command("assess", *self.written(content, Path(folder)))
                self.assertEqual(refused.exception.returncode, 2)
            done = self.run_assess("\n".join([HEADER, *rows]).encode(), Path(folder))
            self.assertEqual((done.returncode, done.stderr), (0, ""))
            self.assertIn("COP", done.stdout)
