"""What a change was worth: a unit below its table that is mended while other things changed too,
against the saving of the same plant with nothing else changed."""

from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from ember.assessment.record_analysis import analyse_and_walk
from ember.basis.calendar import whole
from ember.events.hours import Hours
from ember.operation import operation
from ember.season import Changed, SeasonSeen, Worth, before_after, same_rooms, season_seen
from ember.season.before_after import YEAR, days_seen
from ember.views.change_seen import change_seen, stretches
from stand_ins.catalogue import random_season
from stand_ins.scenario import Scenario, Simulated, simulate

WORKERS = 2
BELOW = 0.8  # of its table, before
DAY = 86_400.0
FORTNIGHT = 14 * DAY
# What else was another in the second winter; and a healthy unit at which nothing was changed, its
# one winter cut in two, autumn against spring: without a sun, and with one that shines through 2 to
# 6 m² of windows, logged or not.
UNCHANGED = (
    "one winter, nothing changed",
    "the same, with a sun that is logged",
    "the same, with a sun that is not",
)
WINDOWS = (2.0, 6.0)  # [m²]
KINDS = ("nothing else", "a milder winter", "rooms 1.5 K lower", "two weeks away")
CUT = date(2025, 1, 28)
LOWER, MILDER = 1.5, 2.0  # [K]


@dataclass(frozen=True)
class Saving:
    """One house. kind : of `KINDS` or `UNCHANGED`. share : truly saved, of before. away :
    (stated − true) ÷ half the 95 % interval, None where nothing was stated. said : in a word,
    whether it saved."""

    kind: str
    seed: int
    share: float
    away: float | None
    said: Worth | None


def _second(scenario: Scenario, kind: str) -> Scenario:
    """The winter after, with the unit mended."""
    after = replace(scenario, first_day=date(2025, 10, 1))
    if kind == "a milder winter":
        return replace(after, seed=scenario.seed + 50_000, mean_temp=scenario.mean_temp + MILDER)
    plant = scenario.plant
    if kind == "rooms 1.5 K lower":
        return replace(after, plant=plant._replace(room_set=plant.room_set - LOWER))
    if kind == "two weeks away":
        return replace(after, plant=plant._replace(away_from=80 * DAY, away_for=FORTNIGHT))
    return after


def _looked(scenario: Scenario) -> tuple[Simulated, SeasonSeen, Hours]:
    done = simulate(scenario)
    trace = done.trace()
    analysis, walked = analyse_and_walk(done.installation, trace)
    seen = season_seen(analysis, whole(analysis.start, analysis.stop))
    return done, seen, operation(analysis, trace, walked).hours


def _joined(one: Hours, other: Hours) -> Hours:
    """Hours of two records as one, nothing known between them."""
    gap = np.full(round((other.start - one.start) / 3600) - len(one), np.nan)
    return Hours(
        one.start, {name: np.concatenate([one.of[name], gap, other.of[name]]) for name in one.of}
    )


def savings(seed: int) -> list[Saving]:
    """One house, the same change with each of `KINDS`."""
    scenario = random_season(seed)
    below = replace(scenario, plant=scenario.plant._replace(cop_factor=BELOW))
    was, before, hours = _looked(below)
    mended = simulate(scenario)
    found = []
    for kind in KINDS:
        _, after, later = _looked(_second(scenario, kind))
        found.append(_saving(kind, seed, was, mended, before, after, _joined(hours, later)))
    return [*found, *(_unchanged(kind, seed, scenario) for kind in UNCHANGED)]


def _unchanged(kind: str, seed: int, scenario: Scenario) -> Saving:
    """As warm as before, under the same sun where that is logged."""
    plant = scenario.plant
    if kind != UNCHANGED[0]:
        lit = float(np.random.default_rng([seed, 9]).uniform(*WINDOWS))
        plant = plant._replace(windows=lit)
    done = simulate(replace(scenario, days=300, plant=plant))
    trace = done.trace()
    if kind == UNCHANGED[2]:
        kept = {name: of for name, of in trace.channels.items() if name != "solar_radiation"}
        trace = replace(trace, channels=kept)
    analysis, walked = analyse_and_walk(done.installation, trace)
    hours = operation(analysis, trace, walked).hours
    found = change_seen(analysis, hours, stretches(analysis, CUT)).same_rooms
    if found is None:
        return Saving(kind, seed, 0.0, None, None)
    half = 1.96 / 2 * found.electricity.U
    return Saving(kind, seed, 0.0, found.electricity.value / half, found.worth)


def _saving(
    kind: str,
    seed: int,
    was: Simulated,
    mended: Simulated,
    before: SeasonSeen,
    after: SeasonSeen,
    hours: Hours,
) -> Saving:
    assert before.daily is not None and before.level is not None
    outdoor = before.daily.outdoor
    known = np.isfinite(outdoor)
    stated = before_after(before, after, outdoor[known]).electricity
    saved = stated.saved if isinstance(stated, Changed) else None
    said = stated.worth if isinstance(stated, Changed) else None
    days = np.zeros(len(outdoor), np.bool_)
    days[known] = days_seen(before, after, outdoor[known])
    if kind == "rooms 1.5 K lower":  # where rooms are logged the screen says this beside
        alone = same_rooms(before, after, before, hours)
        saved, said = (alone.electricity, alone.worth) if alone else (None, None)
    trace = was.trace()
    at = np.searchsorted(
        before.daily.start, trace.start + np.arange(len(trace)) * trace.step, "right"
    )
    mask = days[at - 1]
    level = before.level.value
    used, then = was.truth_electricity(level, mask), mended.truth_electricity(level, mask)
    if saved is None:
        return Saving(kind, seed, 1 - then / used, None, said)
    truth = (used - then) * YEAR / np.count_nonzero(known)
    return Saving(kind, seed, 1 - then / used, (saved.value - truth) / (1.96 / 2 * saved.U), said)


def all_savings(seeds: range) -> list[Saving]:
    """All of them, over both cores."""
    with ProcessPoolExecutor(WORKERS) as pool:
        return [one for found in pool.map(savings, seeds) for one in found]
