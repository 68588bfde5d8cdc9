"""Boundary levels H1–H4: which can be computed from the meters there are, and why not others."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import product

import numpy as np

from ember.basis.codes import ReasonCode
from ember.basis.series import MIXING, Floats
from ember.description.installation import (
    HEATERS,
    Consumer,
    ElectricityMeter,
    FixedPower,
    HeatRegister,
    HeatSource,
    Installation,
    Prefer,
    ReportedHeat,
    Service,
    SourceYield,
    WaterCircuit,
    heat_meters,
    working,
)
from ember.messages import NotAvailable, Reason, because
from ember.metering.meter_energy import MeterEnergies, MeterEnergy


class Level(StrEnum):
    """Boundary of a COP. Source: SEPEMO-Build project, D4.2 (from memory)."""

    H1 = "H1"
    H2 = "H2"
    H3 = "H3"
    H4 = "H4"

    def words(self, on_air: bool = False) -> str:
        """What the level's electricity holds.

        Parameters
        ----------
        on_air : bool
            of a unit that heats the room's air.
        """
        return {
            Level.H1: "compressor",
            Level.H2: "with outdoor fan and controls" if on_air else "with source and controls",
            Level.H3: "with resistance heaters" if on_air else "with backup and immersion heater",
            Level.H4: "with indoor fans" if on_air else "with pumps",
        }[self]


_LEVEL_CONSUMERS: dict[Level, frozenset[Consumer]] = {
    Level.H1: frozenset({Consumer.COMPRESSOR}),
    Level.H2: frozenset({Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS}),
    Level.H3: frozenset({Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS}) | HEATERS,
    Level.H4: frozenset(Consumer),
}
_HEAT = {c: HeatSource(c.value) for c in HEATERS}

Share = tuple[int, str]  # +1 or −1, and the meter's name
MOST_TRIED = 5000  # combinations of meters; plants that can be taken apart need some hundred
Serving = ElectricityMeter | FixedPower | WaterCircuit | HeatRegister | ReportedHeat | SourceYield
Served = tuple[Service, StrEnum]  # a consumer or a source of heat, and what it serves


@dataclass(frozen=True, slots=True)
class MeterCombination:
    """How a level is computed: Σ of meters on either side, or the reason why it can't be.

    Attributes
    ----------
    electricity, heat : tuple[Share, ...]
        meters with sign
    heat_by_heaters : tuple[Share, ...]
        electricity meters of resistance heaters whose electricity counts as heat (+1) or is taken
        out of it (−1).
    lacking : tuple[Consumer, ...]
        consumers that no meter holds, where everything else can be computed: the shares are then
        those of the rest.
    """

    level: Level
    electricity: tuple[Share, ...]
    heat: tuple[Share, ...]
    heat_by_heaters: tuple[Share, ...]
    reason: Reason | None
    lacking: tuple[Consumer, ...] = ()

    @property
    def given(self) -> tuple[Share, ...]:
        """What its heat is made of: meters of heat, and of heaters whose electricity is heat."""
        return self.heat + self.heat_by_heaters

    @property
    def meters(self) -> tuple[Share, ...]:
        """All meters that the level needs."""
        return self.electricity + self.heat + self.heat_by_heaters


def combinations(
    installation: Installation, meter_energies: MeterEnergies
) -> dict[Level, MeterCombination]:
    """For every level how it is computed from the meters that have readings, or why not."""
    whole = services(installation)
    return {level: _combination(level, installation, meter_energies, whole) for level in Level}


def combinations_if_logged(installation: Installation) -> dict[Level, MeterCombination]:
    """For every level how it would be computed if every described meter were logged, or why not:
    what a description alone can promise."""

    return combinations(installation, _as_if_logged(installation))


def takes_part(installation: Installation) -> dict[str, tuple[str, ...]]:
    """In which figures each meter would take part if every one were logged, in words."""
    meter_energies = _as_if_logged(installation)
    figures = {"the whole": combinations(installation, meter_energies)}
    for service, level_combinations in combinations_by_service(
        installation, meter_energies
    ).items():
        figures[service.words] = level_combinations
    found: dict[str, tuple[str, ...]] = {}
    for name in serves_of(installation):
        said = []
        for what, level_combinations in figures.items():
            levels = [
                level.value
                for level, combination in level_combinations.items()
                if combination.reason is None and name in {n for _, n in combination.meters}
            ]
            if levels:
                joined = levels[0] if len(levels) == 1 else f"{levels[0]} to {levels[-1]}"
                said.append(f"{what}: {joined}")
        found[name] = tuple(said)
    return found


def _as_if_logged(installation: Installation) -> MeterEnergies:
    def silent(name: str) -> MeterEnergy:
        return MeterEnergy(
            name=name,
            method="",
            loads="",
            energy=np.empty(0),
            components=(),
            native=0.0,
            step_energy=0.0,
            holes=(),
        )

    only_reported = {meter.name for meter in installation.reported}
    heat = [name for name in heat_meters(installation) if name not in only_reported]
    return MeterEnergies(
        {name: silent(name) for name in _electric(installation)},
        {name: silent(name) for name in heat},
        dict.fromkeys(only_reported, because(ReasonCode.REPORTED_ALONE)),
    )


# In which level is taken: the most that is known, the least, or what is nearest to a rated table.
WIDEST_FIRST = (Level.H4, Level.H3, Level.H2, Level.H1)
LOWEST_FIRST = (Level.H1, Level.H2, Level.H3, Level.H4)
NEAREST_TO_TABLE = (Level.H2, Level.H3, Level.H4, Level.H1)


def first_computed(
    combinations: Mapping[Level, MeterCombination], order: Sequence[Level]
) -> MeterCombination | None:
    """The first of the levels that can be computed, None where none can."""
    return next((combinations[v] for v in order if combinations[v].reason is None), None)


def widest(combinations: Mapping[Level, MeterCombination]) -> MeterCombination | None:
    """The level that holds most of what can be computed."""
    return first_computed(combinations, WIDEST_FIRST)


def lowest(combinations: Mapping[Level, MeterCombination]) -> MeterCombination | None:
    """The level that holds least of what can be computed."""
    return first_computed(combinations, LOWEST_FIRST)


def nearest_to_table(combinations: Mapping[Level, MeterCombination]) -> MeterCombination | None:
    """The level at which is compared: the nearest to a rated table that can be computed."""
    return first_computed(combinations, NEAREST_TO_TABLE)


def nearest_to_scop(combinations: Mapping[Level, MeterCombination]) -> MeterCombination | None:
    """The level at which heating alone stands nearest to SCOP (EN 14825, from memory): H3, else the
    widest that can be computed."""
    return first_computed(combinations, (Level.H3, *WIDEST_FIRST))


def consumers_of(level: Level) -> frozenset[Consumer]:
    """What uses electricity inside a level."""
    return _LEVEL_CONSUMERS[level]


def services(installation: Installation) -> tuple[Service, ...]:
    """The services that the whole is made of: one for all, unless some meter serves one alone.
    Cooling is never part of it."""
    named = set(serves_of(installation).values())
    if not named & {Service.HEATING, Service.HOT_WATER}:
        return (Service.ALL,)
    if Service.HOT_WATER not in named and installation.tank is None:
        return (Service.HEATING,)
    return (Service.HEATING, Service.HOT_WATER)


def combinations_by_service(
    installation: Installation, meter_energies: MeterEnergies
) -> dict[Service, dict[Level, MeterCombination]]:
    """For every service that some meter serves alone, and every level, how it is computed from
    meters of that service, or why not: like is paired with like only."""
    named = set(serves_of(installation).values()) - {Service.ALL}
    return {
        service: {
            level: _combination(level, installation, meter_energies, (service,)) for level in Level
        }
        for service in Service
        if service in named
    }


def serves_of(installation: Installation) -> dict[str, Service]:
    """The service of each meter, by its name."""
    every: tuple[Serving, ...] = (
        *installation.electricity,
        *installation.fixed,
        *installation.circuits,
        *installation.registers,
        *installation.reported,
        *installation.yields,
    )
    return {m.name: m.serves for m in every} | {a.name: Service.ALL for a in installation.air}


def _combination(
    level: Level,
    installation: Installation,
    meter_energies: MeterEnergies,
    wanted_for: tuple[Service, ...],
) -> MeterCombination:
    present = working(installation)
    wanted = _of(wanted_for, _LEVEL_CONSUMERS[level] & present)
    meters = _meters(installation, meter_energies, wanted_for)
    targets = [wanted]
    if level == Level.H1 and Consumer.CONTROLS in present:
        # where the electronics are not separable
        targets.append(wanted | _of(wanted_for, {Consumer.CONTROLS}))
    electricity = next((s for t in targets if (s := find_combination(t, meters)) is not None), None)
    why: Reason | None = None
    lacking: tuple[Consumer, ...] = ()
    if electricity is None:
        why = _why_electricity(level, wanted, meters, meter_energies)
        short = wanted - frozenset[Served]().union(*meters.values())
        lacking = tuple(sorted({Consumer(part) for _, part in short}))
        electricity = find_combination(wanted - short, meters) if short else None
        if not electricity:
            return MeterCombination(level, (), (), (), why)
    heaters = present & HEATERS if level in (Level.H3, Level.H4) else frozenset()
    heat = _heat_shares(installation, meter_energies, meters, heaters, wanted_for)
    if isinstance(heat, NotAvailable):
        return MeterCombination(level, electricity, (), (), why or heat.reason)
    return MeterCombination(level, electricity, *heat, why, lacking)


def _of(services_: Iterable[Service], parts: Iterable[StrEnum]) -> frozenset[Served]:
    """Every part for every service."""
    return frozenset(product(services_, parts))


def _covered(
    serves: Service, wanted_for: tuple[Service, ...], whole: tuple[Service, ...]
) -> tuple[Service, ...]:
    """Which of the wanted services a meter's parts are of: one that serves all holds the whole, and
    no single service of it."""
    if serves != Service.ALL:
        return (serves,) if serves in wanted_for else ()
    return wanted_for if wanted_for[: len(whole)] == whole else ()


def _heat_shares(
    installation: Installation,
    meter_energies: MeterEnergies,
    meters: dict[str, frozenset[Served]],
    heaters: frozenset[Consumer],
    wanted_for: tuple[Service, ...],
) -> tuple[tuple[Share, ...], tuple[Share, ...]] | NotAvailable:
    """Meters of heat, and of heaters whose electricity is heat; or why it can't be computed."""
    wanted = _of(wanted_for, {HeatSource.HEAT_PUMP, *(_HEAT[h] for h in heaters)})
    there = {HeatSource.HEAT_PUMP, *(_HEAT[h] for h in working(installation) & HEATERS)}
    resistive = {
        name: frozenset((s, _HEAT[Consumer(c)]) for s, c in includes)
        for name, includes in meters.items()
        if {c for _, c in includes} <= HEATERS
    }
    why = because(ReasonCode.NO_HEAT)
    serves, whole = serves_of(installation), services(installation)
    # Heads of one unit each give a part: they are one measurement together.
    heads = tuple(head.name for head in installation.air) if len(installation.air) > 1 else ()
    # What is not there, or surely rests, gives no heat, whatever a meter could count.
    held = {
        name: _of(_covered(serves[name], wanted_for, whole), there.intersection(includes))
        for name, includes in _best_first(installation, meter_energies).items()
    }
    apart = {n: p for n, p in held.items() if serves[n] != Service.ALL and n in meter_energies.heat}
    for name, parts in held.items():
        if not parts:
            continue
        if name in heads and (absent := [h for h in heads if h not in meter_energies.heat]):
            why = _silent(absent[0], meter_energies)
            continue
        if name not in meter_energies.heat:
            why = _silent(name, meter_energies)
            continue
        beside = {n: p for n, p in apart.items() if serves[n] != serves[name]}
        beside = beside if serves[name] != Service.ALL else {}
        shares = find_combination(wanted, {name: parts, **beside, **resistive}, needed=name)
        if shares is not None:
            mine = tuple(s for s in shares if s[1] not in resistive)
            if name in heads:
                mine = tuple((1, head) for head in heads)
            return mine, tuple(s for s in shares if s[1] in resistive)
        why = _why_heat(name, parts, wanted)
    return NotAvailable(why)


def _best_first(
    installation: Installation, meter_energies: MeterEnergies
) -> dict[str, tuple[HeatSource, ...]]:
    """The meters of heat in the order in which they serve. Where readings are far apart a register
    still counts each moment, and goes before flow × ΔT, unless the analyst prefers otherwise."""
    held = heat_meters(installation)
    if any(isinstance(c, Prefer) and c.use in held for c in installation.corrections):
        return held
    mixing = {
        c.name
        for c in installation.circuits
        if c.name in meter_energies.heat and meter_energies.heat[c.name].native > MIXING
    }
    counting = {r.name for r in installation.registers}
    if not mixing or not counting:
        return held
    order = sorted(held, key=lambda name: 0 if name in counting else 1 if name in mixing else 2)
    return {name: held[name] for name in order}


def _meters(
    installation: Installation, meter_energies: MeterEnergies, wanted_for: tuple[Service, ...]
) -> dict[str, frozenset[Served]]:
    """What each electricity meter that has readings includes, for the services that are wanted."""
    serves, whole = serves_of(installation), services(installation)
    found = {
        name: _of(_covered(serves[name], wanted_for, whole), held & working(installation))
        for name, held in _electric(installation).items()
        if name in meter_energies.electricity
    }
    return {name: parts for name, parts in found.items() if parts}


def _electric(installation: Installation) -> dict[str, frozenset[Consumer]]:
    """What each electricity meter, and each fixed power, includes."""
    held = {m.name: frozenset(m.includes) for m in installation.electricity}
    return held | {f.name: frozenset(f.includes) for f in installation.fixed}


def find_combination(
    target: frozenset[Served], meters: dict[str, frozenset[Served]], needed: str | None = None
) -> tuple[Share, ...] | None:
    """Meters, added and subtracted, that hold each of the target exactly once and nothing else.

    The fewest meters, then the fewest subtractions, then those named first. Meters are added one
    at a time where a part is not held as it should be; after MOST_TRIED combinations none is taken
    for found.

    Parameters
    ----------
    needed : str | None
        a meter that must be added.
    """
    if needed is not None and needed not in meters:
        return None
    tried = [frozenset[tuple[str, int]]([(needed, 1)] if needed is not None else [])]
    seen = set(tried)
    while tried:
        found = []
        further = []
        for chosen in tried:
            wrong = _wrong(chosen, target, meters)
            if wrong is None:
                found.append(chosen)
                continue
            used = {name for name, _ in chosen}
            for name, parts in meters.items():
                if wrong in parts and name not in used:
                    further += [chosen | {(name, sign)} for sign in (1, -1)]
        if found:
            return min((_shares(chosen, meters) for chosen in found), key=_preference(meters))
        tried = [one for one in dict.fromkeys(further) if one not in seen]
        seen.update(tried)
        if len(seen) > MOST_TRIED:
            return None
    return None


def _wrong(
    chosen: frozenset[tuple[str, int]],
    target: frozenset[Served],
    meters: dict[str, frozenset[Served]],
) -> Served | None:
    """A part that some chosen meters do not hold as often as they should; None where all is right.

    That which the fewest meters hold comes first: it leaves the fewest ways on.
    """
    count = dict.fromkeys(target, -1)
    for name, sign in chosen:
        for part in meters[name]:
            count[part] = count.get(part, 0) + sign
    wrong = [part for part, k in count.items() if k]
    if not wrong:
        return None
    return min(wrong, key=lambda part: (sum(part in held for held in meters.values()), part))


def _shares(
    chosen: frozenset[tuple[str, int]], meters: dict[str, frozenset[Served]]
) -> tuple[Share, ...]:
    signs = dict(chosen)
    return tuple((signs[name], name) for name in meters if name in signs)


def _preference(
    meters: dict[str, frozenset[Served]],
) -> Callable[[tuple[Share, ...]], tuple[int, list[int]]]:
    """Fewest subtractions first; then the last meters rather than the first, added rather than
    subtracted."""

    def key(shares: tuple[Share, ...]) -> tuple[int, list[int]]:
        signs = {name: sign for sign, name in shares}
        return sum(s < 0 for s in signs.values()), [signs.get(n, 0) % 3 for n in meters]

    return key


def _why_electricity(
    level: Level,
    wanted: frozenset[Served],
    meters: dict[str, frozenset[Served]],
    meter_energies: MeterEnergies,
) -> Reason:
    measured = frozenset[Served]().union(*meters.values())
    lacking = wanted - measured
    if lacking:
        silent = [f"{name}: {why}" for name, why in meter_energies.missing.items()]
        hint = f" ({'; '.join(silent)})" if silent else ""
        return because(ReasonCode.NOT_METERED, what=_words(lacking, wanted), hint=hint)
    for name, includes in meters.items():
        if includes & wanted and includes - wanted:
            extra = _words(includes - wanted, includes)
            return because(ReasonCode.METER_HOLDS_MORE, meter=name, what=extra, level=level.value)
    return because(ReasonCode.METERS_OVERLAP)


def _silent(name: str, meter_energies: MeterEnergies) -> Reason:
    return because(ReasonCode.METER_MISSING, meter=name, reason=meter_energies.missing[name])


def _why_heat(name: str, includes: frozenset[Served], wanted: frozenset[Served]) -> Reason:
    if extra := includes - wanted:
        said = _words(extra, includes)
        return because(ReasonCode.HEAT_HOLDS_MORE, meter=name, what=said)
    lacks = _words(wanted - includes, wanted)
    return because(ReasonCode.HEAT_LACKS, meter=name, what=lacks)


def _words(parts: frozenset[Served], among: frozenset[Served]) -> str:
    """Parts in words, with their service where it is not all that there is."""
    every = {service for service, _ in among}
    said = set()
    for part in {part for _, part in parts}:
        mine = {service for service, other in parts if other == part}
        which = "" if mine == every else f" for {' and '.join(sorted(s.words for s in mine))}"
        said.add(part.value.replace("_", " ") + which)
    return " and ".join(sorted(said))


def why_none(level_combinations: Iterable[MeterCombination]) -> Reason:
    """Why no level can be computed: that no heat is measured, where nothing else lacks, comes
    before what a level leaves out."""
    said = [combination.reason for combination in level_combinations if combination.reason]
    none = because(ReasonCode.NO_METER)
    return next((why for why in said if why.code == ReasonCode.NO_HEAT), said[-1] if said else none)


def summed(shares: Iterable[Share], energy_of: Callable[[str], Floats]) -> Floats | None:
    """Σ of meters with their signs; None for no meter at all.

    Parameters
    ----------
    shares : Iterable[Share]
        of a combination; with heat, `combination.given`, in which heaters metered on the heat side
        count.
    energy_of : Callable[[str], Floats]
        of a meter by its name, arrays (n,) or (m,) [J]. One alone is given back itself.
    """
    total: Floats | None = None
    for sign, name in shares:
        energy = energy_of(name)
        signed = energy if sign == 1 else sign * energy
        total = signed if total is None else total + signed
    return total


def all_metered(installation: Installation, meter_energies: MeterEnergies) -> tuple[Share, ...]:
    """Meters, with sign, that hold everything metered once; the widest one if none do."""
    every = services(installation)
    if Service.COOLING in serves_of(installation).values():
        every = (*every, Service.COOLING)
    meters = _meters(installation, meter_energies, every)
    if not meters:
        return ()
    everything = frozenset[Served]().union(*meters.values())
    shares = find_combination(everything, meters)
    if shares is None:
        shares = ((1, max(meters, key=lambda name: len(meters[name]))),)
    return shares
