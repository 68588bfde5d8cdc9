"""What one of the things asked would have done."""

from dataclasses import dataclass
from enum import StrEnum

from ember.basis.quantity import Estimate
from ember.messages import Reason


class UsePart(StrEnum):
    """A part of the electricity; none of it stands in two."""

    HEATING = "heating"
    HOT_WATER = "hot_water"
    HEATERS = "heaters"
    REST = "rest"


class WhatIfCode(StrEnum):
    """What is asked."""

    UNIT = "unit"
    FLOW = "flow"
    STARTS = "starts"
    DEFROSTS = "defrosts"
    HOT_WATER = "hot_water"
    HEATERS = "heaters"
    STORE = "store"
    TARIFF = "tariff"
    TOGETHER = "together"


@dataclass(frozen=True)
class WhatIfEffect:
    """What one of it would have saved in the period.

    Attributes
    ----------
    code : WhatIfCode
        which
    name : str
        in words.
    formula : str
        how it is worked out.
    electricity : Estimate | None
        saved [kWh]; negative where more would be used.
    money : Estimate | None
        saved; None without a tariff.
    assumptions : tuple[str, ...]
        on which it rests.
    comfort : tuple[str, ...]
        what the house would feel, cautions among it.
    reason : Reason | None
        why it cannot be told.
    part : UsePart | None
        of the electricity that it makes less; None where it moves or prices all.
    """

    code: WhatIfCode
    name: str
    formula: str
    electricity: Estimate | None
    money: Estimate | None
    assumptions: tuple[str, ...]
    comfort: tuple[str, ...]
    reason: Reason | None
    part: UsePart | None
