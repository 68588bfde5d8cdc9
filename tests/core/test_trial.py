"""What Set up refuses: lists without end, numbers that no plant has, what does not fit together."""

import json
import random
import unittest
from dataclasses import replace
from itertools import product
from typing import Any
from unittest.mock import patch

from ember.basis.errors import DescriptionError, EmberError
from ember.boundary.combinations import MOST_TRIED, _wrong, find_combination
from ember.description.as_json import installation_from_json, installation_to_json, problems_of
from ember.description.installation import Installation
from ember.proposal.trial import tried
from stand_ins.scenario import rated_table
from tests.core.helpers import simulated

Meters = dict[str, frozenset[Any]]


def described() -> Installation:
    """A system with its rated table."""
    done = simulated("as-rated", days=3)
    return replace(done.installation, rated=rated_table(done.scenario.plant))


def value() -> dict[str, Any]:
    """A description as JSON."""
    found: dict[str, Any] = json.loads(installation_to_json(described()))
    return found


class Limits(unittest.TestCase):
    def wrong(self, path: str, odd: Any, word: str) -> None:
        content: Any = value()
        *way, last = path.split(".")
        holder = content
        for key in way:
            holder = holder[int(key) if key.isdigit() else key]
        holder[last] = odd
        problems = problems_of(json.dumps(content))
        said = "; ".join(f"{p.where}: {p.what}" for p in problems)
        self.assertIn(word, said)
        self.assertTrue(all(p.where.startswith(path.split(".")[0]) for p in problems), said)

    def test_lists_have_an_end(self) -> None:
        content = value()
        for name, most in (("electricity", 24), ("circuits", 12), ("columns", 500)):
            one = (content[name] or [{"header": "x", "channel": "power"}])[0]
            self.wrong(name, [one] * 20_000, f"more than {most} entries")
        self.wrong("rated.points", content["rated"]["points"] * 200, "more than 1000 entries")

    def test_texts_and_numbers_have_their_bounds(self) -> None:
        self.wrong("zone", "x" * 10_000, "longer than 200 characters")
        self.wrong("unit.capacity_kw", 1e30, "must be at most 1e+09")
        self.wrong("unit.capacity_kw", 1e-300, "too small")
        self.wrong("tariff.price", -1e300, "greater than or equal to -1000000000")

    def test_names_are_as_they_are_seen(self) -> None:
        for name in ("a\u200bb", "a\u202eb", "a\x00b", "a\ufeff"):
            self.wrong("name", name, "invisible character")
        self.wrong("name", "   ", "is empty")
        content = {**value(), "name": "  Boat   house\u00a02 "}
        self.assertEqual(installation_from_json(json.dumps(content)).name, "Boat house 2")
        apart = {**value(), "name": "Bu\u0308ro"}  # an u with a mark of its own (NFD)
        self.assertEqual(installation_from_json(json.dumps(apart)).name, "B\u00fcro")


class Trial(unittest.TestCase):
    def test_what_plants_are_described_as_passes(self) -> None:
        for key in ("as-rated", "air", "below-rated"):
            tried(simulated(key, days=3).installation)

    def test_a_table_that_spans_no_area_is_refused_before_its_job_fails(self) -> None:
        content = value()
        for point in content["rated"]["points"]:
            point["outdoor"] = 2.0
        with self.assertRaisesRegex(EmberError, "one outdoor temperature"):
            tried(installation_from_json(json.dumps(content)))

    def test_a_table_with_its_axes_exchanged(self) -> None:
        content = value()
        for point in content["rated"]["points"]:
            point["outdoor"], point["flow"] = point["flow"], point["outdoor"]
        with self.assertRaisesRegex(EmberError, "axes exchanged"):
            tried(installation_from_json(json.dumps(content)))

    def test_what_breaks_the_analysis_is_said_of_the_description(self) -> None:
        with (
            patch("ember.proposal.trial.assess", side_effect=ZeroDivisionError("by zero")),
            self.assertRaisesRegex(DescriptionError, "cannot work with this description"),
        ):
            tried(described())


class Combinations(unittest.TestCase):
    """Meters added and subtracted: as trying every way gives it, and in bounded time."""

    def every_way(self, target: frozenset[Any], meters: Meters, needed: str | None) -> Any:
        def rank(shares: tuple[tuple[int, str], ...]) -> tuple[int, int]:
            return len(shares), sum(sign < 0 for sign, _ in shares)

        best: Any = None
        for signs in product((0, 1, -1), repeat=len(meters)):
            shares = tuple((s, n) for s, n in zip(signs, meters, strict=True) if s)
            if best is not None and rank(shares) >= rank(best):
                continue
            if needed is not None and (1, needed) not in shares:
                continue
            count: dict[Any, int] = {}
            for sign, name in shares:
                for part in meters[name]:
                    count[part] = count.get(part, 0) + sign
            if {p: k for p, k in count.items() if k} == dict.fromkeys(target, 1):
                best = shares
        return best

    def test_as_every_way_gives_it(self) -> None:
        draw = random.Random(15)
        parts: list[Any] = [("all", letter) for letter in "abcdef"]
        found = 0
        for _ in range(800):
            meters = {
                f"m{k}": frozenset(draw.sample(parts, draw.randint(1, 4)))
                for k in range(draw.randint(0, 5))
            }
            target = frozenset(draw.sample(parts, draw.randint(0, 4)))
            needed = draw.choice([None, None, *meters])
            mine = find_combination(target, meters, needed)
            self.assertEqual(mine, self.every_way(target, meters, needed))
            found += mine is not None
        self.assertGreater(found, 100)

    def test_two_dozen_meters_that_cannot_be_taken_apart_are_given_up(self) -> None:
        parts: Any = frozenset([("all", "a"), ("all", "b")])
        meters: Meters = {f"m{k}": parts for k in range(24)}
        with patch("ember.boundary.combinations._wrong", wraps=_wrong) as looked:
            self.assertIsNone(find_combination(frozenset([("all", "a")]), meters))  # type: ignore[arg-type]
        self.assertLess(looked.call_count, 60 * MOST_TRIED)
