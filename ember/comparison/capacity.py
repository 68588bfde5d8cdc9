"""Capacity: what the unit delivered at its limit, what it is rated for, what the house needs."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ember.basis.clock import HOUR
from ember.basis.codes import SourceCode
from ember.basis.practice import HEATING_BASE
from ember.basis.quantity import Estimate, UncertaintyComponent, rectangular
from ember.basis.series import Bools, Floats
from ember.messages import Source
from ember.operation.within import Within, middle
from ember.rated.surface import Surface, surface

FULL_HOUR = 3500.0  # of an hour with the unit running: it never rested [s]
LEAST_LIMIT = 6  # hours at the limit, for its capacity to be told
LEAST_LINE = 48  # hours with heat, for the house's need to be told
NEAR_MOST = 0.8  # of the most heat it gave, from which it may be at its limit
HEATERS_ON = 200.0  # mean power of heaters in an hour, from which they help [W]
LINE_SPAN = 6.0  # of daily outdoor temperature, for a line to be seen [K]


@dataclass(frozen=True)
class Capacity:
    """Against rated and against need.

    slope [W/K] and zero, the outdoor temperature at which nothing is needed [degC], from daily heat
    of all sources;

    Attributes
    ----------
    need : list[list[float]]
        two points of that line [degC, kW].
    balance : float | None
        outdoor temperature where rated capacity meets the need, by the flow temperature in use;
        None where they do not meet in the table.
    at_design, rated_design : float | None
        need and rated capacity at the design temperature [kW].
    limit_hours : int
        in which the unit ran throughout and yet heaters helped
    over_rated : Estimate | None
        its heat in them over the rated capacity
    charges_over_rated : float | None
        the same of the strongest hot-water charges, which run at full power.
    outdoor_limit : float | None
        their median outdoor temperature.
    """

    slope: float | None
    zero: float | None
    need: list[list[float]]
    balance: float | None
    design: float | None
    at_design: float | None
    rated_design: float | None
    limit_hours: int
    outdoor_limit: float | None
    over_rated: Estimate | None
    charges_over_rated: float | None
    run_fraction_cold: float | None
    days: list[list[float]]


def capacity_seen(within: Within) -> Capacity:
    """Capacity of a period.

    Source: energy signature (daily heat over daily mean outdoor temperature, least squares);
    balance point: where capacity meets load.
    """
    of, inside = within.found.hours.of, within.hours()
    installation = within.analysis.installation
    line, days = _line(of, inside)
    design = installation.house.design_outdoor
    table = installation.rated
    shape = surface(table) if table is not None and installation.circuits else None
    settled = inside & (of["settled"] >= 600.0) & np.isfinite(of["flow"])
    settled &= np.isfinite(of["outdoor"])
    balance = at_design = rated_design = None
    if line is not None and design is not None:
        at_design = max(line[0] * (line[1] - design), 0.0) / 1000
    if shape is not None and settled.sum() >= LEAST_LINE and np.ptp(of["outdoor"][settled]) > 4:
        slope, at_zero = np.polyfit(of["outdoor"][settled], of["flow"][settled], 1)
        grid = np.arange(-25.0, 15.05, 0.1)
        rated = shape.capacity_at(grid, at_zero + slope * grid)
        if line is not None:
            spare = rated - line[0] * (line[1] - grid)
            crossing = np.flatnonzero((spare[:-1] < 0) & (spare[1:] >= 0))
            balance = float(grid[crossing[-1] + 1]) if len(crossing) else None
        if design is not None:
            value = rated[np.abs(grid - design).argmin()]
            rated_design = float(value) / 1000 if np.isfinite(value) else None
    limit = _at_limit(of, inside)
    over = None
    if shape is not None and limit.sum() >= LEAST_LIMIT and not within.analysis.cop_reason:
        over = _over_rated(within, of, limit, shape.capacity_at(of["outdoor"], of["flow"]))
    cold = inside & (of["outdoor"] <= _percentile(of["outdoor"][inside], 5)) & (of["unknown"] == 0)
    fraction = float(of["on"][cold].mean()) / HOUR if cold.sum() >= LEAST_LIMIT else None
    return Capacity(
        slope=line[0] if line else None,
        zero=line[1] if line else None,
        need=_need(line, days, design),
        balance=balance,
        design=design,
        at_design=at_design,
        rated_design=rated_design,
        limit_hours=int(limit.sum()),
        outdoor_limit=middle(of["outdoor"][limit]),
        over_rated=over,
        charges_over_rated=_charges(within, shape) if shape is not None else None,
        run_fraction_cold=fraction,
        days=days,
    )


def _need(
    line: tuple[float, float] | None, days: list[list[float]], design: float | None
) -> list[list[float]]:
    """The line from the coldest day, or the design temperature if that is colder, to zero."""
    if line is None:
        return []
    low = min(*(day[0] for day in days), design if design is not None else np.inf)
    return [[low, line[0] * (line[1] - low) / 1000], [line[1], 0.0]]


def _percentile(values: Floats, share: float) -> float:
    known = values[np.isfinite(values)]
    return float(np.percentile(known, share)) if len(known) else -np.inf


def _line(
    of: Mapping[str, Floats], inside: Bools
) -> tuple[tuple[float, float] | None, list[list[float]]]:
    """Daily heat of all sources over daily outdoor temperature: slope [W/K], zero [degC]; days as
    [outdoor, kW]."""
    given, outdoor = of["given"] + np.nan_to_num(of["heater"]), of["outdoor"]
    hot = of["hot_water"] > 0
    n = len(given) // 24 * 24
    whole = inside[:n].reshape(-1, 24).all(axis=1) & (of["unknown"][:n].reshape(-1, 24).max(1) == 0)
    mean = outdoor[:n].reshape(-1, 24).mean(axis=1)
    # Hours with hot water count as the day's other hours.
    heat = np.where(hot, 0.0, given)[:n].reshape(-1, 24).sum(axis=1)
    hours = (~hot)[:n].reshape(-1, 24).sum(axis=1)
    with np.errstate(invalid="ignore", divide="ignore"):
        power = heat / (hours * HOUR)
    use = whole & np.isfinite(mean) & np.isfinite(power) & (mean < HEATING_BASE) & (power > 50.0)
    points = [[float(a), float(b) / 1000] for a, b in zip(mean[use], power[use], strict=True)]
    if use.sum() < 10 or np.ptp(mean[use]) < LINE_SPAN:
        return None, points
    slope, at_zero = np.polyfit(mean[use], power[use], 1)
    if slope >= 0:
        return None, points
    return (float(-slope), float(-at_zero / slope)), points


def _at_limit(of: Mapping[str, Floats], inside: Bools) -> Bools:
    """Hours in which the unit ran throughout for heating, near the most it ever gave, and yet
    heaters helped: by its own controller it was at its limit."""
    full = inside & (of["on"] >= FULL_HOUR) & (of["hot_water"] == 0) & (of["settled"] > 2000.0)
    helped = np.nan_to_num(of["heater"]) / HOUR > HEATERS_ON
    with np.errstate(invalid="ignore", divide="ignore"):
        load = of["heat"] / of["settled"]
    most = _percentile(load[full], 95)
    limit: Bools = full & helped & np.isfinite(of["outdoor"]) & np.isfinite(of["flow"])
    limit &= load >= NEAR_MOST * most
    return limit


LONG_CHARGE = 1200.0  # [s], so that the start weighs little
FEW_CHARGES = 6


def _charges(within: Within, shape: Surface) -> float | None:
    """Heat of the strongest tenth of long hot-water charges over the rated capacity."""
    found = within.found.charges
    pick = within.pick(found.start)
    seconds = ((found.stop - found.start) * within.found.step).astype(float)
    pick = pick[(found.whole[pick] > 0) & (seconds[pick] >= LONG_CHARGE)]
    if within.analysis.cop_reason:
        return None
    with np.errstate(invalid="ignore", divide="ignore"):
        ratio = (
            found.heat[pick]
            / seconds[pick]
            / shape.capacity_at(found.outdoor[pick].astype(float), found.flow[pick].astype(float))
        )
    known = ratio[np.isfinite(ratio)]
    return float(np.percentile(known, 90)) if len(known) >= FEW_CHARGES else None


def _over_rated(
    within: Within, of: Mapping[str, Floats], limit: Bools, rated: Floats
) -> Estimate | None:
    """Heat while settled at the limit over the rated capacity there."""
    combination = within.combination
    here = limit & np.isfinite(rated) & (of["heat"] > 0)
    if here.sum() < LEAST_LIMIT or combination is None:
        return None
    measured = float((of["heat"][here]).sum())
    promised = float((rated[here] * of["settled"][here]).sum())
    table = within.analysis.installation.rated
    assert table is not None
    first, last = within.cell(within.period.start), within.cell(within.period.stop)
    whole = within.total(np.array([first]), np.array([last]))
    share = whole.heat.relative / 2 if whole and whole.heat and whole.covered else 0.05
    value = measured / promised
    budget = (
        UncertaintyComponent(Source(SourceCode.HEAT_METER), value * share),
        UncertaintyComponent(Source(SourceCode.RATED_TABLE), value * rectangular(table.tolerance)),
    )
    return Estimate(value, "", budget)
