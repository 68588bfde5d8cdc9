"""What feeds the house besides the grid: its own solar, a battery, and what is metered of them."""

from enum import StrEnum

from pydantic import ConfigDict
from pydantic.dataclasses import dataclass

from ember.basis.errors import DescriptionError
from ember.description.house import Words

_strict = ConfigDict(extra="forbid", allow_inf_nan=False)


class SolarWorth(StrEnum):
    """What a kWh of own solar that is used is priced at."""

    EXPORT = "export"  # the export price forgone
    NOTHING = "nothing"


class Sharing(StrEnum):
    """To whom own electricity goes while others use some too."""

    PROPORTIONAL = "proportional"  # each has the mix of the house
    OTHERS_FIRST = "others_first"  # the heat pump has what the others leave
    HEAT_PUMP_FIRST = "heat_pump_first"


GRID, BATTERY = "grid_power", "battery_power"  # signed: from the grid, out of the battery


@dataclass(frozen=True, config=_strict)
class Supply:
    """Channels of the house's supply, each power or a register; `grid_power` and `battery_power`
    have a sign and may stand for both directions.

    Attributes
    ----------
    grid_import, grid_export : Words | None
        from and to the grid.
    solar : Words | None
        what the panels make.
    battery_charge, battery_discharge : Words | None
        into the battery and out of it.
    house_load : Words | None
        all that the house uses, the heat pump with it.
    solar_worth : SolarWorth
        price of own solar.
    sharing : Sharing
        to whom it goes.
    """

    grid_import: Words | None = None
    grid_export: Words | None = None
    solar: Words | None = None
    battery_charge: Words | None = None
    battery_discharge: Words | None = None
    house_load: Words | None = None
    solar_worth: SolarWorth = SolarWorth.EXPORT
    sharing: Sharing = Sharing.PROPORTIONAL

    def __post_init__(self) -> None:
        if (self.battery_charge is None) != (self.battery_discharge is None):
            raise DescriptionError(
                "a battery needs both what goes in and what comes out; a channel "
                f"'{BATTERY}' may stand for both."
            )
        by_balance = self.grid_import is not None and self.grid_export is not None
        if self.solar is not None and self.house_load is None and not by_balance:
            raise DescriptionError(
                "beside the solar name what the house uses, or what it takes from the grid and "
                "gives back; without, nobody can tell how much of the solar was used."
            )
        if self.solar is None and (self.house_load is None or self.grid_import is None):
            raise DescriptionError(
                "name the solar, or what the house uses and what it takes from the grid."
            )
        if self.battery_charge is not None and self.solar is None:
            raise DescriptionError("beside a battery name the solar that charges it.")

    @property
    def channels(self) -> tuple[str, ...]:
        """Those that are named, each once."""
        named = (getattr(self, field) for field in SUPPLY_CHANNELS)
        return tuple(dict.fromkeys(channel for channel in named if channel is not None))


# Channels by field, and the quantity with a sign that it may be besides power or a register.
SUPPLY_CHANNELS = {
    "grid_import": GRID,
    "grid_export": GRID,
    "solar": None,
    "battery_charge": BATTERY,
    "battery_discharge": BATTERY,
    "house_load": None,
}
