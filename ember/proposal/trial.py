"""A description on trial: whether the analysis can work with it, before it is stored.

What pydantic checks field by field may still not fit together, or hold a table that spans no area.
So the whole road is walked once, over two days of made-up readings of a plant that does what plants
do. Nothing of the result is used but whether there is one.
"""

import numpy as np

from ember.assessment.assess import assess
from ember.basis.channels import Kind, quantity_of
from ember.basis.errors import DescriptionError, EmberError
from ember.basis.series import Floats, Trace
from ember.boundary.combinations import takes_part
from ember.description.declared import Declared
from ember.description.installation import Installation, channels_of
from ember.rated.declared import scop_declared
from ember.rated.surface import surface

START, TRIAL_STEP, CELLS = 1_767_225_600, 300, 576  # 2026-01-01, [s], two days
PERIOD = 24  # cells of one run and the pause behind it
# While it runs and while it rests, in the core's units; what is not here is in the middle of its
# range. Common practice.
TRIAL_USUAL = {
    "flow_temp": (38.0, 30.0), "return_temp": (33.0, 29.5), "flow_rate": (3e-4, 0.0),
    "tank_temp": (48.0, 47.0), "room_temp": (21.0, 20.5), "power": (1800.0, 12.0),
    "heat_power": (6300.0, 0.0), "source_temp": (3.0, 5.0), "supply_air_temp": (38.0, 22.0),
    "return_air_temp": (21.0, 20.5), "airflow": (0.2, 0.05), "discharge_temp": (72.0, 30.0),
    "suction_temp": (2.0, 10.0), "superheat": (6.0, 0.0), "subcooling": (4.0, 0.0),
    "evaporating_pressure": (6e5, 8e5), "condensing_pressure": (2e6, 9e5),
    "compressor_speed": (55.0, 0.0), "fan_speed": (12.0, 0.0), "compressor_on": (1.0, 0.0),
    "hot_water_on": (0.0, 0.0), "cooling_on": (0.0, 0.0), "defrost_on": (0.0, 0.0),
    "solar_radiation": (100.0, 0.0),
}  # fmt: skip
GAIN = {"water_volume": 0.09, "energy": 5e5, "heat_energy": 1.9e6, "environmental_yield": 1.4e6}


def tried(installation: Installation) -> None:
    """Raises DescriptionError where the analysis would refuse or fail with a description."""
    if installation.rated is not None:
        for speed in installation.rated.speeds:
            surface(installation.rated, speed)
    if isinstance(installation.declared, Declared):
        scop_declared(installation.declared)
    takes_part(installation)
    try:
        assess(installation, _readings(installation))
    except EmberError:
        raise
    except (ArithmeticError, LookupError, TypeError, ValueError, AssertionError) as error:
        raise DescriptionError(
            f"'{installation.name}': the analysis cannot work with this description "
            f"({type(error).__name__}: {str(error)[:200]}). Look for numbers that no plant has."
        ) from error


def _readings(installation: Installation) -> Trace:
    """Readings of every channel that the description names."""
    runs = np.arange(CELLS) % PERIOD < PERIOD // 2
    channels: dict[str, Floats] = {}
    for channel in channels_of(installation):
        quantity = quantity_of(channel)
        if quantity.name == "outdoor_temp":
            channels[channel] = 2 + 6 * np.sin(2 * np.pi * np.arange(CELLS) / CELLS)
        elif quantity.kind == Kind.COUNTER:
            gained = np.cumsum(runs * GAIN.get(quantity.name, 1.0))
            channels[channel] = np.concatenate([[0.0], gained[:-1]])
        elif quantity.kind != Kind.WORDS:
            middle = (quantity.low + quantity.high) / 2
            on, off = TRIAL_USUAL.get(quantity.name, (middle, middle))
            channels[channel] = np.where(runs, on, off)
    return Trace(START, TRIAL_STEP, channels)
