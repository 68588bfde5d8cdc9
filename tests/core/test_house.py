"""The description beside the metering: house, unit, tank, sensors; its JSON and its errors."""

import unittest
from dataclasses import replace

import pint

from ember.basis.quantity import compatible_units, conversion
from ember.boundary import combinations_if_logged
from ember.description.as_json import installation_from_json, installation_to_json, problems_of
from ember.description.house import Built, Emitters, House, Replaced, Tank
from ember.description.installation import HeatPump, Installation, Location, UnitKind
from ember.description.logged import HandSeries, Sensor
from tests.core.helpers import simulated


def described(**more: object) -> Installation:
    return replace(simulated("as-rated", days=2).installation, **more)


class Description(unittest.TestCase):
    def test_everything_goes_through_json_and_back(self) -> None:
        whole = described(
            property="Ferry yard",
            location=Location(52.0, -20.0),
            house=House(140, 3.6, -6, 21, 42.5, Emitters.UNDERFLOOR, Built.TO_1950, 4.2),
            tank=Tank(200, 0.9, 48),
            replaced=Replaced("oil", 0.78, False),
            unit=HeatPump(UnitKind.AIR_TO_AIR_MULTI_HEAD, 8, 2, -15, True),
            sensors=(Sensor("room_temp", None, "hall", "A"), Sensor("evaporating_pressure", 5e3)),
            by_hand=(HandSeries("low side", "other", "bar", channel="evaporating_pressure"),),
        )
        self.assertEqual(installation_from_json(installation_to_json(whole)), whole)

    def test_what_is_not_said_is_not_known(self) -> None:
        plain = described(house=House(), tank=None)
        self.assertIsNone(plain.house.heat_loss_kw)
        self.assertIsNone(plain.replaced)
        self.assertEqual(installation_from_json(installation_to_json(plain)), plain)

    def test_wrong_fields_are_named_by_their_path(self) -> None:
        text = installation_to_json(described(tank=Tank(200)))
        for old, new, where in (
            ('"volume_l": 200.0', '"volume_l": 0', "tank.volume_l"),
            ('"design_outdoor": -6.0', '"design_outdoor": 400', "house.design_outdoor"),
            ('"emitters": "radiators"', '"emitters": "stoves"', "house.emitters"),
            ('"kind": "air_to_water"', '"kind": "steam"', "unit.kind"),
            ('"latitude": 52.0', '"latitude": 91', "location.latitude"),
            ('"sensors": []', '"sensors": [{"channel": "energy"}]', "sensors.0"),
        ):
            self.assertIn(old, text)
            found = problems_of(text.replace(old, new))
            self.assertEqual([p.where for p in found][:1], [where], found)

    def test_only_a_temperature_has_a_probe(self) -> None:
        with self.assertRaisesRegex(Exception, "is no temperature"):
            Sensor("evaporating_pressure", probe="A")

    def test_house_and_tank_change_no_level(self) -> None:
        before = combinations_if_logged(described())
        after = combinations_if_logged(described(house=House(999), tank=None, property="x"))
        self.assertEqual(before, after)


class Units(unittest.TestCase):
    """Units against pint's own registry, which shares no definition with the closed list."""

    def test_against_pint(self) -> None:
        registry = pint.UnitRegistry()
        for ours, theirs, target, base in (
            ("bar", "bar", "pascal", "pascal"),
            ("psi", "psi", "pascal", "pascal"),
            ("kPa", "kilopascal", "pascal", "pascal"),
            ("hPa", "hectopascal", "pascal", "pascal"),
            ("MPa", "megapascal", "pascal", "pascal"),
            ("CFM", "foot**3/minute", "m3_per_s", "meter**3/second"),
            ("rpm", "1/minute", "hertz", "1/second"),
            ("ft2", "foot**2", "m2", "meter**2"),
            ("us_gallon", "US_liquid_gallon", "litre", "liter"),
        ):
            linear = conversion(ours, target)
            assert linear is not None
            expected = registry.Quantity(1.0, theirs).to(base).magnitude
            self.assertAlmostEqual(linear[0] / expected, 1.0, places=9, msg=ours)
            self.assertEqual(linear[1], 0.0)

    def test_a_difference_has_no_offset(self) -> None:
        self.assertEqual(conversion("degF", "kelvin"), (5 / 9, 0.0))
        self.assertEqual(conversion("degC", "kelvin"), (1.0, 0.0))
        self.assertEqual(set(compatible_units("kelvin")), {"degC", "degF", "kelvin"})
        self.assertNotIn("kelvin", compatible_units("degC"))
        self.assertNotIn("rpm", compatible_units("watt"))


if __name__ == "__main__":
    unittest.main()
