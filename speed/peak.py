"""Peak memory of one process that reads a log, or reads and assesses it [MB]."""

import re
import sys
from dataclasses import replace
from pathlib import Path

from ember.assessment.assess import assess
from ember.description.as_json import read_installation
from ember.intake import read_log
from ember.rated import read_table

if __name__ == "__main__":
    what, base = sys.argv[1], Path(sys.argv[2])
    if what != "start":
        installation = read_installation(base / "installation.json")
        trace, _ = read_log(base / "log.csv", installation)
        if what == "assess":
            assess(replace(installation, rated=read_table(base / "rated.csv")), trace)
    # Not ru_maxrss, which a process inherits from the one that started it.
    (peak,) = re.findall(r"VmHWM:\s+(\d+) kB", Path("/proc/self/status").read_text())
    print(int(peak) / 1024)
