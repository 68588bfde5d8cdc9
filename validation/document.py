"""docs/validation.md: what `make validate` writes, and after it what `make field` does."""

from pathlib import Path

DOCUMENT = Path(__file__).resolve().parent.parent / "docs" / "validation.md"
FIELD = "## Field"  # where the latter begins


def own() -> str:
    """What `make validate` wrote."""
    return _halves()[0]


def field() -> str:
    """What `make field` wrote."""
    return _halves()[1]


def write(validated: str, foreign: str) -> None:
    """Both again."""
    DOCUMENT.write_text(f"{validated.rstrip()}\n\n{foreign.strip()}".rstrip() + "\n", "utf-8")


def _halves() -> tuple[str, str]:
    text = DOCUMENT.read_text("utf-8") if DOCUMENT.exists() else ""
    before, found, after = text.partition(FIELD)
    return before, found + after
