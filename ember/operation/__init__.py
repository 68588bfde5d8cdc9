"""What a unit did over a record, and any period of it.

In: a record analysis and its trace. Out: `Operation`, tables of arrays; `Within`, a period of
them. May import: `ember.assessment.record_analysis` and what stands before it.
"""

from ember.operation.record import Operation, operation

__all__ = ["Operation", "operation"]
