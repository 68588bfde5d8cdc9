"""Assessments that were pinned come out the same: floats to 1e-9, all else as it was."""

import unittest

from tests.core.pins import differences, kept, names, written


class Pinned(unittest.TestCase):
    def test_each_comes_out_as_it_was(self) -> None:
        self.assertEqual(len(names()), 20)
        for name in names():
            with self.subTest(name):
                found = list(differences(kept(name), written(name)))
                self.assertEqual(found[:10], [], f"{len(found)} differences; tests/core/pins.py")

    def test_a_difference_is_found(self) -> None:
        before = {"a": [1.0, {"b": "x"}], "c": None, "d": 1}
        self.assertEqual(list(differences(before, {**before, "d": 1})), [])
        self.assertEqual(len(list(differences(before, {"a": [1.0 + 1e-7, {"b": "y"}], "d": 1}))), 3)
        self.assertEqual(len(list(differences(before, {**before, "a": [1.0]}))), 1)
