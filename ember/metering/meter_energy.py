"""Meter energies: the energy that each meter says passed in each cell, and how its errors act."""

from dataclasses import dataclass, field

from ember.basis.series import Floats, Span
from ember.messages import Reason
from ember.metering.energy_component import EnergyComponent

__all__ = ["EnergyComponent", "MeterEnergies", "MeterEnergy"]


@dataclass(frozen=True)
class MeterEnergy:
    """Energy through one meter.

    Attributes
    ----------
    energy : Floats
        array, (n,) Energy of each cell [J]; NaN where unknown. A slow register has its increment in
        the last cell before the reading and zero before that.
    components : tuple[EnergyComponent, ...]
        how the meter's systematic errors act on a sum of cells.
    native : float
        interval of its readings [s]
    step_energy : float
        step of a register [J]; 0 for a sampled rate.
    holes : tuple[Span, ...]
        stretches without readings whose energy a register knows as a whole.
    method : str
        how it was measured, in words.
    loads : str
        the consumers or heat sources in it, in words.
    rounding : Floats | None
        array, (n,) Variance that the steps of the sensors give to each cell [J²], None where they
        do not matter.
    """

    name: str
    method: str
    loads: str
    energy: Floats
    components: tuple[EnergyComponent, ...]
    native: float
    step_energy: float
    holes: tuple[Span, ...]
    rounding: Floats | None = None

    @property
    def sampled(self) -> bool:
        """Whether a rate was sampled, as opposed to a register read."""
        return self.step_energy == 0


@dataclass(frozen=True)
class MeterEnergies:
    """All meters of an installation on the grid of its trace, by name of the meter.

    Attributes
    ----------
    heat : dict[str, MeterEnergy]
        on which a COP may rest.
    beside : dict[str, MeterEnergy]
        further ways of measuring heat, for comparison only.
    missing : dict[str, Reason]
        meter → why it says nothing.
    """

    electricity: dict[str, MeterEnergy]
    heat: dict[str, MeterEnergy]
    missing: dict[str, Reason]
    beside: dict[str, MeterEnergy] = field(default_factory=dict)

    def energy(self, name: str) -> Floats:
        """Energy of one meter, (n,) [J]."""
        return self.every[name].energy

    @property
    def every(self) -> dict[str, MeterEnergy]:
        """All of them."""
        return {**self.electricity, **self.heat, **self.beside}
