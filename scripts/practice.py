"""Writes docs/practice.md: every value of the core that rests on common practice, from the code.

python scripts/practice.py [--check]
"""

import ast
import re
import sys
import tokenize
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
DOC = ROOT / "docs" / "practice.md"
HEAD = """# Values of common practice

Constants of the core whose source is the trade's practice and no standard: what each is, and where
it is used. Written by `scripts/practice.py` from the comments beside them; a test keeps it true.
Values from a standard are not here: they name it where they stand. What a person may change per
system is a threshold ([methods.md](methods.md)).

How sure: *agreed*, practitioners give much the same value; *usual*, a typical value, from which a
single system may differ; *chosen*, a line drawn by us, wide enough that no healthy plant of our own
and of the logs from elsewhere is accused by it ([validation.md](validation.md)).

| key | value | what | how sure | where |
|---|---|---|---|---|
"""
GRADED = re.compile(r"[,;:.]? ?common practice\b(?:, (agreed|chosen))?[.,]?")


def values() -> list[tuple[str, str, str, str, str]]:
    """Key, value, what it is, how sure it is, and the module, in order of the modules."""
    found = []
    for path in sorted((ROOT / "ember").rglob("*.py")):
        text = path.read_text()
        if "common practice" not in text:
            continue
        lines = text.splitlines()
        with path.open("rb") as file:
            said = {
                token.start[0]: token.string.removeprefix("# ")
                for token in tokenize.tokenize(file.readline)
                if token.type == tokenize.COMMENT
            }
        for node in ast.parse(text).body:
            if not isinstance(node, ast.Assign) or not isinstance(node.targets[0], ast.Name):
                continue
            above = node.lineno - 1
            alone = lines[above - 1].lstrip().startswith("#")
            comment = said.get(node.end_lineno or 0) or (said.get(above, "") if alone else "")
            if "common practice" not in comment:
                continue
            value = ast.unparse(node.value)
            graded = GRADED.search(comment)
            sure = (graded and graded.group(1)) or "usual"
            what = GRADED.sub("", comment).replace("# fmt: skip", "").strip()
            place = str(path.relative_to(ROOT / "ember"))
            short = value if len(value) <= 40 else "a table"
            found.append((node.targets[0].id, short, what or "see there", sure, place))
    return found


def table() -> str:
    """The document."""
    rows = (
        f"| `{key}` | {value.replace('|', '∣')} | {what} | {sure} | `{place}` |"
        for key, value, what, sure, place in values()
    )
    return HEAD + "\n".join(rows) + "\n"


if __name__ == "__main__":
    if "--check" in sys.argv:
        old = "docs/practice.md is old: run scripts/practice.py"
        sys.exit(0 if DOC.read_text() == table() else old)
    DOC.write_text(table())
    print(f"{len(values())} values")
