"""Limits of the verdicts and findings: settings, each with its default and its source.

A limit is the analyst's to change; the description of the installation carries what she changed.
"""

from dataclasses import dataclass as plain
from typing import Annotated

from pydantic import ConfigDict, Field
from pydantic.dataclasses import dataclass

Positive = Annotated[float, Field(gt=0, le=1e9)]
Portion = Annotated[float, Field(gt=0, le=1)]
CP = "common practice"


@dataclass(frozen=True, config=ConfigDict(extra="forbid", allow_inf_nan=False))
class Thresholds:
    """Limits; what each means is in LIMITS. Defaults: common practice."""

    below_rated: Positive = 0.90
    wide_limits: Positive = 0.80
    too_good: Positive = 1.15
    too_good_part_load: Positive = 1.30
    action_share: Portion = 0.02
    uneven: Portion = 0.90
    change: Portion = 0.06
    capacity: Portion = 0.90
    oversized: Positive = 1.6
    starts_an_hour: Positive = 6.0
    short_runs: Portion = 0.25
    defrost_interval: Positive = 40.0
    defrost_share: Portion = 0.25
    flow_above: Positive = 4.0
    delta_wide: Positive = 10.0
    delta_narrow: Positive = 3.0
    swing: Portion = 0.12
    blending: Positive = 2.0
    heater_share: Portion = 0.02
    tank_hot: Positive = 55.0
    charges_a_day: Positive = 5.0
    standby: Positive = 50.0
    pump_idle: Portion = 0.15
    room_below: Portion = 0.10
    glycol_least: Portion = 0.20


@plain(frozen=True)
class Limit:
    """What a threshold means. unit : of the closed list, empty for a ratio."""

    name: str
    words: str
    unit: str
    source: str = CP


THRESHOLDS_LIMITS = (
    Limit("below_rated", "performance ratio below which a unit is below rated", ""),
    Limit("wide_limits", "PR − U from which “as rated” is said plainly", ""),
    Limit("too_good", "PR − U above which a unit is too good", ""),
    Limit("too_good_part_load", "the same, one-speed table of a variable-speed unit", ""),
    Limit("action_share", "share of the electricity that calls for action", "fraction"),
    Limit("uneven", "PR of a part of the conditions over that of the rest", ""),
    Limit("change", "step of the performance ratio at a date", ""),
    Limit("capacity", "capacity at the limit over the rated one", ""),
    Limit("oversized", "rated capacity over the load, at the design temperature", ""),
    Limit("starts_an_hour", "starts within an hour that are a fault", ""),
    Limit("short_runs", "share of runs under ten minutes", "fraction"),
    Limit("defrost_interval", "minutes of running between defrosts that are heavy", "minute"),
    Limit("defrost_share", "share of the defrosts from which a fault is spoken of", "fraction"),
    Limit("flow_above", "flow temperature above what the house needs", "kelvin"),
    Limit("delta_wide", "ΔT above which the flow is too little", "kelvin"),
    Limit("delta_narrow", "ΔT at full load below which it is too much", "kelvin"),
    Limit("swing", "swing of the flow within an hour, over its mean", "fraction"),
    Limit("blending", "primary less secondary flow temperature", "kelvin"),
    Limit("heater_share", "share of the electricity used by heaters without need", "fraction"),
    Limit("tank_hot", "tank temperature above which hot water is called hot", "degC"),
    Limit("charges_a_day", "reheats of the tank in a day", ""),
    Limit("standby", "power at rest, crankcase heater apart", "watt"),
    Limit("pump_idle", "share of the time with pumps running and nothing made", "fraction"),
    Limit("room_below", "share of the waking hours with the room 1 K too cold", "fraction"),
    Limit("glycol_least", "antifreeze by mass, below which inhibitor and frost protection fail",
          "fraction"),
)  # fmt: skip
