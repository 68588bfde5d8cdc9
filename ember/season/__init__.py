"""What a season used, and what its weather says: daily values, the energy signature, degree-days.

In: a record analysis and a period. Out: `SeasonSeen`, with what is measured and what is filled. May
import: `ember.balance` and what stands before it.
"""

from ember.season.avoided import Avoided, Pair, avoided, days_alike
from ember.season.before_after import BeforeAfter, Changed, Worth, before_after
from ember.season.break_even import BreakEven, Crossing, break_even
from ember.season.degree_days import DegreeDays, by_daily_means, by_hours
from ember.season.hybrid import Hybrid, hybrid
from ember.season.normal_year import NormalYear, TemperatureBin, bins, normal_year
from ember.season.same_rooms import SameRooms, same_rooms
from ember.season.season import MonthSeen, SeasonSeen, season_seen
from ember.season.signature import Signature, signature
from ember.season.trial import (
    TrialDay,
    TrialPlan,
    TrialResult,
    days_needed,
    schedule,
    trial_result,
)

__all__ = [
    "Avoided",
    "BeforeAfter",
    "BreakEven",
    "Changed",
    "Crossing",
    "DegreeDays",
    "Hybrid",
    "MonthSeen",
    "NormalYear",
    "Pair",
    "SameRooms",
    "SeasonSeen",
    "Signature",
    "TemperatureBin",
    "TrialDay",
    "TrialPlan",
    "TrialResult",
    "Worth",
    "avoided",
    "before_after",
    "bins",
    "break_even",
    "by_daily_means",
    "by_hours",
    "days_alike",
    "days_needed",
    "hybrid",
    "normal_year",
    "same_rooms",
    "schedule",
    "season_seen",
    "signature",
    "trial_result",
]
