"""How one source of error acts on the energy of a meter."""

from dataclasses import dataclass

from ember.basis.series import Floats


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

    source: str
    pairs: tuple[tuple[float, Floats], ...]
