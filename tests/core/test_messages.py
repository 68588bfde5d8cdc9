"""Codes and what is said of them: each has its words, and another wording changes nothing."""

import ast
import string
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path
from unittest import TestCase, mock

from ember.assessment.assess import assess
from ember.basis.codes import CheckCode, FindingCode, ReasonCode, SourceCode
from ember.messages import Source, because, catalogue, check_name, finding_name
from stand_ins.scenario import rated_table
from tests.core.helpers import simulated

CORE = Path(catalogue.__file__).parents[1]
ROOMS = sorted(path.stem for path in (CORE / "messages" / catalogue.LANGUAGE).glob("*.toml"))
BY_CODE = catalogue.tables("messages")


class ByCode(TestCase):
    def test_every_code_has_its_words_and_no_word_is_left_over(self) -> None:
        of_metering = {code for code in FindingCode if code.startswith("metering_")}
        for codes, table, more in (
            (set(CheckCode), "checks", set()),
            (set(FindingCode) - of_metering, "findings", {"metering"}),
            (set(ReasonCode), "reasons", {"no_comparison", "no_comparison_with"}),
            (set(SourceCode), "sources", set()),
        ):
            self.assertEqual(codes | more, set(BY_CODE[table]), table)

    def test_no_two_have_the_same_words(self) -> None:
        for said in (
            [check_name(code) for code in CheckCode],
            [finding_name(code) for code in FindingCode],
            list(BY_CODE["sources"].values()),
        ):
            self.assertEqual(len(set(said)), len(said))

    def test_a_finding_of_the_metering_is_called_after_its_check(self) -> None:
        self.assertEqual(finding_name(FindingCode.METERING_CLOCKS), "metering: clocks")

    def test_a_reason_names_what_it_needs(self) -> None:
        for code in ReasonCode:
            made = because(code, **dict.fromkeys(fields(BY_CODE["reasons"][code]), "x"))
            self.assertEqual(made.code, code)
            self.assertNotIn("{", made.sentence)
        with self.assertRaises(KeyError):
            because(ReasonCode.NO_READINGS)


def fields(sentence: str) -> set[str]:
    """The names of the values that a sentence takes."""
    return {name for _, name, _, _ in string.Formatter().parse(sentence) if name}


def saying() -> Iterator[tuple[str, ast.Module, dict[str, str]]]:
    """Every module that says something, as `room/module`, with its table of the catalogue."""
    for room in set(ROOMS) - {"messages"}:
        for module, table in catalogue.tables(room).items():
            path = CORE / room / f"{'__init__' if module == room else module}.py"
            yield f"{room}/{module}", ast.parse(path.read_text(encoding="utf-8")), table


class Catalogue(TestCase):
    """What the modules ask for and what the catalogue has, read off the source."""

    def test_each_sentence_is_there_and_gets_the_values_that_it_takes(self) -> None:
        asked = 0
        for module, tree, table in saying():
            for call in (n for n in ast.walk(tree) if isinstance(n, ast.Call)):
                if not (isinstance(call.func, ast.Name) and call.func.id == "say"):
                    continue
                key = call.args[0]
                if isinstance(key, ast.Constant):
                    self.assertIn(key.value, table, module)
                    given = {keyword.arg for keyword in call.keywords}
                    self.assertEqual(fields(table[key.value]), given, f"{module}: {key.value}")
                    asked += 1
        self.assertGreater(asked, 500)

    def test_no_sentence_is_there_in_vain(self) -> None:
        codes = {code.value for code in SourceCode}  # asked for by the code itself
        cautions = {  # asked for by name in the findings
            node.value
            for path in (CORE / "diagnosis").glob("*.py")
            for call in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
            if isinstance(call, ast.Call)
            and isinstance(call.func, ast.Name)
            and call.func.id == "care"
            for node in call.args
            if isinstance(node, ast.Constant)
        }
        for module, tree, table in saying():
            named = {n.value for n in ast.walk(tree) if isinstance(n, ast.Constant)}
            named |= cautions if module == "diagnosis/care" else set()
            self.assertEqual(set(table) - named - codes, set(), module)

    def test_every_module_that_says_something_has_its_table(self) -> None:
        tables = {module for module, _, _ in saying()}
        for path in CORE.rglob("*.py"):
            if "\nsay = words_of(__name__)" in path.read_text(encoding="utf-8"):
                name = path.parent.name if path.stem == "__init__" else path.stem
                self.assertIn(f"{path.parent.name}/{name}", tables)


class AnotherWording(TestCase):
    """In words that nobody knows, the same figures and the same codes."""

    def test_it_changes_no_figure_and_no_code(self) -> None:
        done = simulated("below-rated", days=12)
        described, readings = done.installation, done.trace()
        table = rated_table(done.scenario.plant)

        def told() -> list[object]:
            found = assess(described.__class__(**{**vars(described), "rated": table}), readings)
            assert found.main is not None and found.main.cop is not None
            return [
                found.main.cop.value,
                found.main.cop.U,
                [(p.cause.code, p.cause.of, p.u) for p in found.main.cop.budget],
                [level.reason.code if level.reason else None for level in found.levels],
                [(c.code, c.soundness) for c in found.checks],
                [(f.code, f.weight) for f in found.findings],
                [(n.code, n.reason.code) for n in found.not_judged],
                found.verdict.kind,
            ]

        plain = told()
        with ExitStack() as nonsense:
            for room in ROOMS:
                for name, sentences in catalogue.tables(room).items():
                    other = {key: f"{name} {k}" for k, key in enumerate(sentences)}
                    nonsense.enter_context(mock.patch.dict(sentences, other))
            self.assertEqual(Source(SourceCode.SAMPLING, "a").words[:7], "sources")
            self.assertEqual(told(), plain)
