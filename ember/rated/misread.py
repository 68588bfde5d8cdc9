"""The usual misreadings of a rated table, and the reading that would make sense of each.

Source: common practice; the second law for what cannot be.
"""

from collections.abc import Mapping
from dataclasses import replace
from itertools import pairwise

import numpy as np

from ember.basis.practice import KELVIN
from ember.basis.quantity import conversion, symbol
from ember.description.installation import TableKind
from ember.rated.entries import TARGET, TableDoubt, TableEntry, TableReading, cop_of
from ember.rated.surface import MOST_SHARE, SURFACE_LEAST_LIFT, carnot

# Plausible, common practice, chosen: wider than any maker's table, narrower than a wrong unit.
COP_RANGE = (0.9, 9.0)
CAPACITY_RANGE = (0.5, 200.0)  # [kW]
SHARE_RANGE = (0.12, MOST_SHARE)  # of Carnot
SMALL_LIFT = 20.0  # [K], below which a COP may be higher
SMALL_LIFT_COP = 15.0
HOTTEST = (45.0, 80.0)  # outdoors and flow of any maker's table [degC]
MISREAD_FEW = 0.2  # of the rows that cannot be, up to which they are left out and the rest serves
MISREAD_RISE = 0.02  # by which a value may go against its axis, from rounding
US_OUTDOORS = 30.0  # [degC] an outdoor column that goes above it and is whole is likely in °F


def grave(kind: str, sentence: str, rows: tuple[int, ...]) -> TableDoubt:
    """A doubt with which a table cannot be used."""
    return TableDoubt(kind, sentence, rows, True, None, None)


def duplicates(entries: list[TableEntry]) -> list[TableDoubt]:
    """Rows of the same conditions."""
    seen: dict[tuple[object, ...], int] = {}
    found = []
    for entry in entries:
        where = entry.outdoor, entry.flow, entry.speed, entry.airflow_m3h
        if None in where[:2]:
            continue
        if where in seen:
            found.append(
                grave(
                    "twice",
                    f"row {entry.row}: the same conditions as row {seen[where]}, outdoor "
                    f"{entry.outdoor:g} and flow {entry.flow:g} °C. Is this another speed? Say so.",
                    (seen[where], entry.row),
                )
            )
        else:
            seen[where] = entry.row
    return found


def _plausible(entries: list[TableEntry], kind: TableKind) -> list[int]:
    """Rows whose capacity, COP or share of Carnot cannot be."""
    bad = []
    for entry in entries:
        cop = cop_of(entry)
        if entry.outdoor is None or entry.flow is None:
            continue
        small = kind != TableKind.AIR and entry.flow - entry.outdoor < SMALL_LIFT
        ill = cop is not None and not (
            COP_RANGE[0] <= cop <= (SMALL_LIFT_COP if small else COP_RANGE[1])
        )
        ill |= entry.outdoor > HOTTEST[0] or entry.flow > HOTTEST[1]
        if entry.capacity_kw is not None:
            ill |= not CAPACITY_RANGE[0] <= entry.capacity_kw <= CAPACITY_RANGE[1]
        if kind != TableKind.AIR and cop is not None:
            share = cop / float(carnot(np.array([entry.outdoor]), np.array([entry.flow]))[0])
            ill |= entry.flow <= entry.outdoor
            lift = entry.flow - entry.outdoor
            ill |= lift > 0 and cop > MOST_SHARE * (entry.flow + KELVIN) / lift
            if entry.flow - entry.outdoor > SURFACE_LEAST_LIFT:
                ill |= not SHARE_RANGE[0] <= share <= SHARE_RANGE[1]
        if ill:
            bad.append(entry.row)
    return bad


def odd(entries: list[TableEntry], kind: TableKind) -> TableDoubt | None:
    """What cannot be, where no reading makes sense of it."""
    rows = _plausible(entries, kind)
    if not rows:
        return None
    first = next(e for e in entries if e.row == rows[0])
    few = len(rows) <= MISREAD_FEW * len(entries)
    cop = cop_of(first)
    where = f"outdoor {first.outdoor:g}, flow {first.flow:g} °C"
    return TableDoubt(
        "odd",
        f"row {first.row}: capacity {first.capacity_kw or 0:.3g} kW at COP {cop or 0:.3g} cannot "
        f"be ({where})" + (f", and {len(rows) - 1} rows more." if len(rows) > 1 else "."),
        tuple(rows),
        not few,
        "It is left out; the rest serves." if few else "Look at units, decimal sign and axes.",
        None,
    )


def offers(
    entries: list[TableEntry],
    kind: TableKind,
    reading: TableReading,
    units: Mapping[str, str],
    nominal_kw: float | None,
) -> list[TableDoubt]:
    """Readings under which a sheet that cannot be would make sense, the simplest first."""
    known = [e for e in entries if cop_of(e) is not None and e.outdoor is not None and e.flow]
    if len(known) < 2:
        return []
    ill = len(_plausible(known, kind))
    off_size = _off_size(known, nominal_kw)
    if not ill and off_size is None:
        return []
    for name, sentence, remedy, changed in _candidates(known, kind, reading, units, off_size):
        again = [_changed(e, units, reading, changed) for e in known]
        if len(_plausible(again, kind)) == 0 and _off_size(again, nominal_kw) is None:
            rows = tuple(_plausible(known, kind)) or tuple(e.row for e in known)
            return [TableDoubt(name, sentence, rows, bool(ill), remedy, changed)]
    return []


def _off_size(entries: list[TableEntry], nominal_kw: float | None) -> float | None:
    """By how much the capacities are off the described size, where it is a unit's factor."""
    sizes = [e.capacity_kw for e in entries if e.capacity_kw is not None]
    if nominal_kw is None or not sizes:
        return None
    ratio = float(np.median(sizes)) / nominal_kw
    return ratio if ratio > 2.2 or ratio < 0.4 else None


Candidate = tuple[str, str, str, TableReading]


def _candidates(
    entries: list[TableEntry],
    kind: TableKind,
    reading: TableReading,
    units: Mapping[str, str],
    off_size: float | None,
) -> list[Candidate]:
    found: list[Candidate] = []
    cops = [c for e in entries if (c := cop_of(e)) is not None]
    middle = float(np.median(cops))
    outdoors = [e.outdoor for e in entries if e.outdoor is not None]
    hot = max(outdoors) > US_OUTDOORS and "outdoor" not in units

    fahrenheit = replace(reading, units={**reading.units, "outdoor": "degF", "flow": "degF"})
    bases = [("", "", reading)]
    if hot or (kind == TableKind.AIR and max(e.flow or 0 for e in entries) > 45):
        bases.append(
            (
                "temperatures in °F",
                f"outdoor temperatures up to {max(outdoors):g} are likely °F.",
                fahrenheit,
            )
        )
    for name, sentence, base in bases:
        if name:
            found.append((name, sentence, "Read the temperatures as °F.", base))
        for unit, words in (
            ("kBtu_per_h", "US tables print kBtu/h bare: “28.4” is 28.4 kBtu/h or 8.3 kW."),
            ("ton", "values that small beside their input are tons of refrigeration (3.517 kW)."),
            ("watt", "capacities that large are watts."),
            ("Btu_per_h", "capacities that large are Btu/h."),
        ):
            if "capacity" in units and "capacity" not in reading.units:
                continue
            changed = replace(base, units={**base.units, "capacity": unit})
            said = f"As kW the COP would be about {middle:.1f}"
            if off_size is not None:
                said += f", and the capacity {off_size:.1f} times that of the unit described"
            label = f"capacity in {symbol(unit)}" + (f", {name}" if name else "")
            also = f" {sentence[0].upper()}{sentence[1:]}" if sentence else ""
            found.append(
                (
                    label,
                    f"{said}: {words}{also}",
                    f"Read capacity as {symbol(unit)}{', temperatures as °F' if name else ''}.",
                    changed,
                )
            )
        if "input" not in units and any(e.input_kw is not None for e in entries):
            found.append(
                (
                    "input in W",
                    f"As kW the COP would be about {middle:.2g}: the input is in watts.",
                    "Read input as W.",
                    replace(base, units={**base.units, "input": "watt"}),
                )
            )
    found.insert(
        0,
        (
            "axes exchanged",
            "The flow would be colder than the outdoor air, or the COP beyond physics: outdoor and "
            "flow temperature are exchanged.",
            "Exchange outdoor and flow.",
            replace(reading, swapped=not reading.swapped),
        ),
    )
    if any(e.cop is not None for e in entries) and middle > 8:
        found.append(
            (
                "COP without its decimal sign",
                f"A COP of {middle:.0f} cannot be: the decimal sign is lost (31 is 3.1).",
                "Divide the COP by 10.",
                replace(reading, cop_over=10.0 * reading.cop_over),
            )
        )
    return found


def _changed(
    entry: TableEntry, units: Mapping[str, str], before: TableReading, after: TableReading
) -> TableEntry:
    """An entry as another reading would have it."""
    outdoor, flow = entry.outdoor, entry.flow
    if before.swapped:
        outdoor, flow = flow, outdoor

    def again(column: str, value: float | None) -> float | None:
        if value is None or column not in after.units or after.units[column] == units.get(column):
            return value
        old = conversion(units[column], TARGET[column]) if column in units else (1.0, 0.0)
        new = conversion(after.units[column], TARGET[column])
        assert old is not None and new is not None
        return new[0] * ((value - old[1]) / old[0]) + new[1]

    outdoor, flow = again("outdoor", outdoor), again("flow", flow)
    if after.swapped:
        outdoor, flow = flow, outdoor
    cop = None if entry.cop is None else entry.cop * before.cop_over / after.cop_over
    return replace(
        entry,
        outdoor=outdoor,
        flow=flow,
        capacity_kw=again("capacity", entry.capacity_kw),
        input_kw=again("input", entry.input_kw),
        cop=cop,
    )


def against(entries: list[TableEntry], kind: TableKind) -> list[TableDoubt]:
    """Values that rise where they must fall: the COP with the flow temperature, and as it gets
    colder; the capacity as it gets colder."""
    found = []
    good = [
        e for e in entries if e.outdoor is not None and e.flow is not None and cop_of(e) is not None
    ]
    groups: dict[tuple[object, ...], list[TableEntry]] = {}
    for axis, other in (("flow", "outdoor"), ("outdoor", "flow")):
        groups = {}
        for entry in good:
            key = entry.speed, entry.airflow_m3h, getattr(entry, other)
            groups.setdefault(key, []).append(entry)
        rows: list[int] = []
        words = ""
        for group in groups.values():
            group.sort(key=lambda e: float(getattr(e, axis)))
            for one, next_ in pairwise(group):
                a, b = cop_of(one), cop_of(next_)
                assert a is not None and b is not None
                wrong = b > a * (1 + MISREAD_RISE) if axis == "flow" else b < a * (1 - MISREAD_RISE)
                if axis == "flow" and kind == TableKind.AIR and b <= a * 1.1:
                    wrong = False
                if wrong:
                    rows += [one.row, next_.row]
                    words = words or (
                        f"row {next_.row}: the COP {'rises' if b > a else 'falls'} from {a:.2f} to "
                        f"{b:.2f} as it gets "
                        + ("warmer in the flow" if axis == "flow" else "warmer outdoors")
                    )
        if rows:
            found.append(
                TableDoubt(
                    "against its axis",
                    f"{words}; it must go the other way.",
                    tuple(dict.fromkeys(rows)),
                    False,
                    "Look at these rows in the maker's table: a row of another airflow, speed or "
                    "pairing?",
                    None,
                )
            )
    return found
