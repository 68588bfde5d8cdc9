"""What a screen or report shows of a period: numbers, no sentences of the job's judgement.

In: a record analysis, and the events of its record. Out: frozen dataclasses, one module a view.
"""
