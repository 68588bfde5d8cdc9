"""What if through the API and the command: the core's own answer, and what is refused in words."""

import csv
import io
import json
import tempfile
from pathlib import Path

from django.core.management import call_command
from django.core.management.base import CommandError

from ember.operation.within import Within
from ember.what_if import WhatIfAsked, what_if
from server.api.figures import cut_to
from tests.server.helpers import send
from tests.server.test_api import WithRecord

NOTHING = {
    "flow_lower": 0,
    "fewer_starts": 0,
    "defrosts_as_expected": False,
    "hot_water_lower": 0,
    "heaters_off": False,
    "table": None,
    "store": None,
    "tariff": None,
}
TABLE = "outdoor [°C],flow [°C],capacity [kW],cop\n" + "".join(
    f"{a},{w},{c},{k}\n"
    for a, w, c, k in (
        (-15, 35, 6, 2.6), (7, 35, 9, 4.9), (20, 35, 11, 6.2),
        (-15, 55, 6, 1.8), (7, 55, 8, 3.1), (20, 55, 10, 4.0),
    )
)  # fmt: skip
STORE = {"kind": "battery", "kwh_k": None, "swing_k": None, "kwh": 4, "efficiency": 0.9}
TARIFF = {"price": 0.4, "standing_charge": 0.3, "cheap": 0.12, "cheap_from": "23:30",
          "cheap_to": "05:30"}  # fmt: skip


class WhatIf(WithRecord):
    def ask(self, **asked: object):
        path = f"/api/v1/systems/{self.system.pk}/what-if?start=2025-10-02&stop=2025-10-11"
        return send(self.client, "post", path, {**NOTHING, **asked})

    def test_it_is_the_cores_answer(self) -> None:
        answer = self.ask(flow_lower=3, fewer_starts=0.5, tariff=TARIFF).json()
        cut = cut_to(self.system, "2025-10-02", "2025-10-11", events=True)
        assert cut.ran is not None
        within = Within(cut.analysis, cut.ran, cut.period)
        core = what_if(within, WhatIfAsked(flow_lower=3, fewer_starts=0.5))
        self.assertEqual(len(core.effects), 2)
        head, *lines = csv.reader(io.StringIO(answer["csv"]))
        self.assertEqual(head[:5], ["what", "saved [kWh]", "U [kWh]", "saved [EUR]", "U [EUR]"])
        for line, one in zip(lines, (*answer["effects"], answer["together"]), strict=True):
            self.assertEqual(line[0], one["name"])
            if one["electricity"]:
                self.assertAlmostEqual(float(line[1]), one["electricity"]["value"], places=3)
            self.assertTrue(line[5])
        for shown, mine in zip(answer["effects"], core.effects, strict=False):
            self.assertEqual((shown["code"], shown["name"]), (mine.code, mine.name))
            if mine.electricity is None:
                self.assertEqual(shown["reason"]["code"], mine.reason.code)
                continue
            self.assertEqual(shown["electricity"]["value"], mine.electricity.value)
            self.assertEqual(shown["electricity"]["U"], mine.electricity.U)
            self.assertEqual(shown["comfort"], list(mine.comfort))
        self.assertTrue(any(one["electricity"] for one in answer["effects"]))

    def test_another_unit_a_store_and_a_tariff(self) -> None:
        answer = self.ask(table=TABLE, store=STORE, tariff=TARIFF)
        self.assertEqual(answer.status_code, 200, answer.content)
        codes = [one["code"] for one in answer.json()["effects"]]
        self.assertEqual(codes, ["unit", "store", "tariff"])

    def test_nothing_asked_is_nothing_answered(self) -> None:
        answer = self.ask().json()
        self.assertEqual((answer["effects"], answer["together"]), ([], None))
        self.assertTrue(answer["parts"])

    def test_what_is_none_is_refused_in_words(self) -> None:
        for asked, said in (
            ({"table": "outdoor,flow\n1,2"}, "table of the other unit"),
            ({"store": {**STORE, "kwh": None}}, "store: type what it gives a day"),
            ({"tariff": {**TARIFF, "cheap_from": "25:00"}}, "cheap_from"),
            ({"flow_lower": 300}, "flow_lower"),
        ):
            answer = self.ask(**asked)
            self.assertEqual(answer.status_code, 422, asked)
            self.assertIn(said, json.dumps(answer.json()))

    def test_by_command(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            call_command("simulate", name, "--scenario", "as-rated", "--days", "20",
                         stdout=io.StringIO())  # fmt: skip
            asked = folder / "asked.json"
            asked.write_text('{"flow_lower": 3, "store": {"kind": "battery", "kwh": 4}}')
            words = [str(folder / "log.csv"), "--installation", str(folder / "installation.json"),
                     "--rated", str(folder / "rated.csv"), "--what-if"]  # fmt: skip
            out = io.StringIO()
            call_command("assess", *words, str(asked), stdout=out)
            self.assertIn("Flow of heating 3 K lower", out.getvalue())
            out = io.StringIO()
            call_command("assess", *words, str(asked), "--json", "-", stdout=out)
            found = json.loads(out.getvalue())["what_if"]
            self.assertEqual([e["code"] for e in found["effects"]], ["flow", "store"])
            asked.write_text('{"flow": 3}')
            with self.assertRaisesRegex(CommandError, "flow: there is no such field"):
                call_command("assess", *words, str(asked), stdout=io.StringIO())
            with self.assertRaisesRegex(CommandError, "cannot be read"):
                call_command("assess", *words, str(folder / "none.json"), stdout=io.StringIO())
