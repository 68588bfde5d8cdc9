"""What can be claimed from a metering, over a period: the trust state."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from ember.basis.periods import Period
from ember.basis.quantity import Estimate
from ember.boundary import MeterCombination
from ember.boundary.combinations import why_none
from ember.description.installation import Consumer, Installation
from ember.messages import words_of
from ember.reckoning import Reckoning
from ember.states import Basis
from ember.trust.check import Affects, Check

say = words_of(__name__)

STATE_WIDE = 0.15  # U over the COP from which the limits are called wide, common practice, chosen


class TrustKind(StrEnum):
    """How far the metering of a period carries."""

    SOUND = "sound"
    WIDE = "wide limits"
    DOUBTFUL = "doubtful"
    COUNTS_ONLY = "counts only"  # heat or electricity is not to be believed, or not measured
    ELECTRICITY = "electricity only"
    NONE = "nothing"


@dataclass(frozen=True)
class Claim:
    """One thing that may be claimed, or not, and why."""

    what: str
    may: bool
    words: str


@dataclass(frozen=True)
class TrustState:
    """kind : in a word; brief, words : in a few, and in a line. claims : what may be claimed.
    addition : the cheapest thing that would allow more, None where nothing is lacking."""

    kind: TrustKind
    brief: str
    words: str
    claims: tuple[Claim, ...]
    addition: str | None


def trust_state(
    installation: Installation,
    combinations: Sequence[MeterCombination],
    checks: Sequence[Check],
    defrosts_by: Basis,
    period: Period,
    reckonings: Sequence[Reckoning],
    runs_known: bool,
    uncompared: str | None,
    used: Estimate | None,
) -> TrustState:
    """What can be claimed of a period.

    Parameters
    ----------
    checks : Sequence[Check]
        of the whole record; those count whose spans touch the period.
    reckonings : Sequence[Reckoning]
        of the period, at every level that can be computed.
    runs_known : bool
        whether it is told when the unit runs.
    uncompared : str | None
        why nothing is compared with a rated table, None where something is.
    used : Estimate | None
        all metered electricity, None where there is none.
    """
    here = [c for c in checks if c.unsound and _in_period(c, period)]
    doubts = {t: [c.name for c in here if t in c.affects] for t in Affects}
    widest = reckonings[-1] if reckonings else None
    claims = [_cop(widest, doubts, combinations)]
    claims.append(_energies(widest, doubts, used))
    claims.append(_counts(say("starts_run_lengths"), runs_known, doubts[Affects.COUNTS]))
    claims.append(
        _counts(say("defrost_counts"), defrosts_by != Basis.NOT_KNOWN, doubts[Affects.COUNTS])
    )
    if doubts[Affects.MOMENTS]:
        claims.append(
            Claim(
                say("single_minutes"),
                False,
                say("no_because", checks=_list(doubts[Affects.MOMENTS])),
            )
        )
    ill = doubts[Affects.CONDITIONS] + doubts[Affects.HEAT] + doubts[Affects.ELECTRICITY]
    words = say("not_while_doubt", checks=_list(ill)) if ill else uncompared or "yes"
    claims.append(Claim(say("comparison_rated_table"), not ill and not uncompared, words))
    standing = _standing(claims[0], claims[1], claims[2], widest, doubts)
    said = "; ".join(f"{c.what}: {c.words}" for c in claims[:2])
    counts = say("counts_yes") if claims[2].may else say("counts_no")
    brief = {
        TrustKind.DOUBTFUL: "doubtful",
        TrustKind.COUNTS_ONLY: say("no_cop_counts"),
        TrustKind.ELECTRICITY: say("no_cop_electricity"),
        TrustKind.NONE: say("no_cop"),
    }.get(standing, claims[0].words)
    return TrustState(
        standing, brief, f"{said}; {counts}", tuple(claims), _addition(installation, combinations)
    )


def _in_period(check: Check, period: Period) -> bool:
    return any(s.start < period.stop and s.stop > period.start for s in check.spans)


def _list(names: Sequence[str]) -> str:
    return ", ".join(dict.fromkeys(names))


def _cop(
    widest: Reckoning | None,
    doubts: dict[Affects, list[str]],
    combinations: Sequence[MeterCombination],
) -> Claim:
    if widest is None:
        why = why_none(combinations)
        return Claim("COP", False, say("no_why", why=why))
    what = say("cop_at", level=widest.level)
    if widest.cop is None:
        return Claim(what, False, say("no_level", reason=widest.reason))
    ill = doubts[Affects.HEAT] + doubts[Affects.ELECTRICITY]
    if ill:
        return Claim(what, False, say("doubt", checks=_list(ill)))
    return Claim(what, True, f"± {widest.cop.relative:.0%}")


def _energies(
    widest: Reckoning | None, doubts: dict[Affects, list[str]], used: Estimate | None
) -> Claim:
    kinds = [Affects.HEAT, Affects.ELECTRICITY, Affects.TOTALS]
    if widest is None or widest.heat is None:
        if used is None:
            return Claim("energies", False, "no")
        kinds.remove(Affects.HEAT)
    ill = [n for t in kinds for n in doubts[t]]
    if used is not None and not ill and (widest is None or widest.heat is None):
        return Claim("energies", True, say("electricity_alone", relative=used.relative))
    if ill or widest is None:
        return Claim("energies", False, say("doubt", checks=_list(ill)))
    return Claim("energies", True, say("yes_covered", coverage=widest.coverage))


def _counts(what: str, known: bool, doubts: Sequence[str]) -> Claim:
    if not known:
        return Claim(what, False, say("not_known_logged"))
    return Claim(what, not doubts, say("doubt", checks=_list(doubts)) if doubts else say("yes"))


def _standing(
    cop: Claim,
    energies: Claim,
    counts: Claim,
    widest: Reckoning | None,
    doubts: dict[Affects, list[str]],
) -> TrustKind:
    if cop.may and widest is not None and widest.cop is not None:
        return TrustKind.WIDE if widest.cop.relative > STATE_WIDE else TrustKind.SOUND
    if widest is not None and widest.cop is not None:
        return TrustKind.DOUBTFUL
    if counts.may:
        return TrustKind.COUNTS_ONLY
    return TrustKind.ELECTRICITY if energies.may else TrustKind.NONE


def _addition(installation: Installation, combinations: Sequence[MeterCombination]) -> str | None:
    """The cheapest addition that would allow a COP, or the next level."""
    open_ = [p for p in combinations if p.reason is not None]
    if not open_:
        return None
    if len(open_) < len(combinations):
        computed = [p.level for p in combinations if p.reason is None]
        combination = next((p for p in open_ if p.level > max(computed)), None)
        if combination is None:
            return None
        if Consumer.DISTRIBUTION_PUMP in combination.lacking:
            return say("plug_meter_circulation", level=combination.level)
        return say("for", level=combination.level, reason=combination.reason)
    if not (installation.circuits or installation.registers or installation.air):
        if installation.reported:
            return say("controller_heat_reported")
        return say("heat_not_measured")
    return f"{open_[0].reason}."
