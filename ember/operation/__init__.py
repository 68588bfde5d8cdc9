"""Operation: what a unit did over a record, and how that reads over any period."""

from ember.operation.record import Operation, operation

__all__ = ["Operation", "operation"]
