"""A whole installation, or all of them, as one file.

In: stored rows. Out: an archive; and back. May import: `server.assessments` and what stands before
it.
"""
