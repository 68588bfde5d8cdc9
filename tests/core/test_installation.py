"""The description: its JSON form, and errors that name the field."""

import json
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ember.basis.errors import DescriptionError
from ember.description.as_json import installation_from_json, installation_to_json, json_schema
from ember.description.installation import (
    Consumer,
    ElectricityMeter,
    Exclusion,
    Installation,
    Swap,
    Tariff,
)
from stand_ins.catalogue import random_season
from tests.core.helpers import installation


class RoundTrip(TestCase):
    @settings(max_examples=25)
    @given(st.integers(0, 10_000))
    def test_random_descriptions(self, seed) -> None:
        described = random_season(seed).installation
        self.assertEqual(installation_from_json(installation_to_json(described)), described)

    def test_corrections_and_tariff(self) -> None:
        described = installation(
            corrections=(
                Exclusion(start="2026-01-03T10:00", end="2026-01-05T00:00", reason="pump test"),
                Swap(channels=("flow_temp", "return_temp"), reason="crosswise"),
            ),
            tariff=Tariff(price=0.3),
        )
        again = installation_from_json(installation_to_json(described))
        self.assertEqual(again, described)
        self.assertEqual(again.corrections[0].start.day, 3)

    def test_format_and_version_are_written(self) -> None:
        written = json.loads(installation_to_json(installation()))
        self.assertEqual(written["format"], "honest-ember/installation")
        self.assertEqual(written["version"], 2)

    def test_the_schema_knows_every_field(self) -> None:
        properties = json_schema()["$defs"]["WaterCircuit"]["properties"]
        self.assertIn("meter_in", properties)


class Refused(TestCase):
    def refusal(self, change) -> str:
        document = json.loads(installation_to_json(installation()))
        change(document)
        with self.assertRaises(DescriptionError) as caught:
            installation_from_json(json.dumps(document), "house.json")
        text = str(caught.exception)
        self.assertTrue(text.startswith("house.json: "), text)
        return text

    def test_each_names_its_field(self) -> None:
        def put(*path, value):
            def change(document):
                for key in path[:-1]:
                    document = document[key]
                document[path[-1]] = value

            return change

        for change, words in (
            (put("zone", value="Atlantis"), "zone: 'Atlantis' is no time zone"),
            (put("electricity", value=[]), "electricity: "),
            (put("electricity", 0, "includes", value=["fridge"]), "electricity.0.includes.0: "),
            (put("electricity", 0, "channel", value="watts"), "'watts' is no channel"),
            (put("electricity", 0, "channel", value="flow_temp"), "electricity.0.channel"),
            (put("electricity", 0, "includes", value=["backup_heater"]), "not among `consumers`"),
            (put("electricity", 0, "colour", value=1), "electricity.0.colour: there is no such"),
            (put("circuits", 0, "flow_class", value=7), "circuits.0.flow_class"),
            (put("circuits", 0, "name", value="unit meter"), "'unit meter' is used twice"),
            (put("fluid", value={"kind": "water", "mass_fraction": 0.3}), "fluid: "),
            (put("version", value=99), "version: "),
            (put("thresholds", "below_rated", value=-1), "thresholds.below_rated"),
            (put("registers", value=[{"name": "r", "circuit": "x"}]), "there is no 'x'"),
            (
                put(
                    "corrections",
                    value=[
                        {
                            "kind": "exclude",
                            "start": "2026-01-02T00:00",
                            "end": "2026-01-01T00:00",
                            "reason": "x",
                        }
                    ],
                ),
                "corrections.0.end",
            ),
            (
                put(
                    "columns",
                    value=[
                        {"header": "a", "channel": "flow_temp"},
                        {"header": "b", "channel": "flow_temp"},
                    ],
                ),
                "two columns are mapped to 'flow_temp'",
            ),
            (
                put("columns", value=[{"header": "a", "channel": "flow_temp", "unit": "parsec"}]),
                "columns.0: the unit 'parsec' is not known",
            ),
            (
                put(
                    "tariff",
                    value={
                        "price": 0.3,
                        "bands": [{"name": "n", "price": 0.1, "start": "25:00", "end": "05:00"}],
                    },
                ),
                "tariff.bands.0.start",
            ),
        ):
            with self.subTest(words):
                self.assertIn(words, self.refusal(change))

    def test_no_json(self) -> None:
        with self.assertRaisesRegex(DescriptionError, "this is no JSON"):
            installation_from_json("{nope", "house.json")

    def test_what_is_built_in_code_is_checked_too(self) -> None:
        with self.assertRaises(ValueError):
            Installation(name="x", zone="UTC", electricity=())
        with self.assertRaises(ValueError):
            ElectricityMeter("m", "power:m", (Consumer.COMPRESSOR,), "Z")
