"""What the unit does, cell by cell: heating, hot water, defrost, cooling, standby …

In: a trace with its meters' energies. Out: `Running`, the state of each cell and how it is known.
May import: `ember.metering` and what stands before it.
"""

from ember.states.detection import running
from ember.states.state import Basis, Known, Running, State

__all__ = ["Basis", "Known", "Running", "State", "running"]
