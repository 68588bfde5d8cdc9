"""Ratios that betray a mistake of unit, phase or pulse value."""

from ember.messages import words_of

say = words_of(__name__)

# Handbook of the trade, trust: ratios and what they are between.
MISTAKES = {
    3.6: "kwh_mj",
    1000.0: "w_kw",
    0.2778: "mj_kwh",
    60.0: "minutes_hours",
    16.67: "litres_cubic_metres",
    3.785: "gallons_litres",
    3.412: "btu_watts",
    1.163: "kcal_wh",
    1.8: "fahrenheit_kelvin",
    2.0: "one_of_two_legs",
    3.0: "one_of_three_phases",
    1.5: "two_of_three_phases",
    10.0: "pulse_value",
    12.0: "kbtu_tons",
}
RATIOS_NEAR = 0.03  # as a share


def named(ratio: float, width: float = RATIOS_NEAR) -> tuple[float, str] | None:
    """The ratio among the mistakes that this one, or its inverse, is nearest to, and its words.

    Returns the factor by which what is too large must be divided, at least 1, or None.
    """
    up = ratio if ratio >= 1 else 1 / ratio
    off = {m: abs(up / m - 1) for m in MISTAKES if m > 1}
    best = min(off, key=lambda m: off[m])
    return (best, say(MISTAKES[best])) if off[best] < width else None
