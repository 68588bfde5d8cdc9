"""How one source of error acts on the energy of a meter."""

from dataclasses import dataclass

from ember.basis.series import Floats
from ember.messages.sources import Source


@dataclass(frozen=True, slots=True)
class EnergyComponent:
    """One systematic source of error.

    Over any set of cells the standard uncertainty it gives to the sum of energy is Σ factor · Σ
    basis over the pairs: a gain error has the energy itself as basis, an offset of a temperature
    pair the heat carried per kelvin.

    Attributes
    ----------
    pairs : tuple[tuple[float, Floats], ...]
        of factor and basis, (n,); factor × basis in [J].
    """

    cause: Source
    pairs: tuple[tuple[float, Floats], ...]

    @property
    def source(self) -> str:
        """Its source in words."""
        return self.cause.words
