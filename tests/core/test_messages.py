"""Codes and what is said of them: each has its words, and another wording changes nothing."""

import string
from unittest import TestCase, mock

from ember.assessment.assess import assess
from ember.basis.codes import CheckCode, FindingCode, ReasonCode, SourceCode
from ember.messages import CHECKS, FINDINGS, because
from ember.messages.reasons import SENTENCES
from ember.messages.sources import SOURCES, Source
from stand_ins.scenario import rated_table
from tests.core.helpers import simulated


class Words(TestCase):
    def test_every_code_has_its_words(self) -> None:
        for codes, words in (
            (CheckCode, CHECKS), (FindingCode, FINDINGS), (ReasonCode, SENTENCES),
            (SourceCode, SOURCES),
        ):  # fmt: skip
            self.assertEqual(set(codes), set(words), codes.__name__)

    def test_no_two_have_the_same_words(self) -> None:
        for words in (CHECKS, FINDINGS, SOURCES):
            self.assertEqual(len(set(words.values())), len(words))

    def test_a_reason_names_what_it_needs(self) -> None:
        for code, sentence in SENTENCES.items():
            names = [name for _, name, _, _ in string.Formatter().parse(sentence) if name]
            made = because(code, **dict.fromkeys(names, "x"))
            self.assertEqual(made.code, code)
            self.assertNotIn("{", made.sentence)
        with self.assertRaises(KeyError):
            because(ReasonCode.NO_READINGS)


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
        with (
            mock.patch.dict(CHECKS, {code: f"c{k}" for k, code in enumerate(CheckCode)}),
            mock.patch.dict(FINDINGS, {code: f"f{k}" for k, code in enumerate(FindingCode)}),
            mock.patch.dict(SENTENCES, {code: f"r{k}" for k, code in enumerate(ReasonCode)}),
            mock.patch.dict(SOURCES, {code: f"s{k}" for k, code in enumerate(SourceCode)}),
        ):
            self.assertEqual(Source(SourceCode.SAMPLING, "a").words[0], "s")
            self.assertEqual(told(), plain)
