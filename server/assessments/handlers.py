"""The jobs of this room, so that the worker knows them."""

import server.assessments.cache
import server.assessments.proposed  # noqa: F401
