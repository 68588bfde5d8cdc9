"""The ten lines of docs/notebook.md do what they say."""

import io
import re
import tempfile
import unittest
from contextlib import redirect_stdout
from pathlib import Path

from tests.core.helpers import foreign_log

PAGE = Path(__file__).resolve().parents[2] / "docs" / "notebook.md"


class Notebook(unittest.TestCase):
    def test_it_runs_on_a_log_that_nobody_has_described(self) -> None:
        found = re.search(r"```python\n(.*?)```", PAGE.read_text("utf-8"), re.DOTALL)
        assert found is not None
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "log.csv"
            foreign_log(path, 10)
            code = found.group(1).replace("house/log.csv", str(path))
            out = io.StringIO()
            with redirect_stdout(out):
                exec(compile(code, str(PAGE), "exec"), {})
        said = out.getvalue().splitlines()
        self.assertRegex(said[0], r"H4")
        self.assertEqual(len(said), 2)
