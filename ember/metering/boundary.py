"""Boundary levels H1–H4: which can be computed from the meters there are, and why not others."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum
from itertools import product

import numpy as np

from ember.installation import (
    HEATERS,
    Consumer,
    HeatSource,
    Installation,
    Prefer,
    heat_meters,
)
from ember.metering.stream import Stream, Streams
from ember.trace import MIXING, Floats


class Level(StrEnum):
    """Boundary of a COP. Source: SEPEMO-Build project, D4.2 (from memory)."""

    H1 = "H1"
    H2 = "H2"
    H3 = "H3"
    H4 = "H4"

    @property
    def words(self) -> str:
        """What the level's electricity holds."""
        return {
            Level.H1: "compressor",
            Level.H2: "with source and controls",
            Level.H3: "with backup and immersion heater",
            Level.H4: "with pumps",
        }[self]


_LEVEL_CONSUMERS: dict[Level, frozenset[Consumer]] = {
    Level.H1: frozenset({Consumer.COMPRESSOR}),
    Level.H2: frozenset({Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS}),
    Level.H3: frozenset({Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS}) | HEATERS,
    Level.H4: frozenset(Consumer),
}
_HEAT = {c: HeatSource(c.value) for c in HEATERS}

Share = tuple[int, str]  # +1 or −1, and the meter's name


@dataclass(frozen=True, slots=True)
class Plan:
    """How a level is computed: Σ of meters on either side, or why it can't be.

    electricity, heat : meters with sign; heat_by_heaters : electricity meters of resistance
    heaters whose electricity counts as heat (+1) or is taken out of it (−1).
    lacking : consumers that no meter holds, where everything else can be computed: the shares are
    then those of the rest.
    """

    level: Level
    electricity: tuple[Share, ...]
    heat: tuple[Share, ...]
    heat_by_heaters: tuple[Share, ...]
    missing: str | None
    lacking: tuple[Consumer, ...] = ()

    @property
    def given(self) -> tuple[Share, ...]:
        """What its heat is made of: meters of heat, and of heaters whose electricity is heat."""
        return self.heat + self.heat_by_heaters

    @property
    def meters(self) -> tuple[Share, ...]:
        """All meters that the level needs."""
        return self.electricity + self.heat + self.heat_by_heaters


def plans(installation: Installation, streams: Streams) -> dict[Level, Plan]:
    """For every level how it is computed from the meters that have readings, or why not."""
    return {level: _plan(level, installation, streams) for level in Level}


def plans_if_logged(installation: Installation) -> dict[Level, Plan]:
    """For every level how it would be computed if every described meter were logged, or why not:
    what a description alone can promise."""

    def silent(name: str) -> Stream:
        return Stream(name, "", "", np.empty(0), (), 0.0, 0.0, ())

    only_reported = {meter.name for meter in installation.reported}
    heat = [name for name in heat_meters(installation) if name not in only_reported]
    streams = Streams(
        {name: silent(name) for name in _electric(installation)},
        {name: silent(name) for name in heat},
        dict.fromkeys(only_reported, "reported by the controller, not measured"),
    )
    return plans(installation, streams)


def consumers_of(level: Level) -> frozenset[Consumer]:
    """What uses electricity inside a level."""
    return _LEVEL_CONSUMERS[level]


def _plan(level: Level, installation: Installation, streams: Streams) -> Plan:
    present = frozenset(installation.consumers)
    wanted = _LEVEL_CONSUMERS[level] & present
    meters = _meters(installation, streams)
    targets = [wanted]
    if level == Level.H1 and Consumer.CONTROLS in present:
        targets.append(wanted | {Consumer.CONTROLS})  # where the electronics are not separable
    electricity = next((s for t in targets if (s := combination(t, meters)) is not None), None)
    why: str | None = None
    lacking: tuple[Consumer, ...] = ()
    if electricity is None:
        why = _why_electricity(level, wanted, meters, streams)
        lacking = tuple(sorted(wanted - frozenset[Consumer]().union(*meters.values())))
        electricity = combination(wanted - frozenset(lacking), meters) if lacking else None
        if not electricity:
            return Plan(level, (), (), (), why)
    heaters = present & HEATERS if level in (Level.H3, Level.H4) else frozenset()
    heat = _heat_shares(installation, streams, meters, heaters)
    if isinstance(heat, str):
        return Plan(level, electricity, (), (), why or heat)
    return Plan(level, electricity, *heat, why, lacking)


def _heat_shares(
    installation: Installation,
    streams: Streams,
    meters: dict[str, frozenset[Consumer]],
    heaters: frozenset[Consumer],
) -> tuple[tuple[Share, ...], tuple[Share, ...]] | str:
    """Meters of heat, and of heaters whose electricity is heat; or why it can't be computed."""
    wanted = frozenset({HeatSource.HEAT_PUMP, *(_HEAT[h] for h in heaters)})
    resistive = {
        name: frozenset(_HEAT[c] for c in includes)
        for name, includes in meters.items()
        if includes <= HEATERS
    }
    why = "no heat is measured"
    # Heads of one unit each give a part: they are one measurement together.
    heads = tuple(head.name for head in installation.air) if len(installation.air) > 1 else ()
    for name, includes in _best_first(installation, streams).items():
        if name in heads and (absent := [h for h in heads if h not in streams.heat]):
            why = f"{absent[0]}: {streams.missing[absent[0]]}"
            continue
        if name not in streams.heat:
            why = f"{name}: {streams.missing[name]}"
            continue
        shares = combination(wanted, {name: frozenset(includes), **resistive}, needed=name)
        if shares is not None:
            mine = tuple(s for s in shares if s[1] == name)
            if name in heads:
                mine = tuple((1, head) for head in heads)
            return mine, tuple(s for s in shares if s[1] != name)
        why = _why_heat(name, frozenset(includes), wanted)
    return why


def _best_first(installation: Installation, streams: Streams) -> dict[str, tuple[HeatSource, ...]]:
    """The meters of heat in the order in which they serve. Where readings are far apart a register
    still counts each moment, and goes before flow × ΔT, unless the analyst prefers otherwise."""
    held = heat_meters(installation)
    if any(isinstance(c, Prefer) and c.use in held for c in installation.corrections):
        return held
    mixing = {
        c.name
        for c in installation.circuits
        if c.name in streams.heat and streams.heat[c.name].native > MIXING
    }
    counting = {r.name for r in installation.registers}
    if not mixing or not counting:
        return held
    order = sorted(held, key=lambda name: 0 if name in counting else 1 if name in mixing else 2)
    return {name: held[name] for name in order}


def _meters(installation: Installation, streams: Streams) -> dict[str, frozenset[Consumer]]:
    """What each electricity meter that has readings includes."""
    every = _electric(installation)
    return {name: held for name, held in every.items() if name in streams.electricity}


def _electric(installation: Installation) -> dict[str, frozenset[Consumer]]:
    """What each electricity meter, and each fixed power, includes."""
    held = {m.name: frozenset(m.includes) for m in installation.electricity}
    return held | {f.name: frozenset(f.includes) for f in installation.fixed}


def combination(
    target: frozenset[StrEnum] | frozenset[Consumer] | frozenset[HeatSource],
    meters: dict[str, frozenset[Consumer]] | dict[str, frozenset[HeatSource]],
    needed: str | None = None,
) -> tuple[Share, ...] | None:
    """Meters, added and subtracted, that hold each of the target exactly once and nothing else.

    The fewest meters, then the fewest subtractions. needed : a meter that must be added.
    """
    names = list(meters)
    best: tuple[Share, ...] | None = None
    for signs in product((0, 1, -1), repeat=len(names)):
        shares = tuple((s, n) for s, n in zip(signs, names, strict=True) if s)
        if best is not None and _rank(shares) >= _rank(best):
            continue
        if needed is not None and (1, needed) not in shares:
            continue
        count: dict[str, int] = {}
        for sign, name in shares:
            for consumer in meters[name]:
                count[consumer] = count.get(consumer, 0) + sign
        if {c: k for c, k in count.items() if k} == dict.fromkeys(target, 1):
            best = shares
    return best


def _rank(shares: tuple[Share, ...]) -> tuple[int, int]:
    return len(shares), sum(sign < 0 for sign, _ in shares)


def _why_electricity(
    level: Level,
    wanted: frozenset[Consumer],
    meters: dict[str, frozenset[Consumer]],
    streams: Streams,
) -> str:
    measured = frozenset[Consumer]().union(*meters.values())
    lacking = wanted - measured
    if lacking:
        silent = [f"{name}: {why}" for name, why in streams.missing.items()]
        hint = f" ({'; '.join(silent)})" if silent else ""
        return f"{_words(lacking)} not metered{hint}"
    for name, includes in meters.items():
        if includes & wanted and includes - wanted:
            extra = _words(includes - wanted)
            return f"'{name}' also holds {extra}, which {level.value} leaves out"
    return "the meters overlap in a way that cannot be taken apart"


def _why_heat(name: str, includes: frozenset[HeatSource], wanted: frozenset[HeatSource]) -> str:
    if extra := includes - wanted:
        return f"'{name}' also holds the heat of the {_words(extra)}, which is not metered alone"
    return f"'{name}' lacks the heat of the {_words(wanted - includes)}, which is not metered"


def _words(parts: Iterable[StrEnum]) -> str:
    return " and ".join(sorted(p.value.replace("_", " ") for p in parts))


def summed(shares: Iterable[Share], energy_of: Callable[[str], Floats]) -> Floats | None:
    """Σ of meters with their signs; None for no meter at all.

    Parameters
    ----------
    shares : of a plan; with heat, `plan.given`, in which heaters metered on the heat side count.
    energy_of : of a meter by its name, arrays (n,) or (m,) [J]. One alone is given back itself.
    """
    total: Floats | None = None
    for sign, name in shares:
        energy = energy_of(name)
        signed = energy if sign == 1 else sign * energy
        total = signed if total is None else total + signed
    return total


def all_metered(installation: Installation, streams: Streams) -> tuple[Share, ...]:
    """Meters, with sign, that hold everything metered once; the widest one if none do."""
    meters = _meters(installation, streams)
    if not meters:
        return ()
    everything = frozenset[Consumer]().union(*meters.values())
    shares = combination(everything, meters)
    if shares is None:
        shares = ((1, max(meters, key=lambda name: len(meters[name]))),)
    return shares
