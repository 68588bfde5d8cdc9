"""Heat and electricity of any period: sums at each level, of each service and day, with budgets.

In: a record analysis and periods. Out: `PeriodFigures`, figures of days, what the electricity alone
says. May import: `ember.assessment.record_analysis` and what stands before it.
"""
