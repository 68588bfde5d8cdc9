"""What a maker declares by EN 14825, over the API."""

import json
from dataclasses import replace

from django.test import TestCase

from ember.description.declared import Aux, AuxTimes, Climate, Declared, DeclaredPoint
from ember.rated.declared import scop_declared
from server.systems.models import System
from tests.server.helpers import described, signed_in

POINTS = tuple(
    DeclaredPoint(name, outdoor, flow, kw, cop, load, 0.95)
    for name, outdoor, flow, kw, cop, load in (
        ("A", -7.0, 34.0, 6.6, 2.75, None), ("B", 2.0, 30.0, 4.2, 4.1, 3.9),
        ("C", 7.0, 27.0, 3.2, 5.4, None), ("D", 12.0, 24.0, 3.0, 7.0, None),
    )
)  # fmt: skip
DECLARED = Declared(
    7.0, POINTS, Climate.AVERAGE, 35, aux=Aux(standby=8.0, crankcase=5.0),
    aux_hours=AuxTimes(heating=2066.0, standby=100.0, crankcase=3850.0),
)  # fmt: skip


class OverTheApi(TestCase):
    def setUp(self) -> None:
        self.system = System.describe(replace(described(), declared=DECLARED))
        self.client = signed_in()
        self.address = f"/api/v1/systems/{self.system.pk}/declared"

    def rated(self) -> dict:
        return self.client.get(f"/api/v1/systems/{self.system.pk}/rated").json()

    def save(self, form: dict):
        return self.client.put(self.address, json.dumps(form), "application/json")

    def test_it_is_shown_with_its_scop(self) -> None:
        shown = self.rated()
        self.assertEqual([p["name"] for p in shown["declared"]["points"]], list("ABCD"))
        found = scop_declared(DECLARED)
        self.assertAlmostEqual(shown["declared_scop"]["scop"], found.scop or 0, 9)
        self.assertAlmostEqual(shown["declared_scop"]["on"], found.on or 0, 9)

    def test_saving_the_form_loses_nothing_that_it_does_not_hold(self) -> None:
        form = self.rated()["declared"]
        self.assertEqual(self.save(form).status_code, 200)
        self.system.refresh_from_db()
        self.assertEqual(self.system.installation.declared, DECLARED)

    def test_a_change_is_worked_out_and_in_the_history(self) -> None:
        form = self.rated()["declared"] | {"low_limit": -5.0}
        reply = self.save(form).json()
        wanted = scop_declared(replace(DECLARED, low_limit=-5.0))
        self.assertAlmostEqual(reply["declared_scop"]["on"], wanted.on or 0, 9)
        self.assertIn("the heater carries all", " ".join(reply["declared_scop"]["notes"]))
        setup = self.client.get(f"/api/v1/systems/{self.system.pk}/setup").json()
        self.assertGreaterEqual(len(setup["history"]), 2)

    def test_a_point_left_empty_is_left_out_and_half_a_point_refused(self) -> None:
        form = self.rated()["declared"]
        form["points"][0] |= {"capacity_kw": None, "cop": None}
        self.assertEqual(len(self.save(form).json()["declared"]["points"]), 3)
        form["points"][1]["cop"] = None
        refused = self.save(form)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("cop", refused.json()["detail"])
        self.system.refresh_from_db()
        assert self.system.installation.declared is not None
        self.assertEqual(len(self.system.installation.declared.points), 3)

    def test_blank_forms_for_every_climate_and_level(self) -> None:
        blanks = self.rated()["blanks"]
        self.assertEqual(len({(b["climate"], b["level"]) for b in blanks}), 12)
        average = next(b for b in blanks if (b["climate"], b["level"]) == ("average", 35))
        flows = {p["name"]: p["flow"] for p in average["points"]}
        # EN 14825, low temperature, variable outlet (from memory).
        self.assertEqual(flows, {"E": 35.0, "A": 34.0, "B": 30.0, "C": 27.0, "D": 24.0})
