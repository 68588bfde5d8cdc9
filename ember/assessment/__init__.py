"""The road walked once: one pass over a record (`analysis`), all of it in one call (`assess`), the
types that come of it (`results`), their bytes (`cached`) and JSON (`export`).

In: a description and a trace. Out: `results.Assessment`. May import: every room before it;
`analysis` stands in the middle of the road, before the rooms that read it.
"""
