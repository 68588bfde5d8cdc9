"""make scale: what `make speed` asks of the running application, asked of far more."""

import tempfile
from dataclasses import replace
from pathlib import Path

from speed.run import machine, printed, table
from speed.serving import LARGE, Place, measure
from stand_ins.catalogue import SCENARIOS
from stand_ins.files import write_all
from stand_ins.scenario import rated_table, simulate

DOC = Path(__file__).resolve().parent.parent / "docs" / "scale.md"
HEAD = """# Scale

Written by `make scale`: the same measures as in [speed.md](speed.md), of {fleet:,} systems in the
list, {loggers} loggers for {sending} s, {sites} site-years one after the other and a sheet of
{sheet_rows:,} rows, on {machine}. The limits are those of `make speed`: what exceeds them here says
how far the application carries, and is no fault.

"""


def main() -> None:
    """Measures and reports."""
    scenario = replace(SCENARIOS["as-rated"], days=365)
    simulated = simulate(scenario)
    installation = replace(simulated.installation, rated=rated_table(scenario.plant))
    place = Place.made()
    try:
        with tempfile.TemporaryDirectory() as folder:
            log = write_all(simulated, Path(folder), "plain")
            rows = measure(place, log, installation, LARGE)
    finally:
        place.forget()
    print(printed(rows))
    DOC.write_text(HEAD.format(**vars(LARGE), machine=machine()) + table(rows), encoding="utf-8")


if __name__ == "__main__":
    main()
