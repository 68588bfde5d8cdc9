"""Starts of a period, laid over one another."""

from dataclasses import dataclass, field, replace

import numpy as np

from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.quantity import KWH, Estimate, UncertaintyComponent
from ember.basis.series import Ints
from ember.events.starts import overlay
from ember.messages import Reason, Source, because, words_of
from ember.operation.within import Range, Spread, Within, finite, money, one, quartiles
from ember.states.state import State

say = words_of(__name__)

VIEWS_STARTS_SHOWN = 40  # single starts drawn behind the median
VIEWS_STARTS_ROWS = 5000


@dataclass(frozen=True)
class Filter:
    """Which starts. outdoor : [degC]; pause : before it [s]

    Attributes
    ----------
    mode : str | None
        "heating" or "hot water"; None for all.
    """

    outdoor_low: float | None = None
    outdoor_high: float | None = None
    pause_low: float | None = None
    pause_high: float | None = None
    mode: str | None = None


@dataclass(frozen=True)
class StartRow:
    """One start. start, stop of its run [s].

    Attributes
    ----------
    mode : str
        in words.
    pause : float | None
        before it [s].
    outdoor : float | None
        mean of the run [degC].
    settled : float | None
        COP of the run once settled; by_like: of like runs, its own being too short.
    to_90 : float | None
        until 90 % of it is reached [s].
    shown_at_5, made_at_5 : float | None
        COP after five minutes: at the moment, and of the run until then.
    loss : float | None
        electricity that the start cost [Wh].
    """

    start: float
    stop: float
    mode: str
    pause: float | None
    outdoor: float | None
    settled: float | None
    by_like: bool
    to_90: float | None
    shown_at_5: float | None
    made_at_5: float | None
    loss: float | None


@dataclass(frozen=True)
class StartsSeen:
    """Starts of a period after a filter.

    Attributes
    ----------
    count : int
        of them
    of : int
        before the filter.
    known : int
        those whose loss is known
    by_like : int
        of these by the settled COP of like runs.
    minutes : list[float]
        of the curves.
    instantaneous, since_start : list[list[float | None]]
        COP, quartiles and median of each minute (low, median, high).
    power, heat : list[float | None]
        medians [W].
    singles : list[list[float | None]]
        COP since the start of single runs, evenly picked. settled, to_90 [s] : quartiles.
    loss : Estimate | None
        of all in the period together [kWh], cost of it.
    reason : Reason | None
        where nothing can be shown.
    rows : list[StartRow]
        the starts one by one, the latest first.
    """

    level: str | None
    reason: Reason | None
    count: int = 0
    of: int = 0
    known: int = 0
    by_like: int = 0
    minutes: list[float] = field(default_factory=list)
    instantaneous: list[list[float | None]] = field(default_factory=list)
    since_start: list[list[float | None]] = field(default_factory=list)
    power: list[float | None] = field(default_factory=list)
    heat: list[float | None] = field(default_factory=list)
    singles: list[list[float | None]] = field(default_factory=list)
    settled: Spread | None = None
    to_90: Spread | None = None
    loss: Estimate | None = None
    loss_each: Spread | None = None
    cost: Estimate | None = None
    shown_at_5: float | None = None
    made_at_5: float | None = None
    outdoor: Range | None = None
    pauses: Range | None = None
    rows: list[StartRow] = field(default_factory=list)


def starts_seen(
    within: Within,
    asked: Filter = Filter(),
    rows: int = VIEWS_STARTS_ROWS,
    drawn: bool = True,
) -> StartsSeen:
    """Starts in a period.

    Parameters
    ----------
    rows : int
        how many of them one by one, the latest first.
    drawn : bool
        with what a screen draws and lists: the curves of the minutes and the rows.

    shown_at_5 : what a display shows five minutes after the start, made_at_5 : COP of the run by
    then, medians. outdoor, pauses : range in the period, for the filter [degC], [s].
    """
    found, table = within.found.starts, within.found.runs
    level = within.found.level
    if found is None or within.analysis.cop_reason:
        why = within.analysis.cop_reason or _why_none(within)
        return StartsSeen(level, why)
    every = within.pick(table.start[found.run])
    runs = found.run[every]
    pick = every[_fits(within, runs, asked)]
    loss = _loss(within, pick)
    outdoor, pause = table.outdoor[runs], table.pause[runs]
    seen = StartsSeen(
        level=level,
        reason=None,
        count=len(pick),
        of=len(every),
        known=int(np.isfinite(found.loss[pick]).sum()),
        by_like=int(found.by_like[pick].sum()),
        settled=quartiles(found.settled[pick]),
        to_90=quartiles(found.to_90[pick]),
        loss=loss,
        loss_each=quartiles(found.loss[pick] / 3600),
        cost=money(loss, within.price(), within.currency),
        outdoor=_range(outdoor),
        pauses=_range(pause),
    )
    return _drawn(within, seen, pick, rows) if drawn else seen


def _drawn(within: Within, seen: StartsSeen, pick: Ints, rows: int) -> StartsSeen:
    """The same with its curves, and its latest starts one by one."""
    found = within.found.starts
    assert found is not None
    laid = overlay(found, pick)
    singles = pick[:: max(1, -(-len(pick) // VIEWS_STARTS_SHOWN))]
    with np.errstate(invalid="ignore", divide="ignore"):
        single = np.cumsum(found.heat[singles].astype(float), axis=1) / np.cumsum(
            found.power[singles].astype(float), axis=1
        )
    five = int(np.searchsorted(laid.minutes, 5.0))
    return replace(
        seen,
        minutes=laid.minutes.tolist(),
        instantaneous=[finite(row) for row in laid.instantaneous],
        since_start=[finite(row) for row in laid.since_start],
        power=finite(laid.power),
        heat=finite(laid.heat),
        singles=[finite(row) for row in single],
        shown_at_5=one(laid.instantaneous[1], five),
        made_at_5=one(laid.since_start[1], five),
        rows=_rows(within, pick[::-1][:rows], five),
    )


def _rows(within: Within, pick: Ints, five: int) -> list[StartRow]:
    found, table = within.found.starts, within.found.runs
    assert found is not None
    runs = found.run[pick]
    power, heat = found.power[pick].astype(float), found.heat[pick].astype(float)
    with np.errstate(invalid="ignore", divide="ignore"):
        shown = heat[:, five] / power[:, five]
        made = heat[:, : five + 1].sum(axis=1) / power[:, : five + 1].sum(axis=1)
    return [
        StartRow(
            start=start,
            stop=stop,
            mode=State(int(table.mode[run])).words,
            pause=one(table.pause, run),
            outdoor=one(table.outdoor, run),
            settled=one(found.settled, k),
            by_like=bool(found.by_like[k]),
            to_90=one(found.to_90, k),
            shown_at_5=one(shown, at),
            made_at_5=one(made, at),
            loss=one(found.loss, k, 1 / 3600),
        )
        for at, (k, run, start, stop) in enumerate(
            zip(
                pick.tolist(),
                runs.tolist(),
                within.instants(table.start[runs]),
                within.instants(table.stop[runs]),
                strict=True,
            )
        )
    ]


def _why_none(within: Within) -> Reason:
    if within.found.step > 120:
        return because(ReasonCode.STARTS_TOO_COARSE, minutes=within.found.step // 60)
    words = "; ".join(within.found.notes) or say("heat_electricity_not")
    return because(ReasonCode.STARTS_NOT_KNOWN, words=words)


def _fits(within: Within, runs: Ints, asked: Filter) -> np.ndarray:
    table = within.found.runs
    mask = np.ones(len(runs), np.bool_)
    with np.errstate(invalid="ignore"):
        for values, low, high in (
            (table.outdoor, asked.outdoor_low, asked.outdoor_high),
            (table.pause, asked.pause_low, asked.pause_high),
        ):
            if low is not None:
                mask &= values[runs] >= low
            if high is not None:
                mask &= values[runs] <= high
    if asked.mode is not None:
        mask &= table.mode[runs] == {s.words: s for s in State}.get(asked.mode, -1)
    return mask


def _loss(within: Within, pick: Ints) -> Estimate | None:
    """All losses together, with the electricity meter's own error and that of the moment of the
    start, known to half a cell of its power (rectangular, GUM 4.3.7). The error of the heat meter
    cancels: it is in the settled COP as well."""
    found = within.found.starts
    assert found is not None
    loss = found.loss[pick]
    known = np.isfinite(loss)
    if not known.any():
        return None
    value = float(loss[known].sum()) / KWH
    power = np.nan_to_num(found.power[pick][known][:, :3].astype(float).mean(axis=1))
    moment = float(np.sqrt(((power * found.step) ** 2 / 12).sum())) / KWH
    total = within.total(within.found.runs.start, within.found.runs.stop)
    share = total.electricity.u / total.electricity.value if total and total.covered else 0.0
    return Estimate(
        value,
        "kWh",
        (
            UncertaintyComponent(Source(SourceCode.ELECTRICITY_METER), value * share),
            UncertaintyComponent(Source(SourceCode.START_MOMENT), moment, True),
        ),
    )


def _range(values: np.ndarray) -> Range | None:
    known = values[np.isfinite(values)]
    return Range(float(known.min()), float(known.max())) if len(known) else None
