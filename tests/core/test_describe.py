"""Log first: what a log gives before anything is described, against the truth of the stand-in."""

import csv
import tempfile
from pathlib import Path
from unittest import TestCase

from ember.describe import answered, propose
from ember.errors import DescriptionError
from ember.installation import Consumer, HeatSource, UnitKind
from stand_ins.scenario import Simulated, simulate
from stand_ins.usual import usual

# Headers as someone might have written them, for the columns of the stand-in.
NAMES = {
    "power:unit": "Leistung (W)", "flow_temp": "Vorlauf (°C)", "return_temp": "Rücklauf (°C)",
    "flow_rate": "Durchfluss (l/h)", "outdoor_temp": "Aussen (°C)", "heat_energy": "WMZ (kWh)",
}  # fmt: skip
UNITS = {"flow_rate": 3.6e6, "heat_energy": 1 / 3.6e6}


class FromALog(TestCase):
    done: Simulated
    path: Path

    @classmethod
    def setUpClass(cls) -> None:
        seed = next(k for k in range(12) if usual(k)[0] == "one meter for all")
        cls.done = simulate(usual(seed, 21)[1])
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.path = Path(folder.name) / "plant.csv"
        trace = cls.done.trace()
        with cls.path.open("w", encoding="utf-8", newline="") as out:
            writer = csv.writer(out)
            writer.writerow(["Zeitstempel (UTC)", *NAMES.values()])
            for k in range(len(trace)):
                instant = trace.instant(k)
                cells = [f"{trace[c][k] * UNITS.get(c, 1.0):.3f}" for c in NAMES]
                writer.writerow([instant, *cells])

    def test_meters_size_and_a_first_cop(self) -> None:
        found = propose([self.path], "Plant", "UTC")
        made = found.installation
        self.assertEqual([m.channel for m in made.electricity], ["power"])
        self.assertEqual(made.unit.kind, UnitKind.AIR_TO_WATER)
        assert found.cop is not None and found.level is not None
        heat, used = self.done.truth_heat(), self.done.truth_electricity("H4")
        self.assertLess(abs(found.cop.value - heat / used), found.cop.U)
        self.assertIn("H4", found.level)
        true = self.done.scenario.plant.capacity / 1000
        assert made.unit.capacity_kw is not None
        self.assertLess(abs(made.unit.capacity_kw / true - 1), 0.35)

    def test_three_to_five_questions_each_with_its_price(self) -> None:
        found = propose([self.path], "Plant", "UTC")
        self.assertIn(len(found.asked), (3, 4, 5))
        for asked in found.asked:
            self.assertTrue(asked.skipped.endswith("."), asked.key)
            self.assertTrue(asked.number or asked.answers or asked.key == "table")

    def test_answers_narrow_it(self) -> None:
        skipped = propose([self.path], "Plant", "UTC")
        told = propose([self.path], "Plant", "UTC", {"class": "C", "heat": "2", "pump": "55"})
        assert skipped.cop is not None and told.cop is not None
        self.assertLess(told.cop.U, skipped.cop.U)
        (fixed,) = told.installation.fixed
        self.assertEqual((fixed.watts, fixed.includes), (55.0, (Consumer.DISTRIBUTION_PUMP,)))

    def test_what_the_meter_holds(self) -> None:
        drawn = propose([self.path], "Plant", "UTC").installation
        made = answered(drawn, {"holds": "unit"})
        self.assertNotIn(Consumer.BACKUP_HEATER, made.electricity[0].includes)
        self.assertEqual(made.circuits[0].includes, (HeatSource.HEAT_PUMP,))
        with self.assertRaisesRegex(DescriptionError, "no number of watts"):
            answered(drawn, {"pump": "a lot"})
        with self.assertRaisesRegex(DescriptionError, "between 1 and 2,000 W"):
            answered(drawn, {"pump": "55000"})

    def test_a_log_of_rooms_describes_no_system(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "rooms.csv"
            lines = ["time,room_temp [°C],outdoor_temp [°C]"]
            lines += [f"{1767225600 + 60 * k},20.{k % 10},{k % 7}" for k in range(500)]
            path.write_text("\n".join(lines))
            with self.assertRaisesRegex(DescriptionError, "no electricity was recognised"):
                propose([path], "Rooms", "UTC")
