"""Descriptions as they were written before: version 1, brought to what is read today.

In: a description as parsed JSON. Out: the same as version 2. A file without a version is taken for
version 1.
"""

from typing import Any

VERSION = 2

THRESHOLDS = {"act_share": "action_share", "lifts_a_day": "charges_a_day"}
FORMER_CORRECTIONS = {"holds": "loads"}
GONE = ("highest_flow", "heads")  # of the unit: nothing read them


def upgraded(value: dict[str, Any]) -> dict[str, Any]:
    """A description as version 2; one that is of it already comes back with equal content."""
    if value.get("version", 1) != 1:
        return value
    found = {**value, "version": VERSION}
    if isinstance(limits := value.get("thresholds"), dict):
        found["thresholds"] = {THRESHOLDS.get(k, k): v for k, v in limits.items()}
    if isinstance(corrections := value.get("corrections"), list):
        found["corrections"] = [_correction(one) for one in corrections]
    if isinstance(unit := value.get("unit"), dict):
        found["unit"] = {k: v for k, v in unit.items() if k not in GONE}
    return found


def _correction(one: Any) -> Any:
    if not isinstance(one, dict) or one.get("kind") not in FORMER_CORRECTIONS:
        return one
    return {**one, "kind": FORMER_CORRECTIONS[one["kind"]]}
