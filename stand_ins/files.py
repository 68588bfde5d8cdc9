"""A simulated log on disk, with its description, rated table and truth."""

from pathlib import Path

import orjson

from ember.description.as_json import installation_to_json
from ember.description.installation import RatedTable
from stand_ins.dialects import write_log
from stand_ins.scenario import Simulated, rated_table


def write_all(simulated: Simulated, directory: Path, dialect: str, zipped: bool = False) -> Path:
    """Writes log, installation.json, rated.csv and truth.json; returns the log's path."""
    log = directory / ("log.csv.gz" if zipped else "log.csv")
    write_log(simulated, log, dialect)
    described = installation_to_json(simulated.installation)
    (directory / "installation.json").write_text(described, encoding="utf-8")
    table = rated_table(simulated.scenario.plant)
    (directory / "rated.csv").write_text(table_text(table), encoding="utf-8")
    truth = orjson.dumps(simulated.truth(), option=orjson.OPT_APPEND_NEWLINE)
    (directory / "truth.json").write_bytes(truth)
    return log


def table_text(table: RatedTable) -> str:
    """A rated table as CSV."""
    defrost = "yes" if table.includes_defrost else "no"
    lines = [f"# includes defrost: {defrost}", "outdoor [°C],flow [°C],capacity [kW],cop"]
    lines += [f"{p.outdoor:g},{p.flow:g},{p.capacity_kw:g},{p.cop:g}" for p in table.points]
    return "\n".join(lines) + "\n"
