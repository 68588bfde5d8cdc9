"""How much of the electricity came from own solar and a battery, and what a kWh of these costs."""

from collections.abc import Collection
from dataclasses import dataclass
from enum import StrEnum
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.calendar import months
from ember.basis.clock import HOUR
from ember.basis.series import Bools, Floats, Ints, Trace
from ember.boundary.combinations import all_metered, summed
from ember.description.installation import Installation
from ember.description.supply import BATTERY, GRID, Sharing, SolarWorth, Supply
from ember.messages import words_of
from ember.metering import MeterEnergies, electricity_of
from ember.reckoning import Segments

say = words_of(__name__)

# Sums of the segments: what own solar and the battery gave [J], of how much [J], and the cells in
# which the house's balance is known; and of the battery [J].
OWN_SOLAR, OWN_BATTERY, OWN_OF = "own solar", "own battery", "own of"
SUPPLY_KNOWN = "supply known"
CHARGED_SOLAR, CHARGED_GRID, DISCHARGED = "charged solar", "charged grid", "discharged"


class Own(StrEnum):
    """Own electricity, as its rows are named."""

    SOLAR = "own solar"
    BATTERY = "battery"


@dataclass(frozen=True)
class HouseFlows:
    """Where the electricity of a house came from, in stretches of equal length.

    Attributes
    ----------
    stretch : Ints
        array, (n,) Index of each cell's stretch.
    load, solar, battery : Floats
        arrays, (b,) All that the house used, and what of it own solar and the battery gave [J]; NaN
        where a reading lacks. The rest is the grid's.
    charged_solar, charged_grid, discharged : Floats
        arrays, (b,) Into the battery and out of it [J].
    """

    stretch: Ints
    load: Floats
    solar: Floats
    battery: Floats
    charged_solar: Floats
    charged_grid: Floats
    discharged: Floats

    @property
    def known(self) -> Bools:
        """Where everything is read, (b,)."""
        known: Bools = np.isfinite(self.load + self.solar + self.battery)
        return known


def house_flows(supply: Supply, trace: Trace, native: float) -> HouseFlows | None:
    """Where the electricity of a house came from.

    Parameters
    ----------
    native : float
        from one reading of the heat pump's meters to the next [s].

    Returns
    -------
    Own solar goes to the house first, then into the battery, then to the grid; the battery gives
    what the solar lacks, and the grid the rest. None where a channel is not logged or is read less
    than once an hour: within longer stretches nobody can tell whether the heat pump ran while the
    sun shone.

    Source: balance of the house's energy; its order is common practice.
    """
    if not all(channel in trace for channel in supply.channels):
        return None
    native = max(native, *(trace.native_of(channel) for channel in supply.channels))
    width = int(-(-max(native, trace.step) // trace.step) * trace.step)
    if width > HOUR:
        return None
    at = (trace.start + np.arange(len(trace)) * trace.step) // width
    begins = np.flatnonzero(np.diff(at, prepend=at[0] - 1))
    stretch = at - at[0]

    def flow(channel: str | None, sign: float = 1.0) -> Floats | None:
        if channel is None:
            return None
        if channel.partition(":")[0] in (GRID, BATTERY):
            energy = trace[channel] * (sign * trace.step)
        else:
            energy = electricity_of(channel, channel, trace).energy
        found: Floats = np.add.reduceat(np.maximum(energy, 0.0), begins)
        return found

    load, taken = flow(supply.house_load), flow(supply.grid_import)
    given, made = flow(supply.grid_export, -1.0), flow(supply.solar)
    none = np.zeros(len(begins))
    into, out = flow(supply.battery_charge, -1.0), flow(supply.battery_discharge)
    into, out = none if into is None else into, none if out is None else out
    if made is None:
        assert load is not None and taken is not None  # the description asks for both
        return HouseFlows(stretch, load, np.maximum(load - taken, 0.0), none, none, none, none)
    if load is None:
        assert taken is not None and given is not None  # the description asks for both
        load = np.maximum(taken + made + out - given - into, 0.0)
    if given is None:
        given = np.maximum(made + out - load - into, 0.0)
    stayed = np.maximum(made - given, 0.0)
    solar = np.minimum(load, stayed)
    charged_solar = np.minimum(into, stayed - solar)
    return HouseFlows(
        stretch,
        load,
        solar,
        np.minimum(out, load - solar),
        charged_solar,
        into - charged_solar,
        out,
    )


def _own(flows: HouseFlows, used: Floats, sharing: Sharing) -> tuple[Floats, Floats]:
    """Own solar and battery of the heat pump in each stretch, as shares of what it used, (b,)."""
    others = np.maximum(flows.load - used, 0.0)
    match sharing:
        case Sharing.PROPORTIONAL:
            of, solar, battery = flows.load, flows.solar, flows.battery
        case Sharing.OTHERS_FIRST:
            left = np.maximum(others - flows.solar, 0.0)
            of, solar = used, np.maximum(flows.solar - others, 0.0)
            battery = np.maximum(flows.battery - left, 0.0)
        case Sharing.HEAT_PUMP_FIRST:
            of, solar, battery = used, flows.solar, flows.battery
    with np.errstate(invalid="ignore", divide="ignore"):
        by_sun = np.clip(np.where(of > 0, solar / of, 0.0), 0.0, 1.0)
        by_battery = np.clip(np.where(of > 0, battery / of, 0.0), 0.0, 1.0 - by_sun)
    unknown = ~(flows.known & np.isfinite(used))
    by_sun[unknown] = by_battery[unknown] = np.nan
    return by_sun, by_battery


def supply_sums(
    installation: Installation, trace: Trace, meter_energies: MeterEnergies
) -> dict[str, Floats]:
    """What is summed of own solar and battery, arrays (n,) [J], `SUPPLY_KNOWN` in cells; nothing
    where none is described or its readings do not tell."""
    supply = installation.supply
    if supply is None:
        return {}
    shares = all_metered(installation, meter_energies)
    used = summed(shares, meter_energies.energy)
    if used is None:
        return {}
    native = max(meter_energies.electricity[name].native for _, name in shares)
    flows = house_flows(supply, trace, native)
    if flows is None:
        return {}
    count = len(flows.load)
    mine: Floats = np.bincount(flows.stretch, used, count).astype(np.float64)
    by_sun, by_battery = (share[flows.stretch] for share in _own(flows, mine, supply.sharing))
    known = np.isfinite(by_sun)
    found = {
        OWN_SOLAR: np.where(known, used * by_sun, 0.0),
        OWN_BATTERY: np.where(known, used * by_battery, 0.0),
        OWN_OF: np.where(known, used, 0.0),
        SUPPLY_KNOWN: known.astype(np.float64),
    }
    if supply.battery_charge is not None:
        cells = np.bincount(flows.stretch)
        for name, flow in (
            (CHARGED_SOLAR, flows.charged_solar),
            (CHARGED_GRID, flows.charged_grid),
            (DISCHARGED, flows.discharged),
        ):
            found[name] = np.nan_to_num(flow / cells)[flows.stretch]
    return found


def own_told(supply: Supply | None, segments: Segments) -> bool:
    """Whether the readings tell how much of the electricity was own; so where none is described."""
    return supply is None or SUPPLY_KNOWN in segments.sums


def supply_said(
    installation: Installation, channels: Collection[str], segments: Segments
) -> str | None:
    """How own electricity is priced, or why the readings do not tell how much there was; None where
    no supply is described.

    Parameters
    ----------
    channels : Collection[str]
        of the record.
    """
    supply = installation.supply
    if supply is None:
        return None
    if not own_told(supply, segments):
        absent = [channel for channel in supply.channels if channel not in channels]
        return say("not_logged", channels=", ".join(absent)) if absent else say("too_seldom")
    worth = say("at_export") if supply.solar_worth == SolarWorth.EXPORT else say("at_nothing")
    match supply.sharing:
        case Sharing.PROPORTIONAL:
            shared = say("mix")
        case Sharing.OTHERS_FIRST:
            shared = say("others_first")
        case Sharing.HEAT_PUMP_FIRST:
            shared = say("heat_pump_first")
    efficiency = battery_efficiency(segments)
    battery = "" if efficiency is None else say("battery", efficiency=efficiency)
    return " ".join(part for part in (worth, shared, battery) if part)


@dataclass(frozen=True)
class OwnSupply:
    """Own electricity of each segment.

    Attributes
    ----------
    solar, battery : Floats
        arrays, (m,) Share of the electricity.
    known : Bools
        array, (m,) Where the balance of the house is.
    solar_price, battery_price : Floats
        arrays, (m,) per kWh.
    """

    solar: Floats
    battery: Floats
    known: Bools
    solar_price: Floats
    battery_price: Floats


def own_supply(
    supply: Supply, segments: Segments, price: Floats, export: Floats, zone: ZoneInfo
) -> OwnSupply | None:
    """Own electricity of each segment and its price; None where the readings do not tell.

    Parameters
    ----------
    price, export : Floats
        arrays, (m,) Of the grid's electricity with VAT, and of what is given to it, per kWh.

    Returns
    -------
    Solar at the export price forgone, or at nothing; a kWh out of the battery at what the charge of
    its calendar month cost, its losses counted over the whole record.

    Source: opportunity cost of own use, common practice.
    """
    sums = segments.sums
    if SUPPLY_KNOWN not in sums:
        return None
    worth = export if supply.solar_worth == SolarWorth.EXPORT else np.zeros(len(export))
    known = sums[SUPPLY_KNOWN] > 0
    battery, efficiency = np.zeros(len(worth)), battery_efficiency(segments)
    if efficiency:
        charged = sums[CHARGED_SOLAR] + sums[CHARGED_GRID]
        paid = sums[CHARGED_SOLAR] * worth + sums[CHARGED_GRID] * np.nan_to_num(price)
        battery = _by_month(segments, paid, charged, zone) / efficiency
    by_sun, by_battery = own_shares(segments)
    return OwnSupply(by_sun, by_battery, known, worth, battery)


def battery_efficiency(segments: Segments) -> float | None:
    """What came out of a battery for what went in, over the record; None where nothing went in."""
    sums = segments.sums
    if DISCHARGED not in sums:
        return None
    charged = float((sums[CHARGED_SOLAR] + sums[CHARGED_GRID]).sum())
    return min(float(sums[DISCHARGED].sum()) / charged, 1.0) if charged else None


def own_shares(segments: Segments) -> tuple[Floats, Floats]:
    """Share of own solar and of the battery in the electricity of each segment, (m,) each; zeros
    where none is described or known."""
    sums, none = segments.sums, np.zeros(len(segments.state))
    if SUPPLY_KNOWN not in sums:
        return none, none
    of = np.where(sums[OWN_OF] > 0, sums[OWN_OF], np.inf)
    return sums[OWN_SOLAR] / of, sums[OWN_BATTERY] / of


def _by_month(segments: Segments, paid: Floats, charged: Floats, zone: ZoneInfo) -> Floats:
    """Money by energy of each calendar month, at its segments, (m,); of the whole record where a
    month has none."""
    begins = segments.begins
    stop = float(segments.start + segments.edges[-1] * segments.step)
    starts = np.array([month.start for month in months(float(begins[0]), stop, zone)])
    month = np.clip(np.searchsorted(starts, begins, side="right") - 1, 0, None)
    money, energy = np.bincount(month, paid), np.bincount(month, charged)
    mean = np.full(len(energy), paid.sum() / charged.sum())
    np.divide(money, energy, out=mean, where=energy > 0)
    found: Floats = mean[month]
    return found
