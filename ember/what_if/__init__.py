"""What a period would have used and cost with another setting, tariff or unit.

In: the events of a period (`Within`) and what is asked. Out: for each of it the electricity and the
money that it would have saved with U, on what that rests and what the rooms would feel; and all of
it together, nothing counted twice. May import: `ember.views`, `ember.cost` and what stands before.
"""

from ember.what_if.asked import Store, StoreKind, WhatIfAsked, asked_from_json
from ember.what_if.effect import UsePart, WhatIfCode, WhatIfEffect
from ember.what_if.together import WhatIf, what_if

__all__ = [
    "Store",
    "StoreKind",
    "UsePart",
    "WhatIf",
    "WhatIfAsked",
    "WhatIfCode",
    "WhatIfEffect",
    "asked_from_json",
    "what_if",
]
