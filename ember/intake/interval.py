"""Whether the stamps of a log mark the end or the beginning of what its means are of.

A register is read at the stamp. What it counts from one row to the next is the mean power of one of
the two rows: of the later where stamps mark the end of an interval, of the earlier where they mark
its beginning; sampled values lie between.
"""

from collections.abc import Mapping
from dataclasses import replace
from enum import StrEnum

import numpy as np

from ember.basis.channels import Kind, quantity_of
from ember.basis.series import Floats
from ember.intake.grid import Placement

END = 0.25  # of the way from sampled to the end of the interval and back, common practice, chosen
INTERVAL_LEAST = 500  # cells in which something changes
INTERVAL_SAMPLE = 150_000  # cells from the beginning, which tell it in most logs
INTERVAL_FINE = 0.2  # of the standard deviation of a rate, that its changes exceed


class Marks(StrEnum):
    """What a stamp marks."""

    BEGINNING = "the beginning of its interval"
    END = "the end of its interval"
    MOMENT = "the moment of a reading"


def marked(channels: Mapping[str, Floats], step: int) -> Marks | None:
    """What the stamps mark, told by registers and the rates they count; None where nothing tells.

    Parameters
    ----------
    channels : Mapping[str, Floats]
        on the grid, each row at its own stamp.
    step : int
        of a cell [s].

    Source: common practice.
    """
    found = [
        place
        for register, rate in _pairs(channels)
        if (place := _place(register, rate, step)) is not None
    ]
    if not found:
        return None
    middle = float(np.median(found))
    if middle > END:
        return Marks.END
    return Marks.BEGINNING if middle < -END else Marks.MOMENT


def _pairs(channels: Mapping[str, Floats]) -> list[tuple[Floats, Floats]]:
    """Registers with the rates that they may count, by label."""
    pairs = []
    for name, values in channels.items():
        quantity, _, label = name.partition(":")
        suffix = f":{label}" if label else ""
        if quantity == "energy" and f"power{suffix}" in channels:
            pairs.append((values, channels[f"power{suffix}"]))
        if quantity != "heat_energy":
            continue
        if f"heat_power{suffix}" in channels:
            pairs.append((values, channels[f"heat_power{suffix}"]))
        parts = [f"{q}{suffix}" for q in ("flow_temp", "return_temp", "flow_rate")]
        if all(p in channels for p in parts):
            flow, back, rate = (channels[p] for p in parts)
            pairs.append((values, (flow - back) * rate * 4.15e6))
    return pairs


def _place(register: Floats, rate: Floats, step: int) -> float | None:
    """0.5 where the register counts the later of two rows, −0.5 where the earlier."""
    if (
        len(rate) > INTERVAL_SAMPLE
        and (early := _place(register[:INTERVAL_SAMPLE], rate[:INTERVAL_SAMPLE], step)) is not None
    ):
        return early
    if np.count_nonzero(np.isfinite(rate)) < INTERVAL_LEAST:
        return None
    counted = np.diff(register) / step
    before, after = rate[:-1], rate[1:]
    with np.errstate(invalid="ignore"):
        change = after - before
        mean = 0.5 * (after + before)
        good = np.isfinite(counted) & np.isfinite(change) & (counted >= 0)
        sized = float(np.nanstd(rate[:: max(1, len(rate) // 50_000)]))
        good &= np.abs(change) > INTERVAL_FINE * sized
        good &= counted < 10 * np.nanmax(np.abs(rate))
    if good.sum() < INTERVAL_LEAST:
        return None
    # Of one unit with the rate, else they are not each other's.
    total = float(counted[good].sum()) / float(mean[good].sum()) if mean[good].sum() else 0.0
    if not 0.5 < total < 2.0:
        return None
    d = change[good]
    return float(((counted[good] / total - mean[good]) * d).sum() / (d * d).sum())


def moved_back(
    channels: Mapping[str, Floats], placement: Placement
) -> tuple[dict[str, Floats], Placement]:
    """Rates, levels and flags one cell earlier, registers where they are: the grid begins a cell
    sooner."""
    moved = {}
    for name, values in channels.items():
        gap = np.full(1, np.nan)
        if quantity_of(name).kind == Kind.COUNTER:
            moved[name] = np.concatenate([gap, values])
        else:
            moved[name] = np.concatenate([values, gap])
    return moved, replace(placement, start=placement.start - placement.step, n=placement.n + 1)
