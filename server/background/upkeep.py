"""What of readings and figures is looked after by the worker."""

from server.assessments.cache import renew_stale
from server.background.live_figures import ask_again
from server.jobs.upkeep import at_start, each_minute
from server.readings.tasks import fold_all

each_minute(fold_all)
each_minute(ask_again)
at_start(renew_stale)
