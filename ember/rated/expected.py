"""What the table promises in every cell that can be compared with it."""

from dataclasses import dataclass

import numpy as np

from ember.basis.channels import quantity_of
from ember.basis.codes import ReasonCode
from ember.basis.series import MIXING, Bools, Floats, Trace
from ember.description.installation import Installation, TableKind, UnitKind
from ember.messages import NotAvailable, Reason, because, not_available, words_of
from ember.metering.air import airflow_of
from ember.rated.by_interval import DEFROSTS, FROST_BELOW, by_interval
from ember.rated.further import Further
from ember.rated.surface import Surfaces, surfaces
from ember.states import Running, State

say = words_of(__name__)

STARTS_MIXED = 0.06  # of the electricity, that starts cost at most, mixed into coarse readings (cp)


@dataclass(frozen=True)
class Promise:
    """How a rated table meets a record.

    Attributes
    ----------
    fitting : int
        cells that fit but for the range
    outside : int
        those of them outside the table.
    per_kelvin_outdoor, per_kelvin_flow : float
        mean relative change of the rated COP [1/K].
    tolerance : float
        of the table, as a share.
    span : str
        what is compared, in words.
    further : tuple[Further, ...]
        what the level of comparison holds beside the table's boundary.
    assumed : tuple[tuple[str, float], ...]
        what else had to be assumed, and how far that may be off, as a share of the rated COP.
    heater_open : bool
        a heater in the same meter cannot be told apart.
    hidden : Reason | None
        why the shape of the ratio over the conditions says nothing, in words.
    """

    fitting: int
    outside: int
    per_kelvin_outdoor: float
    per_kelvin_flow: float
    tolerance: float
    span: str
    further: tuple[Further, ...]
    assumed: tuple[tuple[str, float], ...] = ()
    heater_open: bool = False
    hidden: Reason | None = None


@dataclass(frozen=True)
class Expected:
    """The rated COP over a trace.

    Attributes
    ----------
    cop : Floats
        array, (n,) Rated COP in the cells compared or helped, 0 elsewhere.
    compared : Bools
        array, (n,) Cells that fit the table: heating, settled, inside its range.
    helped : Bools
        array, (n,) Cells that would, but for a heater in the same meter that may work there.
    """

    promise: Promise
    cop: Floats
    compared: Bools
    helped: Bools


def expected(
    installation: Installation,
    trace: Trace,
    states: Running,
    heat: Floats | None = None,
    helped: Bools | None = None,
    further: tuple[Further, ...] = (),
    heater_open: bool = False,
) -> Expected | NotAvailable:
    """The rated COP at each cell's own conditions, or why there is none.

    Parameters
    ----------
    helped : array, (n,)
        Where a heater in the same meter works, or may.
    further : tuple[Further, ...]
        what the level of comparison holds beside the table's boundary.
    heater_open : bool
        it holds a heater that cannot be told apart.
    heat : array, (n,)
        Of the heat pump in each cell [J], by which a table of several speeds is matched where no
        speed is logged.

    A table that includes defrosts is compared with heating and its defrosts, the rated COP
    held from the cell before each; one that does not, with settled heating only.

    Source: span that fits the table, common practice.
    """
    table = installation.rated
    if table is None:
        return not_available(ReasonCode.NO_TABLE)
    if not table.gives_cop:
        return not_available(ReasonCode.TABLE_WITHOUT_COP)
    shapes = surfaces(table, _airflow(installation, trace))
    if heat is not None and not (states.state != State.UNKNOWN).any():
        return _by_interval(installation, trace, shapes, heat, further, heater_open)
    found = axes(installation, trace)
    if isinstance(found, NotAvailable):
        return found
    steady = (states.state == State.HEATING) & ~states.recovery
    if trace.step > MIXING:
        steady = _unbroken(steady)
    cells = np.flatnonzero(steady)
    outdoor, flow = trace[found[0]][cells], trace[found[1]][cells]
    delivered, speed, by = None, None, ""
    if len(shapes.levels) > 1:
        speed_channel = next((c for c in trace.channels if c.startswith("compressor_speed")), None)
        if speed_channel is not None and shapes.hertz is not None:
            speed, by = trace[speed_channel][cells], say("between_speeds_logged")
        elif heat is not None and table.gives_capacity:
            delivered = _smooth(heat, steady, trace.step)[cells]
            by = say("between_speeds_delivered")
        else:
            by = say("nominal_speed")
    values = shapes.cop(outdoor, flow, delivered, speed)
    shape = shapes.levels[len(shapes.levels) // 2]
    inside = np.isfinite(values)
    # Where the readings themselves are missing, nothing lies outside the table.
    known = int(np.count_nonzero(np.isfinite(outdoor) & np.isfinite(flow)))
    cop = np.zeros(len(trace))
    cop[cells[inside]] = values[inside]
    if table.includes_defrost:
        _hold_through_defrosts(cop, states)
        span = say("settled_heating_defrosts")
    else:
        span = say("settled_heating_without")
    mean = (
        float(np.mean(outdoor[inside])) if inside.any() else 0.0,
        (float(np.mean(flow[inside])) if inside.any() else 0.0),
    )
    assumed: tuple[tuple[str, float], ...] = ()
    hidden = because(ReasonCode.HEATER_NOT_APART) if heater_open else None
    if trace.step > MIXING:
        hidden = because(ReasonCode.READINGS_MIX, minutes=f"{trace.step / 60:.0f}")
        cop /= 1 + STARTS_MIXED / 2
        assumed = ((say("starts_electricity", starts_mixed=STARTS_MIXED), STARTS_MIXED / 2),)
        if not table.includes_defrost:
            share = _unseen_defrosts(installation, trace, cop)
            assumed += ((say("defrosts_not_seen"), share),) if share else ()
    promise = Promise(
        fitting=len(cells),
        outside=known - int(inside.sum()),
        per_kelvin_outdoor=shape.slope(mean, 0),
        per_kelvin_flow=shape.slope(mean, 1),
        tolerance=table.tolerance,
        span=span + by,
        further=further,
        assumed=assumed,
        heater_open=heater_open,
        hidden=hidden,
    )
    fits = cop > 0
    if helped is None:
        return Expected(promise, cop, fits, np.zeros(len(cop), np.bool_))
    return Expected(promise, cop, fits & ~helped, fits & helped)


def _by_interval(
    installation: Installation,
    trace: Trace,
    shapes: Surfaces,
    heat: Floats,
    further: tuple[Further, ...],
    heater_open: bool,
) -> Expected | NotAvailable:
    """Where nothing is known but sums between readings that lie far apart."""
    assert installation.rated is not None
    found = by_interval(installation, trace, shapes, heat)
    if isinstance(found, NotAvailable):
        return found
    shape = shapes.levels[len(shapes.levels) // 2]
    promise = Promise(
        fitting=found.fitting,
        outside=found.outside,
        per_kelvin_outdoor=shape.slope(found.mean, 0),
        per_kelvin_flow=shape.slope(found.mean, 1),
        tolerance=installation.rated.tolerance,
        span=found.span,
        further=further,
        assumed=found.assumed,
        heater_open=heater_open,
        hidden=because(ReasonCode.SUMS_ALONE),
    )
    return Expected(promise, found.cop, found.cop > 0, np.zeros(len(trace), np.bool_))


def _unseen_defrosts(installation: Installation, trace: Trace, cop: Floats) -> float:
    """Takes half of what defrosts usually cost off the rated COP wherever the coil may frost, since
    readings so far apart hold them and do not show them; how far that may be off, as a share."""
    if (
        installation.unit.kind == UnitKind.GROUND_SOURCE
        or installation.outdoor.channel not in trace
    ):
        return 0.0
    fits = cop > 0
    with np.errstate(invalid="ignore"):
        frost = fits & (trace[installation.outdoor.channel] < FROST_BELOW)
    cop[frost] /= 1 + DEFROSTS / 2
    return DEFROSTS / 2 * float(np.count_nonzero(frost)) / max(int(np.count_nonzero(fits)), 1)


def _unbroken(steady: Bools) -> Bools:
    """Cells of coarse readings whose neighbours are settled as well: others mix states."""
    inner: Bools = steady.copy()
    inner[1:] &= steady[:-1]
    inner[:-1] &= steady[1:]
    return inner


def axes(installation: Installation, trace: Trace) -> tuple[str, str] | NotAvailable:
    """The channels of a table's two axes, or which is lacking."""
    table = installation.rated
    kind = TableKind.WATER if table is None else table.kind
    source: str | None = installation.outdoor.channel
    lacking_source, lacking_sink = say("outdoor_temperature"), say("flow_temperature")
    if kind == TableKind.GROUND:
        source = next((c for c in trace.channels if quantity_of(c).name == "source_temp"), None)
        lacking_source = say("source_temperature_brine")
    if kind == TableKind.AIR:
        named = [a.return_temp for a in installation.air]
        named += [c for c in trace.channels if quantity_of(c).name == "room_temp"]
        sink = next((c for c in named if c in trace), None)
        lacking_sink = say("return_air_room")
    else:
        named = [c.flow_temp for c in installation.circuits] + ["flow_temp"]
        sink = next((c for c in named if c in trace), None)
    if sink is None:
        return not_available(ReasonCode.CONDITIONS_NOT_LOGGED, what=lacking_sink)
    if source is None or source not in trace:
        return not_available(ReasonCode.CONDITIONS_NOT_LOGGED, what=lacking_source)
    return source, sink


def _airflow(installation: Installation, trace: Trace) -> float | None:
    """Of all indoor units [m3/h]: the median logged, else the nominal one."""
    total = 0.0
    for air in installation.air:
        values = airflow_of(air, trace)
        if values is not None:
            moving = values[np.isfinite(values) & (values > 0)]
            total += float(np.median(moving)) * 3600 if len(moving) else 0.0
        elif air.nominal_m3h is not None:
            total += air.nominal_m3h
    return total or None


# over which delivered heat is taken, so that a register's steps do not count [s]
EXPECTED_SMOOTH = 1800.0


def _smooth(heat: Floats, steady: Bools, step: int) -> Floats:
    """Mean heat of the steady cells around each, (n,) [W]; NaN where none is known."""
    half = max(1, round(EXPECTED_SMOOTH / step / 2))
    use = steady & np.isfinite(heat)
    total = np.concatenate([[0.0], np.cumsum(np.where(use, heat, 0.0))])
    count = np.concatenate([[0], np.cumsum(use)])
    at = np.arange(len(heat))
    first, last = np.maximum(at - half, 0), np.minimum(at + half + 1, len(heat))
    with np.errstate(invalid="ignore", divide="ignore"):
        found: Floats = (total[last] - total[first]) / (count[last] - count[first]) / step
    return found


def _hold_through_defrosts(cop: Floats, states: Running) -> None:
    held = np.flatnonzero((states.state == State.DEFROST) | states.recovery)
    if not len(held):
        return
    before = held - 1
    starts = np.flatnonzero(np.diff(held, prepend=-2) != 1)
    first = before[starts]
    value = np.where(first >= 0, cop[np.maximum(first, 0)], 0.0)
    cop[held] = np.repeat(value, np.diff(np.append(starts, len(held))))
