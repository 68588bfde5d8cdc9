"""The site's own expected SPF: its weather, its curve, its load, the rated table."""

from dataclasses import dataclass

import numpy as np

from ember.basis.clock import HOUR
from ember.basis.codes import ReasonCode
from ember.messages import Reason, because
from ember.operation.within import Within
from ember.rated.scop import ScopBin, least_share, seasonal

SITE_LEAST_HOURS = 6  # in a bin, for it to be drawn
SITE_LEAST_SETTLED = 300.0  # [s]


@dataclass(frozen=True)
class Site:
    """Bins of one kelvin of the site's own heating.

    Attributes
    ----------
    spf : float | None
        Σ heat ÷ Σ electricity if as rated; measured : heat and electricity of the same hours [kWh]
    spf_measured : float | None
        their quotient.
    assumed_share : float
        of the heat in bins that the table does not reach.
    """

    reason: Reason | None
    spf: float | None
    spf_measured: float | None
    assumed_share: float
    bins: list[ScopBin]


def site(within: Within) -> Site:
    """Expected SPF of heating over a period, hot water apart.

    Source: bin method; load as measured in each bin, flow temperature as followed, common practice.
    """
    table = within.analysis.installation.rated
    of, inside = within.found.hours.of, within.hours()
    if table is None:
        return Site(because(ReasonCode.NO_TABLE), None, None, 0.0, [])
    if not table.gives_cop:
        return Site(because(ReasonCode.TABLE_WITHOUT_COP), None, None, 0.0, [])
    if within.analysis.cop_reason:
        return Site(within.analysis.cop_reason, None, None, 0.0, [])
    use = inside & (of["hot_water"] == 0) & (of["cooling"] == 0) & (of["unknown"] == 0)
    use &= np.isfinite(of["outdoor"]) & (of["given"] > 0)
    flow = of["flow"]
    known = use & np.isfinite(flow) & (of["settled"] >= SITE_LEAST_SETTLED)
    if known.sum() < 48:
        return Site(because(ReasonCode.TOO_LITTLE_SETTLED), None, None, 0.0, [])
    # The curve that is followed, for hours in which nothing settles.
    slope, at_zero = np.polyfit(of["outdoor"][known], flow[known], 1)
    flow = np.where(known, flow, at_zero + slope * of["outdoor"])
    label = np.floor(np.nan_to_num(of["outdoor"])).astype(np.int64)
    rows = []
    for bin_ in np.unique(label[use]).tolist():
        here = use & (label == bin_)
        if here.sum() < SITE_LEAST_HOURS:
            continue
        total = of["given"][here] + np.nan_to_num(of["heater"][here])
        rows.append(
            (
                float(of["outdoor"][here].mean()),
                float(here.sum()),
                float(total.mean()) / HOUR,
                float(np.average(flow[here], weights=np.maximum(of["given"][here], 1.0))),
            )
        )
    if not rows:
        return Site(because(ReasonCode.TOO_FEW_IN_BINS), None, None, 0.0, [])
    outdoor, hours, load, warm = (np.array(column) for column in zip(*rows, strict=True))
    bins = seasonal(table, outdoor, hours, load, warm, least_share(within.analysis.installation))
    heat, used = sum(b.heat for b in bins), sum(b.electricity for b in bins)
    given = float((of["given"][use] + np.nan_to_num(of["heater"][use])).sum())
    spent = float((of["used"][use] + np.nan_to_num(of["heater"][use])).sum())
    assumed = sum(b.heat for b in bins if b.assumed) / heat if heat else 0.0
    return Site(
        None, heat / used if used else None, given / spent if spent else None, assumed, bins
    )
