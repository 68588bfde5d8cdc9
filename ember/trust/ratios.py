"""Ratios that betray a mistake of unit, phase or pulse value."""

# Handbook of the trade, trust: ratios and what they are between.
MISTAKES = {
    3.6: "kWh and MJ",
    1000.0: "W and kW",
    0.2778: "MJ and kWh",
    60.0: "minutes and hours, or seconds",
    16.67: "L/min and m³/h",
    3.785: "US gallons and litres",
    3.412: "Btu/h and W",
    1.163: "kcal and Wh",
    1.8: "°F and K",
    2.0: "one of two legs, or a pulse value",
    3.0: "one of three phases",
    1.5: "two of three phases",
    10.0: "a pulse value",
    12.0: "thousands of Btu/h and tons",
}
RATIOS_NEAR = 0.03  # as a share


def named(ratio: float, width: float = RATIOS_NEAR) -> tuple[float, str] | None:
    """The ratio among the mistakes that this one, or its inverse, is nearest to, and its words.

    Returns the factor by which what is too large must be divided, at least 1, or None.
    """
    up = ratio if ratio >= 1 else 1 / ratio
    off = {m: abs(up / m - 1) for m in MISTAKES if m > 1}
    best = min(off, key=lambda m: off[m])
    return (best, MISTAKES[best]) if off[best] < width else None
