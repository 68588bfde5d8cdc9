"""Several logs of one system: weekly files, loggers with clocks and steps of their own, blocks that
a reconnected logger sends twice."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from ember.basis.channels import Kind, quantity_of
from ember.basis.errors import IntakeError
from ember.basis.series import Floats, Trace
from ember.description.installation import Installation, channels_of
from ember.intake.read import read_log
from ember.intake.report import IntakeReport


def read_logs(
    paths: Sequence[Path], installation: Installation, now: float | None = None
) -> tuple[Trace, tuple[IntakeReport, ...]]:
    """The logs of one system, laid over each other; of two readings of one time the one of the
    earlier file counts.

    Raises IntakeError where one cannot be read, or none holds anything that the description reads.
    """
    alone = len(paths) == 1
    read = [read_log(path, installation, now, alone=alone) for path in paths]
    if alone:
        return read[0][0], (read[0][1],)
    whole = laid_over([trace for trace, _ in read])
    if not set(channels_of(installation)) & set(whole.channels):
        raise IntakeError(
            f"{', '.join(p.name for p in paths)}: no column of any of them was recognised as "
            "anything that the description reads. Name the columns in the description."
        )
    return whole, tuple(report for _, report in read)


def laid_over(parts: Sequence[Trace], step: int | None = None) -> Trace:
    """Traces laid over each other: what an earlier one knows stays.

    Parameters
    ----------
    step : int | None
        of the grid [s]; None: the finest of them. A slower level is held over its own cells, a
        slower counter keeps its readings where they were made.
    """
    step = step or min(part.step for part in parts)
    start = min(part.start for part in parts) // step * step
    stop = max(part.stop for part in parts)
    n = -(-(stop - start) // step)
    channels: dict[str, Floats] = {}
    native: dict[str, float] = {}
    for part in parts:
        first, last = (part.start - start) // step, -(-(part.stop - start) // step)
        last = min(last, n)
        at = start + step * np.arange(first, last, dtype=np.int64)
        source = np.clip((at - part.start) // part.step, 0, len(part) - 1)
        read_here = np.diff(source, prepend=-1) > 0
        for channel, values in part.channels.items():
            fine = values[source]
            if quantity_of(channel).kind == Kind.COUNTER and part.step > step:
                fine = np.where(read_here, fine, np.nan)
            whole = channels.setdefault(channel, np.full(n, np.nan))
            here = slice(first, last)
            known = np.isfinite(whole[here])
            whole[here] = np.where(known, whole[here], fine)
            native[channel] = max(native.get(channel, 0.0), part.native_of(channel))
    return Trace(start, step, channels, native)
