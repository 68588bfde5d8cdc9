"""What a new entry of a description begins with, and a meter for what a log holds."""

import re
from collections.abc import Sequence
from datetime import time
from itertools import chain, count
from typing import Any

import orjson
from pydantic import TypeAdapter

from ember.basis.channels import quantity_of
from ember.basis.errors import DescriptionError
from ember.description.as_json import installation_from_json, installation_to_json
from ember.description.installation import Installation, channels_of
from ember.description.logged import HandKind, HandSeries, Sensor
from ember.description.meters import (
    AirCircuit,
    Consumer,
    ElectricityMeter,
    FixedPower,
    HeatRegister,
    ReportedHeat,
    SourceYield,
    WaterCircuit,
)
from ember.description.supply import GRID, Supply
from ember.description.tariff import Band, ByTheHour, Tariff, Tier

# By the list of the description that it is added to. Consumers of a meter, and the meter of a
# column, are for the analyst to say: `BLANK` takes out what stands here in their place.
FRESH: dict[str, Any] = {
    "electricity": ElectricityMeter("meter", "power:meter", (Consumer.COMPRESSOR,)),
    "circuits": WaterCircuit("heat meter"),
    "registers": HeatRegister("heat register"),
    "air": AirCircuit("air side", nominal_m3h=1000.0),
    "reported": ReportedHeat("controller"),
    "yields": SourceYield("source yield"),
    "fixed": FixedPower("pump", (Consumer.DISTRIBUTION_PUMP,), watts=45.0),
    "sensors": Sensor("room_temp", 0.5),
    "by_hand": HandSeries("column", HandKind.ELECTRICITY, "kWh", "meter"),
    "supply": Supply(grid_import=GRID, grid_export=GRID, solar="power:solar"),
    "tariff": Tariff(0.30),
    "tariff.bands": Band("night", 0.20, time(23), time(7)),
    "tariff.tiers": Tier(300.0, 0.05),
    "tariff.by_the_hour": ByTheHour(),
}
BLANK: dict[str, dict[str, Any]] = {"electricity": {"includes": []}, "by_hand": {"meter": None}}


def fresh() -> dict[str, dict[str, Any]]:
    """The JSON of a new entry, by the list that it is added to.

    Source: the pump's 45 W, common practice; prices are there to be written over; all else the
    defaults of the kinds.
    """
    return {
        name: TypeAdapter(type(entry)).dump_python(entry, mode="json") | BLANK.get(name, {})
        for name, entry in FRESH.items()
    }


# What of a log is a meter's, and in which list its meter is described.
METERS = {
    "power": "electricity",
    "energy": "electricity",
    "heat_energy": "registers",
    "heat_power": "reported",
    "environmental_yield": "yields",
    "flow_rate": "circuits",
}


def meter_list(channel: str) -> str | None:
    """The list of a description where the meter of a channel stands; None for what needs none."""
    return METERS.get(quantity_of(channel).name)


def with_meter(
    installation: Installation, channel: str, name: str, includes: Sequence[str] = ()
) -> tuple[Installation, str]:
    """The description with a meter that reads a channel.

    Parameters
    ----------
    channel : str
        what is logged, as in docs/formats.md. Where another meter reads it already, the new one
        reads a channel of its own, labelled by its name.
    name : str
        what the meter is called.
    includes : Sequence[str]
        consumers behind an electricity meter, sources behind a heat meter; empty: as a new entry
        has them.

    Returns
    -------
    tuple[Installation, str]
        and the channel that the meter reads.

    Raises
    ------
    DescriptionError
        naming the field that is wrong.
    """
    where = meter_list(channel)
    if where is None:
        raise DescriptionError(f"channel: '{channel}' is no meter's.", "channel")
    name = name.strip()
    if name in {one.name for one in getattr(installation, where)}:
        raise DescriptionError(f"name: there is a meter called '{name}' already.", "name")
    taken = channels_of(installation)
    if channel in taken:
        label = re.sub(r"\W+", "_", name.lower()).strip("_") or "meter"
        own = f"{channel.partition(':')[0]}:{label}"
        channel = next(c for c in chain([own], (f"{own}_{k}" for k in count(2))) if c not in taken)
    entry = fresh()[where] | {"name": name}
    entry["flow_rate" if where == "circuits" else "channel"] = channel
    if includes:
        entry["includes"] = list(includes)
    if "includes" in entry and not entry["includes"]:
        raise DescriptionError("includes: say what the meter holds.", "includes")
    if where == "circuits" and (label := channel.partition(":")[2]):
        entry |= {"flow_temp": f"flow_temp:{label}", "return_temp": f"return_temp:{label}"}
    described = orjson.loads(installation_to_json(installation))
    described[where] = [*described[where], entry]
    return installation_from_json(orjson.dumps(described), installation.name), channel
