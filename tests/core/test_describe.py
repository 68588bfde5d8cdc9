"""Log first: what a log gives before anything is described, against the truth of the stand-in."""

import tempfile
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

import numpy as np

from ember.basis.errors import DescriptionError
from ember.description.installation import Consumer, HeatSource, UnitKind
from ember.proposal.proposed import answered, propose
from stand_ins.dialects import write_log
from stand_ins.scenario import Simulated, simulate
from stand_ins.varrick import INSTALLATIONS
from tests.core.helpers import foreign_log


class FromALog(TestCase):
    done: Simulated
    path: Path

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.path = Path(folder.name) / "plant.csv"
        cls.done = foreign_log(cls.path)

    def test_meters_size_and_a_first_cop(self) -> None:
        found = propose([self.path], "Plant", "UTC")
        made = found.installation
        self.assertEqual([m.channel for m in made.electricity], ["power"])
        self.assertEqual(made.unit.kind, UnitKind.AIR_TO_WATER)
        assert found.cop is not None and found.level is not None
        heat, used = self.done.truth_heat(), self.done.truth_electricity("H4")
        self.assertLess(abs(found.cop.value - heat / used), found.cop.U)
        self.assertIn("H4", found.level)
        # Its size is what it gave in its fullest hours: that of mild weather lies above the rating.
        heat_rate = self.done.run.sums["heating"] + self.done.run.sums["hot_water"]
        hourly = heat_rate[: len(heat_rate) // 60 * 60].reshape(-1, 60).sum(axis=1) / 3.6e6
        size = made.unit.capacity_kw
        assert size is not None
        self.assertLess(abs(size / np.percentile(hourly, 99) - 1), 0.2)

    def test_the_supply_of_the_house_is_not_taken_for_the_heat_pump(self) -> None:
        """Columns of panels, battery and grid beside it, in watts and in kilowatts."""
        done = simulate(replace(INSTALLATIONS["one-meter"], days=10))
        for dialect in ("plain", "continental"):
            path = self.path.with_name(f"{dialect}.csv")
            write_log(done, path, dialect)
            found = propose([path], "Plant", "WET")
            (meter,) = found.installation.electricity
            (column,) = [c for r in found.reports for c in r.columns if c.channel == meter.channel]
            self.assertIn("unit", column.header)
            assert found.cop is not None
            true = done.truth_heat() / done.truth_electricity("H4")
            self.assertLess(abs(found.cop.value - true), found.cop.U)

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
