"""What the machine must have is said in one sentence; the test runner counts."""

import shutil
import subprocess
import tempfile
import unittest
from contextlib import redirect_stdout
from io import StringIO
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

from server.testing import CountingRunner

SCRIPT = Path(settings.BASE_DIR) / "scripts" / "preflight.sh"


class Preflight(SimpleTestCase):
    """The script with stand-ins for the programs it asks."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.bin = Path(folder.name)
        for program in ("bash", "id", "env"):
            (self.bin / program).symlink_to(shutil.which(program))

    def program(self, name: str, body: str) -> None:
        path = self.bin / name
        path.unlink(missing_ok=True)
        path.write_text(f"#!{shutil.which('bash')}\n{body}\n")
        path.chmod(0o755)

    def run_script(self, *what: str, **env: str) -> tuple[int, str]:
        done = subprocess.run(
            [shutil.which("bash"), str(SCRIPT), *what],
            capture_output=True,
            text=True,
            check=False,
            env={"PATH": str(self.bin), **env},
        )
        return done.returncode, (done.stdout + done.stderr).strip()

    def test_python_missing_old_or_without_venv(self) -> None:
        self.assertIn("Python is missing", self.run_script("python")[1])
        self.program("python3", 'case "$2" in *version_info*) exit 1;; *) echo 3.9.2;; esac')
        self.assertIn("Python 3.9.2 is too old", self.run_script("python")[1])
        self.program("python3", 'case "$2" in *ensurepip*) exit 1;; esac')
        code, text = self.run_script("python")
        self.assertEqual(code, 1)
        self.assertIn("apt-get install python3-venv", text)

    def test_node_missing_or_old(self) -> None:
        self.assertIn("Node is missing", self.run_script("node")[1])
        self.program("node", "echo v18.19.0")
        code, text = self.run_script("node")
        self.assertEqual((code, "Node v18.19.0 is too old" in text), (1, True))
        self.program("node", "echo v22.1.0")
        self.assertEqual(self.run_script("node"), (0, ""))

    def test_chromium_without_the_right_to_install_it(self) -> None:
        missing = {"EMBER_CHROMIUM": str(self.bin / "chromium")}
        self.assertIn("this is no Debian", self.run_script("chromium", **missing)[1])
        self.program("apt-get", "exit 0")
        self.program("id", "echo 1000")
        code, text = self.run_script("chromium", **missing)
        self.assertEqual(code, 1)
        self.assertIn("may not install it", text)
        self.program("chromium", "exit 0")
        self.assertEqual(self.run_script("chromium", **missing), (0, ""))

    def test_a_slip_of_the_pen(self) -> None:
        self.assertIn("not 'nodejs'", self.run_script("nodejs")[1])


class Counting(SimpleTestCase):
    def counted(self, *outcomes: str) -> tuple[str, int]:
        class Cases(unittest.TestCase):
            def test_good(self) -> None:
                self.assertTrue(True)

            def test_bad(self) -> None:
                self.fail("on purpose")

            @unittest.skip("on purpose")
            def test_skipped(self) -> None:
                self.fail("never run")

        suite = unittest.TestSuite(Cases(name) for name in outcomes)
        result = unittest.TestResult()
        suite.run(result)
        with redirect_stdout(StringIO()) as out:
            failed = CountingRunner(verbosity=0).suite_result(suite, result)
        return out.getvalue().splitlines()[0], failed

    def test_the_closing_line(self) -> None:
        self.assertEqual(self.counted("test_good", "test_bad"), ("1 passed, 1 failed", 1))
        self.assertEqual(
            self.counted("test_good", "test_skipped"), ("1 passed, 0 failed, 1 skipped", 0)
        )

    def test_no_test_at_all_is_a_failure(self) -> None:
        self.assertEqual(self.counted(), ("0 passed, 0 failed", 1))


class Environment(SimpleTestCase):
    def test_nothing_is_fetched_while_running(self) -> None:
        """No address of a remote server stands in the code that runs."""
        for folder in ("ember", "server", "stand_ins"):
            for path in (Path(settings.BASE_DIR) / folder).rglob("*.py"):
                text = path.read_text(encoding="utf-8")
                self.assertNotRegex(text, r"https?://(?!127\.0\.0\.1|localhost)", path)
