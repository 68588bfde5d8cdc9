"""Standard points of rated tables."""

from ember.description.installation import TableKind

POINTS_NEAR = 0.3  # within which a point is a standard one [K]
# EN 14511 names, and the outdoor points of North American ratings (47, 17 and 5 °F), from memory.
POINTS_WATER = {
    (o, w): f"A{o}/W{w}" for o in (-15, -7, 2, 7, 12) for w in (35, 45, 55, 65)
}  # fmt: skip
POINTS_GROUND = {(b, w): f"B{b}/W{w}" for b in (-5, 0, 5, 10) for w in (35, 45, 55, 65)}
POINTS_FAHRENHEIT = {8.33: "47 °F", -8.33: "17 °F", -15.0: "5 °F"}
POINTS_INDOOR = {20.0, 21.1}


def standard_point(kind: TableKind, outdoor: float, flow: float) -> str | None:
    """The name of a standard point at these temperatures [degC], None for another one.

    Source: EN 14511-2 (water and brine), North American rating points (air), from memory.
    """
    if kind == TableKind.AIR:
        if not any(abs(flow - indoor) <= POINTS_NEAR for indoor in POINTS_INDOOR):
            return None
        found = next(
            (n for t, n in POINTS_FAHRENHEIT.items() if abs(outdoor - t) <= POINTS_NEAR), None
        )
        if found is None and any(abs(outdoor - t) <= POINTS_NEAR for t in (-7, 2, 7, 12)):
            found = f"A{outdoor:.0f}/A{flow:.0f}"
        return found
    named = POINTS_GROUND if kind == TableKind.GROUND else POINTS_WATER
    return next(
        (
            n
            for (o, w), n in named.items()
            if abs(outdoor - o) <= POINTS_NEAR and abs(flow - w) <= POINTS_NEAR
        ),
        None,
    )
