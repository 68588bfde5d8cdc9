"""What may stand beside a season of heating alone: SCOP, and what the table expects here."""

from dataclasses import dataclass

from ember.comparison.site import site
from ember.description.installation import TableKind
from ember.messages import words_of
from ember.operation.within import Within
from ember.rated import LEVELS, Climate, scop, scop_declared
from ember.rated.scop import least_share

say = words_of(__name__)


@dataclass(frozen=True)
class Peer:
    """A seasonal figure that is calculated, not measured here.

    Attributes
    ----------
    what : str
        its name: SCOP, SCOP estimate, expected SPF.
    words : str
        of what it is.
    value : float
    """

    what: str
    words: str
    value: float


def peers(within: Within) -> list[Peer]:
    """Figures beside the season of heating alone, nearest first.

    SCOP is only what comes of declared points (EN 14825); from a table it is an estimate, offered
    at the level of flow temperature that the described house needs.
    """
    installation = within.analysis.installation
    found = []
    here = site(within)
    if here.spf is not None:
        found.append(Peer(say("expected"), say("expected_words"), here.spf))
    if installation.declared is not None:
        declared = scop_declared(installation.declared)
        value = declared.scop if declared.scop is not None else declared.on
        if value is not None:
            found.append(Peer("SCOP", say("declared_words", name=declared.name), value))
    table, flow = installation.rated, installation.house.design_flow
    fits = table is not None and table.gives_cop and table.gives_capacity
    if fits and table is not None and table.kind == TableKind.WATER and flow is not None:
        level = next((one for one in LEVELS if one >= flow), LEVELS[-1])
        estimate = scop(table, Climate.AVERAGE, level, least_share=least_share(installation))
        if estimate.on is not None and estimate.reason is None:
            found.append(Peer(say("estimate"), say("estimate_words", level=level), estimate.on))
    return found
