"""Peak memory of one process that reads a log, or reads and assesses it [MB]."""

import resource
import sys
from dataclasses import replace
from pathlib import Path

from ember.assess import assess
from ember.description import read_installation
from ember.intake import read_log
from ember.rating import read_table

if __name__ == "__main__":
    what, base = sys.argv[1], Path(sys.argv[2])
    if what != "start":
        installation = read_installation(base / "installation.json")
        trace, _ = read_log(base / "log.csv", installation)
        if what == "assess":
            assess(replace(installation, rated=read_table(base / "rated.csv")), trace)
    print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
