"""What the worker does: importing, archives, weather, figures that follow live readings.

In: jobs and waiting batches. Out: stored readings, cached results. May import: `server.archives`
and what stands before it.
"""
