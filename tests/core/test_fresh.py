"""New entries of a description, and a meter for what a log holds."""

from unittest import TestCase

from ember.basis.errors import DescriptionError
from ember.description.fresh import METERS, fresh, meter_list, with_meter
from ember.description.installation import Consumer, channels_of
from ember.description.meters import ElectricityAccuracy
from tests.core.helpers import simulated


class NewEntries(TestCase):
    def test_every_list_has_one_and_nothing_is_assumed_of_what_a_meter_holds(self) -> None:
        entries = fresh()
        self.assertEqual(set(METERS.values()) - set(entries), set())
        self.assertEqual(entries["electricity"]["includes"], [])
        self.assertIsNone(entries["by_hand"]["meter"])
        # EN 1434-1: the widest class is taken where none is said; DIN EN 60751 class B.
        self.assertEqual(entries["registers"]["accuracy_class"], 3)
        self.assertEqual(entries["circuits"]["probes"], "B")

    def test_a_heat_register_is_described_by_its_column(self) -> None:
        before = simulated("as-rated", days=1).installation
        made, channel = with_meter(before, "heat_energy", "cellar meter")
        self.assertIn(channel, channels_of(made))
        self.assertEqual(len(made.registers), len(before.registers) + 1)
        self.assertEqual(made.registers[-1].name, "cellar meter")

    def test_a_channel_that_another_meter_reads_gets_a_label(self) -> None:
        before = simulated("as-rated", days=1).installation
        taken = before.electricity[0].channel
        made, channel = with_meter(before, taken, "Attic fan 2", ["source"])
        self.assertNotEqual(channel, taken)
        self.assertTrue(channel.endswith(":attic_fan_2"))
        new = made.electricity[-1]
        self.assertEqual(new.includes, (Consumer.SOURCE,))
        again, other = with_meter(made, taken, "Attic fan-2", ["source"])
        self.assertNotEqual(other, channel, "two meters never read one channel")
        self.assertEqual(len(channels_of(again)), len(channels_of(made)) + 1)
        self.assertEqual(new.accuracy, ElectricityAccuracy.UNKNOWN)

    def test_what_is_wrong_names_its_field(self) -> None:
        before = simulated("as-rated", days=1).installation
        for channel, name, includes, where in (
            ("room_temp", "room", [], "channel"),
            ("power", before.electricity[0].name, ["source"], "name"),
            ("power", "attic", [], "includes"),
        ):
            with self.assertRaises(DescriptionError) as refused:
                with_meter(before, channel, name, includes)
            self.assertEqual(refused.exception.where, where)
        self.assertIsNone(meter_list("outdoor_temp"))
