"""The tank as a calorimeter: the heat that a charge without draws put into it, beside its
electricity."""

from dataclasses import dataclass

import numpy as np

from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.quantity import KWH, Estimate, UncertaintyComponent, merge, rectangular
from ember.basis.series import Floats, Ints
from ember.description.house import Tank
from ember.events.hot_water_charges import STAGES, HotWaterCharges
from ember.messages import Reason, Source, because, words_of
from ember.metering.tank import MEAN, PROBES, charge_energy, loss_of, probes_in
from ember.operation.within import Within

say = words_of(__name__)

# of a described volume, and of the share of it that is warmed, common practice, chosen
VOLUME_LIMIT = 0.05
STORE_LIMIT = 0.20  # of the described heat of a store that melts, common practice, chosen
# below and above its melting, between which such a store goes from empty to full [K]
CALORIMETER_CLEARLY = 2.0
CALORIMETER_LEAST_STAGE = 0.05  # electricity in a stage [kWh]
CALORIMETER_LEAST_RISE = 1.0  # of a charge in a stage, on average [K]
CALORIMETER_LEAST = 3  # charges without draws, for a COP to be stated


@dataclass(frozen=True)
class Stage:
    """Between two tank temperatures [degC]: electricity and heat of all charges [kWh], their
    COP."""

    low: float
    high: float
    electricity: float
    heat: float
    cop: float | None
    charges: int


@dataclass(frozen=True)
class Calorimeter:
    """Charges in which no water was drawn.

    Attributes
    ----------
    charges : int
        how many
    refused : int
        how many are left out for a draw
    unknown : int
        the rest, for want of readings about them, or of a store that melts not from empty to full.
    heat : Estimate | None
        into the tank
    electricity : Estimate | None
        all that is metered meanwhile [kWh]
    cop : Estimate | None
        their quotient.
    stages : list[Stage]
        the same by stage of 5 K, none for a store that melts.
    words : str
        what stands for the heat.
    reason : Reason | None
        why no COP is stated.
    """

    charges: int
    refused: int
    unknown: int
    heat: Estimate | None
    electricity: Estimate | None
    cop: Estimate | None
    stages: list[Stage]
    words: str
    reason: Reason | None


def charge_heat(
    tank: Tank, probes: int, found: HotWaterCharges, pick: Ints, seconds: Floats
) -> Estimate | None:
    """Heat that some charges put into a tank together [kWh]; None for none.

    Parameters
    ----------
    probes : int
        of the tank that are logged, up to three.
    seconds : array, (k,)
        Length of each charge.

    Source: Q = ρ·V·c_p·share·ΔT + loss·(T̄ − T_ambient)·time; limits common practice. What draws
    too small to show take away is one-sided; its half is added, and is in U.
    """
    if not len(pick):
        return None
    warmed, lost, unseen = _parts(tank, found, pick, seconds)
    _, loss_limit = loss_of(tank)
    stored = float(warmed.sum())
    if tank.phase_change is not None:
        stored = tank.phase_change.kwh * KWH * len(pick)
        parts = [
            UncertaintyComponent(
                Source(SourceCode.STORE_HEAT), rectangular(STORE_LIMIT) * stored / KWH
            )
        ]
    else:
        parts = [
            UncertaintyComponent(
                Source(SourceCode.TANK_PROBES, "tank", PROBES[probes]),
                rectangular(MEAN[probes]) * stored / KWH,
            ),
            UncertaintyComponent(
                Source(SourceCode.TANK_VOLUME, "tank"), rectangular(VOLUME_LIMIT) * stored / KWH
            ),
        ]
    parts += [
        UncertaintyComponent(
            Source(SourceCode.STANDING_LOSS, "tank"),
            rectangular(loss_limit) * float(lost.sum()) / KWH,
        ),
        UncertaintyComponent(
            Source(SourceCode.TANK_DRAWS, "tank"), rectangular(0.5) * float(unseen.sum()) / KWH
        ),
    ]
    total = stored + float(lost.sum() + unseen.sum() / 2)
    return Estimate(total / KWH, "kWh", merge(parts))


def heat_of_each(within: Within, charges: Ints) -> list[Estimate | None]:
    """Heat that each of some charges put into the tank [kWh], by the tank alone; None where water
    was drawn, that is not known, or no tank is described. Of a store that melts nothing is said."""
    tank, found = within.analysis.installation.tank, within.found.charges
    if tank is None or tank.phase_change is not None:
        return [None] * len(charges)
    probes = probes_in(tank, within.analysis.facts.channels)
    seconds = (found.stop - found.start).astype(np.float64) * within.found.step
    return [
        charge_heat(tank, probes, found, np.array([k]), seconds)
        if found.drawn[k] == 0 and found.whole[k] > 0
        else None
        for k in charges.tolist()
    ]


def _parts(
    tank: Tank, found: HotWaterCharges, pick: Ints, seconds: Floats
) -> tuple[Floats, Floats, Floats]:
    """Of each charge: what warms the tank, what it loses, what unseen draws may take, (k,) [J]."""
    begin, end = found.begin[pick], found.end[pick]
    mean = 0.5 * (begin + end)
    warmed = charge_energy(tank.volume_l, tank.effective_share, end - begin, mean)
    loss, _ = loss_of(tank)
    lost = np.maximum(loss * (mean - tank.ambient), 0.0) * seconds[pick]
    unseen = charge_energy(
        tank.volume_l, tank.effective_share, found.unseen[pick] * seconds[pick], mean
    )
    # What the tank loses by itself is counted already.
    return warmed, lost, np.maximum(unseen - lost, 0.0)


def calorimeter(within: Within, pick: Ints) -> Calorimeter | None:
    """What a period's charges say by the tank alone; None without a described tank and its
    probe."""
    tank = within.analysis.installation.tank
    found = within.found.charges
    if tank is None or not len(pick) or not np.isfinite(found.begin[pick]).any():
        return None
    whole = pick[found.whole[pick] > 0]
    quiet, drawn = whole[found.drawn[whole] == 0], whole[found.drawn[whole] == 1]
    probes = probes_in(tank, within.analysis.facts.channels)
    words = say(
        "warmed",
        volume_l=tank.volume_l,
        effective_share=tank.effective_share,
        probes=PROBES[probes],
    )
    if tank.phase_change is not None:
        melts = tank.phase_change.melts_at
        full = (found.begin[quiet] < melts - CALORIMETER_CLEARLY) & (
            found.end[quiet] > melts + CALORIMETER_CLEARLY
        )
        quiet = quiet[full]
        words = say("store_kwh_charges", kwh=tank.phase_change.kwh)
    used = within.used(found.start[quiet], found.stop[quiet])
    quiet = quiet[[one is not None and one.value > 0 for one in used]] if len(quiet) else quiet
    unknown = len(pick) - len(quiet) - len(drawn)
    if len(quiet) < CALORIMETER_LEAST:
        why = because(ReasonCode.TOO_FEW_CHARGES, count=len(quiet), least=CALORIMETER_LEAST)
        return Calorimeter(
            charges=len(quiet),
            refused=len(drawn),
            unknown=unknown,
            heat=None,
            electricity=None,
            cop=None,
            stages=[],
            words=words,
            reason=why,
        )
    seconds = (found.stop - found.start).astype(np.float64) * within.found.step
    heat = charge_heat(tank, probes, found, quiet, seconds)
    electricity = within.used_together(found.start[quiet], found.stop[quiet])
    assert heat is not None
    cop = heat.over(electricity, "") if electricity is not None and heat.value > 0 else None
    stages = [] if tank.phase_change is not None else _stages(tank, found, quiet, seconds)
    return Calorimeter(
        charges=len(quiet),
        refused=len(drawn),
        unknown=unknown,
        heat=heat,
        electricity=electricity,
        cop=cop,
        stages=stages,
        words=words,
        reason=None if cop is not None else because(ReasonCode.CHARGES_NOT_METERED),
    )


def _stages(tank: Tank, found: HotWaterCharges, pick: Ints, seconds: Floats) -> list[Stage]:
    """Heat by the share of each charge that lies in a stage; its losses by time are those of the
    charge, shared out alike."""
    warmed, lost, unseen = _parts(tank, found, pick, seconds)
    begin, end = found.begin[pick], found.end[pick]
    rows = []
    for k in range(len(STAGES) - 1):
        low, high = float(STAGES[k]), float(STAGES[k + 1])
        part = np.clip(np.minimum(end, high) - np.maximum(begin, low), 0.0, None)
        with np.errstate(invalid="ignore", divide="ignore"):
            share = np.where(end > begin, part / (end - begin), 0.0)
        heat = float((share * (warmed + lost + unseen / 2)).sum()) / KWH
        used = float(np.nansum(found.by_electricity[pick, k])) / KWH
        if used > CALORIMETER_LEAST_STAGE and float(part.sum()) >= CALORIMETER_LEAST_RISE * len(
            pick
        ):
            rows.append(Stage(low, high, used, heat, heat / used, int((part > 0).sum())))
    return rows
