"""The plain notebook: the same questions as an analyst would answer them with pandas.

Written straightforwardly and with care, as somebody who knows pandas well does for one system:
vectorised, no row loops but over runs' groups, one cell after the other. No uncertainty beyond
one line for the COP, no proofs, no report.
"""

from typing import Any

import numpy as np
import pandas as pd
from scipy.interpolate import RegularGridInterpolator

from ember.rated.surface import Surface


def frame(columns: dict[str, Any], start: int, step: int) -> pd.DataFrame:
    """The log as a data frame in the logger's units."""
    n = len(next(iter(columns.values())))
    index = pd.to_datetime(start + step * np.arange(n), unit="s", utc=True)
    return pd.DataFrame(columns, index=index)


def notebook(log: pd.DataFrame, shape: Surface, zone: str) -> dict[str, Any]:
    """Heat, COP by level and month, states, starts, defrosts, performance ratio, cost, checks."""
    df = log.tz_convert(zone)
    index = df.index
    assert isinstance(index, pd.DatetimeIndex)
    hours = 1 / 60

    # Heat: density by the return temperature, heat capacity at the mean.
    rho = 1000.6 - 0.07 * df.return_temp - 3.6e-3 * df.return_temp**2
    df["delta"] = df.flow_temp - df.return_temp
    df["heat_kw"] = df.flow_rate / 60000 * rho * 4.18 * df.delta
    df["heat_kwh"] = df.heat_kw * hours
    for name in ("unit", "pump", "backup"):
        df[f"{name}_kwh"] = df[f"power_{name}"] / 1000 * hours

    # States.
    on = df.power_unit > 0.1 * df.power_unit[df.power_unit > 60].quantile(0.95)
    run = (on != on.shift()).cumsum()
    since = df.groupby(run).cumcount()
    state = pd.Series("standby", index=df.index)
    state[(df.flow_rate > 1) & ~on] = "overrun"
    state[on] = "heating"
    state[on & (since < 10)] = "start-up"
    state[on & (df.hot_water_on > 0.5)] = "hot water"
    falling = df.flow_temp.rolling(6).max() - df.flow_temp > 1.5
    defrost = (df.delta < -0.5) & (df.flow_rate > 1) & (df.outdoor_temp < 12) & (since > 10)
    state[defrost & falling & (df.hot_water_on < 0.5)] = "defrost"
    df["state"] = state.astype("category")

    # Sums by month and state, COP by level.
    df["month"] = index.strftime("%Y-%m")
    energies = ["heat_kwh", "unit_kwh", "pump_kwh", "backup_kwh"]
    table = df.groupby(["month", "state"], observed=True)[energies].sum()
    months = table.groupby("month").sum()
    months["cop_h2"] = (months.heat_kwh - months.backup_kwh) / months.unit_kwh
    months["cop_h3"] = months.heat_kwh / (months.unit_kwh + months.backup_kwh)
    months["cop_h4"] = months.heat_kwh / months[energies[1:]].sum(axis=1)
    total = df[energies].sum()
    cop = total.heat_kwh / total[energies[1:]].sum()
    u = cop * np.sqrt(0.03**2 + 0.03**2 + 0.012**2)

    # Runs and defrosts.
    runs = (
        df[on]
        .groupby(run[on])
        .agg(
            begin=("heat_kwh", lambda part: part.index[0]),
            minutes=("heat_kwh", "size"),
            heat=("heat_kwh", "sum"),
            unit=("unit_kwh", "sum"),
        )
    )
    edges = (df.state == "defrost") & (df.state.shift() != "defrost")
    defrosts = df.index[edges]
    intervals = pd.Series(defrosts).diff().median()

    # Against the rated table.
    steady = df[df.state == "heating"]
    share = RegularGridInterpolator(
        (shape.outdoor, shape.flow), shape.share, bounds_error=False, fill_value=np.nan
    )
    at = steady[["outdoor_temp", "flow_temp"]].to_numpy()
    lift = (steady.flow_temp - steady.outdoor_temp).clip(lower=10)
    rated = share(at) * (steady.flow_temp + 273.15) / lift
    inside = rated.notna()
    ratio = steady.heat_kwh[inside].sum() / (steady.unit_kwh * rated)[inside].sum()

    # Cost.
    clock = index.hour + index.minute / 60
    price = np.where((clock >= 23.5) | (clock < 5.5), 0.17, 0.31)
    spent = df.unit_kwh + df.pump_kwh + df.backup_kwh
    cost = (spent * price).groupby(df.month).sum()

    # Checks.
    settled = df[df.state.isin(["heating", "hot water"])]
    days = index[df.state.isin(["heating", "hot water"])].date
    jump = settled.flow_rate.diff().abs()
    scatter = jump.groupby(days).mean() / settled.flow_rate.groupby(days).mean()
    negative = (settled.delta < -0.3).mean()
    register = df.heat_energy.diff()
    agreement = register[register > 0].sum() / df.heat_kwh.clip(lower=0).sum()
    ill = [
        int((df[name].diff().eq(0).groupby(df[name].diff().ne(0).cumsum()).sum() > 180).sum())
        for name in ("flow_temp", "return_temp")
    ]
    ill += [int((df[n].diff().gt(25) & df[n].diff(-1).gt(25)).sum()) for n in ("flow_temp",)]
    ill.append(int((register < 0).sum()))
    rest = df[~on & (df.flow_rate > 1)]
    offset = np.polyfit(rest.flow_temp - 20, rest.delta, 1)[1]
    power, heat = (df[n].resample("5min").mean().diff() for n in ("power_unit", "heat_kw"))
    lags = [power.corr(heat.shift(-k)) for k in range(-12, 13)]
    profile = df.unit_kwh.groupby(index.hour).sum() / df.heat_kwh.groupby(index.hour).sum()
    standby = df.power_unit[~on].quantile(0.25)
    sun = df.outdoor_temp.resample("10min").mean().diff(3).gt(2.5).groupby(lambda t: t.date()).any()
    return {
        "cop": cop,
        "u": u,
        "months": months,
        "table": table,
        "starts": len(runs),
        "run_minutes": runs.minutes.median(),
        "defrosts": len(defrosts),
        "interval": intervals,
        "ratio": ratio,
        "cost": cost,
        "scatter": (scatter > 0.08).sum(),
        "negative": negative,
        "agreement": agreement,
        "ill": ill,
        "offset": offset,
        "lag": int(np.argmax(lags)) - 12,
        "profile": profile,
        "standby": standby,
        "sun": int(sun.sum()),
    }
