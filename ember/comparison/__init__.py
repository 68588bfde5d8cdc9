"""Measured against the rated table: the performance ratio and its verdict (`performance_ratio`), at
matched hours (`matched`), over conditions (`parts`), over time (`drift`), at full load
(`capacity`), and the site's expected SPF (`site`).

In: a record analysis and its events; `performance_ratio` segments alone. Out: ratios. May import:
`ember.operation` and what stands before it; `performance_ratio` only what stands before
`ember.assessment.record_analysis`.
"""
