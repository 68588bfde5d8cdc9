"""The catalogue of sentences: files of one language, with a table for each module that says any.

`en/trust.toml`, table `[stuck]`, has the sentences of `ember.trust.stuck`. A value in braces is
filled in with its format: `{share:.0%}`. Another language is another folder with the same keys.
"""

import tomllib
from functools import cache
from pathlib import Path

LANGUAGE = "en"

Tables = dict[str, dict[str, str]]


@cache
def tables(room: str) -> Tables:
    """All sentences of a room by module and key. Raises FileNotFoundError where it has none."""
    path = Path(__file__).parent / LANGUAGE / f"{room}.toml"
    return tomllib.loads(path.read_text(encoding="utf-8"))


class Words:
    """What one module says."""

    def __init__(self, table: dict[str, str]) -> None:
        self.table = table

    def __call__(self, key: str, /, **values: object) -> str:
        """The sentence of a key with its values. Raises KeyError where one of them is lacking."""
        return self.table[key].format(**values)

    def __contains__(self, key: str) -> bool:
        return key in self.table


def words_of(module: str) -> Words:
    """The sentences of a module of the core.

    Parameters
    ----------
    module : str
        its name, like ember.trust.stuck.
    """
    _, room, *inner = module.split(".")
    return Words(tables(room)[inner[0] if inner else room])
