"""What a logger sends: understood whatever its order, and never made up."""

import json
import unittest
from datetime import UTC, datetime

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from ember.basis.errors import IntakeError
from ember.description.installation import Column
from ember.intake.live import known_as, on_grid, read_batch, usual_step

BEGIN = int(datetime(2026, 1, 12, tzinfo=UTC).timestamp())
HOUR = 3600

samples = st.lists(
    st.tuples(
        st.integers(0, HOUR - 1).map(lambda s: float(BEGIN + s)),
        st.sampled_from(["flow_temp", "power:unit", "T9"]),
        st.floats(-20, 90).map(lambda v: round(v, 3)),
    ),
    max_size=60,
    unique_by=lambda one: one[:2],
)


class Batches(unittest.TestCase):
    @given(samples)
    def test_both_forms_are_understood_alike(self, readings) -> None:
        rows = [{"time": when, name: value} for when, name, value in readings]
        as_json = read_batch(json.dumps({"readings": rows}).encode(), True, BEGIN + HOUR)
        lines = "\n".join(f"{when} {name} {value}" for when, name, value in readings)
        as_text = read_batch(lines.encode(), False, BEGIN + HOUR)
        self.assertEqual(as_json.readings, readings)
        self.assertEqual(as_text.readings, readings)
        self.assertEqual((as_json.refused, as_text.refused), ([], []))

    def test_key_and_clock_are_taken_where_they_are_given(self) -> None:
        body = {"batch": 17, "sent": "2026-01-12T00:00:05Z", "readings": []}
        sent = read_batch(json.dumps(body).encode(), True, BEGIN)
        self.assertEqual((sent.key, sent.sent), ("17", BEGIN + 5.0))
        self.assertIsNone(read_batch(b'{"readings": []}', True, BEGIN).sent)
        odd = read_batch(b'{"sent": "now", "readings": []}', True, BEGIN)
        self.assertIsNone(odd.sent)

    def test_what_is_no_batch_is_said(self) -> None:
        for body, words in (
            (b"{", "no JSON"),
            (b"[1]", "no list"),
            (b'{"readings": 4}', "no list"),
        ):
            with self.assertRaisesRegex(IntakeError, words):
                read_batch(body, True, BEGIN)


class Grids(unittest.TestCase):
    @given(samples, st.randoms())
    def test_the_order_in_which_readings_come_does_not_matter(self, readings, random) -> None:
        shuffled = list(readings)
        random.shuffle(shuffled)
        one = on_grid(readings, [], BEGIN, BEGIN + HOUR, 60)
        other = on_grid(shuffled, [], BEGIN, BEGIN + HOUR, 60)
        self.assertEqual(set(one.channels), set(other.channels))
        for channel, values in one.channels.items():
            np.testing.assert_allclose(other[channel], values, rtol=1e-12)

    @given(samples)
    def test_a_cell_is_the_mean_of_its_readings_and_nothing_is_invented(self, readings) -> None:
        trace = on_grid(readings, [], BEGIN, BEGIN + HOUR, 60)
        mine = [(when, value) for when, name, value in readings if name == "flow_temp"]
        good = [(when, value) for when, value in mine if -30 <= value <= 110]
        if not good:
            self.assertNotIn("flow_temp", trace)
            return
        values = trace["flow_temp"]
        for cell in {int(when - BEGIN) // 60 for when, _ in good}:
            inside = [v for when, v in good if int(when - BEGIN) // 60 == cell]
            self.assertAlmostEqual(values[cell], sum(inside) / len(inside), places=9)
        known = values[np.isfinite(values)]
        self.assertGreaterEqual(known.min(), min(v for _, v in good) - 1e-9)
        self.assertLessEqual(known.max(), max(v for _, v in good) + 1e-9)

    def test_names_are_read_as_described_else_as_channels_else_not(self) -> None:
        columns = [Column("T9", "return_temp", "degF"), Column("flow_temp", "room_temp", "degC")]
        known = known_as(["T9", "flow_temp", "power:unit", "nonsense"], columns)
        self.assertEqual(
            {name: column.channel for name, column in known.items()},
            {"T9": "return_temp", "flow_temp": "room_temp", "power:unit": "power:unit"},
        )

    def test_pulses_of_a_logger(self) -> None:
        columns = [Column("imp", "energy:unit", "Wh", counts=2.0)]
        readings = [(BEGIN + 60.0 * k, "imp", 100.0 + k) for k in range(5)]
        trace = on_grid(readings, columns, BEGIN, BEGIN + 300, 60)
        np.testing.assert_allclose(trace["energy:unit"], (200 + 2 * np.arange(5)) * 3600)

    def test_the_usual_step(self) -> None:
        self.assertEqual(usual_step([0.0]), 60)
        self.assertEqual(usual_step([0, 10, 20, 30, 90]), 10)
        self.assertEqual(usual_step([0, 61, 119, 180]), 60)
        self.assertEqual(usual_step([0, 0, 900, 1800]), 900)


if __name__ == "__main__":
    unittest.main()
