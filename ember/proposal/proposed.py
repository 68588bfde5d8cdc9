"""A description proposed from a log, before anything is described: what the readings say
themselves, and the few questions that only a person can answer."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import sqrt
from pathlib import Path
from typing import Literal

import numpy as np

from ember.assessment.assess import answer
from ember.assessment.record_analysis import RecordAnalysis, analyse_record
from ember.basis.channels import quantity_of
from ember.basis.clock import HOUR
from ember.basis.codes import CheckCode
from ember.basis.errors import DescriptionError
from ember.basis.quantity import Estimate, rectangular
from ember.basis.registers import smallest_step
from ember.basis.series import Floats, Trace
from ember.boundary.combinations import summed, why_none, widest
from ember.description.installation import (
    AirCircuit,
    Consumer,
    ElectricityAccuracy,
    ElectricityMeter,
    FixedPower,
    HeatPump,
    HeatRegister,
    HeatSource,
    Installation,
    Probes,
    ReportedHeat,
    RunsWith,
    UnitKind,
    WaterCircuit,
)
from ember.intake import IntakeReport, read_logs
from ember.messages import Reason
from ember.metering.electricity import electricity_limit
from ember.states import State

METER, PROPOSED_HEAT, REGISTER = "electricity meter", "heat meter", "heat register"
PROPOSED_UNIT = (Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS)
PROPOSED_PUMP, BACKUP = Consumer.DISTRIBUTION_PUMP, Consumer.BACKUP_HEATER
# percentiles of the heat of running hours that are full and least [%]
PROPOSED_FULL, PROPOSED_LEAST = 99.0, 8.0
PROPOSED_KNOWN_BY = ("runs", "hot water", "defrost")
PROPOSED_LEAST_HEAT = 300.0  # of an hour in which the unit runs [W]


@dataclass(frozen=True)
class Answer:
    """One answer.

    Attributes
    ----------
    preview : str
        what it gives.
    """

    key: str
    words: str
    preview: str


@dataclass(frozen=True)
class Asked:
    """A question that only a person can answer.

    Attributes
    ----------
    skipped : str
        what it costs not to.
    number : bool
        it takes a number instead of one of the answers.
    """

    key: str
    sentence: str
    answers: tuple[Answer, ...]
    taken: str
    skipped: str
    number: bool


@dataclass(frozen=True)
class Proposal:
    """What a log gives by itself.

    Attributes
    ----------
    found : tuple[str, ...]
        in words, each with its reason.
    cop, level, reason : Estimate | None
        the first COP and where it stands; None with the reason.
    days : float
        of the record.
    """

    installation: Installation
    reports: tuple[IntakeReport, ...]
    found: tuple[str, ...]
    asked: tuple[Asked, ...]
    cop: Estimate | None
    level: str | None
    reason: Reason | None
    days: float


def propose(
    paths: Sequence[Path], name: str, zone: str, answers: Mapping[str, str] | None = None
) -> Proposal:
    """A description from a log alone.

    Parameters
    ----------
    paths : Sequence[Path]
        files of one system.
    name, zone : str
        of it.
    answers : Mapping[str, str] | None
        key of a question → key of an answer.

    Raises
    ------
    IntakeError
        where no log can be read; DescriptionError where it has neither electricity nor heat.

    Source: common practice.
    """
    trace, reports = read_logs(paths, _reader(name, zone))
    drawn = _drawn(trace, name, zone)
    if drawn is None:
        raise DescriptionError(
            f"{paths[0].name}: no electricity was recognised in the log, so there is nothing to "
            "describe a system by. Describe it by its name, and say in the Log which column is it."
        )
    base = answered(drawn, answers or {})
    analysis = analyse_record(base, trace)
    size, least = _sizes(analysis)
    base = replace(base, unit=replace(base.unit, capacity_kw=size, minimum_output_kw=least))
    assessed = answer(analysis)
    main = assessed.main
    why = None
    if main is None:
        why = why_none(analysis.facts.combinations.values())
    elif main.cop is None:
        why = main.reason
    cop = main.cop if main is not None else None
    return Proposal(
        installation=base,
        reports=reports,
        found=tuple(_found(base, trace, analysis, size, least)),
        asked=tuple(_asked(base, analysis, cop, trace)),
        cop=cop,
        level=main.level.value if main else None,
        reason=why,
        days=(trace.stop - trace.start) / 86_400,
    )


def answered(drawn: Installation, answers: Mapping[str, str]) -> Installation:
    """The description with what a person has answered. Raises DescriptionError."""
    made = drawn
    if (held := answers.get("holds")) in HOLDS:
        includes, heat = HOLDS[held]
        consumers = tuple(dict.fromkeys((*PROPOSED_UNIT, *includes, PROPOSED_PUMP)))
        meters = (replace(made.electricity[0], includes=includes), *made.electricity[1:])
        made = replace(
            made,
            electricity=meters,
            consumers=consumers,
            circuits=tuple(replace(c, includes=heat) for c in made.circuits),
            registers=tuple(replace(r, includes=heat) for r in made.registers),
        )
    if accuracy := answers.get("class"):
        first = replace(made.electricity[0], accuracy=ElectricityAccuracy(accuracy))
        made = replace(made, electricity=(first, *made.electricity[1:]))
    if (way := answers.get("heat")) in METHODS:
        probes, flow_class = METHODS[way]
        made = replace(
            made,
            circuits=tuple(replace(c, probes=probes, flow_class=flow_class) for c in made.circuits),
        )
    if watts := (answers.get("pump") or "").strip():
        try:
            power = float(watts.replace(",", "."))
        except ValueError as error:
            raise DescriptionError(f"pump: '{watts}' is no number of watts.") from error
        if not 1 <= power <= 2000:
            raise DescriptionError("pump: a circulation pump takes between 1 and 2,000 W.")
        made = replace(
            made,
            fixed=(FixedPower("circulation pump", (PROPOSED_PUMP,), power, RunsWith.PUMP, 0.15),),
        )
    return made


HOLDS: dict[str, tuple[tuple[Consumer, ...], tuple[HeatSource, ...]]] = {
    "all": (
        (*PROPOSED_UNIT, PROPOSED_PUMP, BACKUP),
        (HeatSource.HEAT_PUMP, HeatSource.BACKUP_HEATER),
    ),
    "pump": ((*PROPOSED_UNIT, PROPOSED_PUMP), (HeatSource.HEAT_PUMP,)),
    "unit": (PROPOSED_UNIT, (HeatSource.HEAT_PUMP,)),
}
METHODS: dict[str, tuple[Probes, Literal[1, 2, 3] | None]] = {
    "2": (Probes.HEAT_METER_PAIR, 2),
    "3": (Probes.HEAT_METER_PAIR, 3),
    "A": (Probes.CLASS_A, None),
    "B": (Probes.CLASS_B, None),
}


def _reader(name: str, zone: str) -> Installation:
    """A description with which any log is read: it wants every usual channel."""
    return Installation(
        name,
        zone,
        (
            ElectricityMeter(METER, "power", PROPOSED_UNIT),
            ElectricityMeter("r", "energy", PROPOSED_UNIT),
        ),
        circuits=(WaterCircuit(PROPOSED_HEAT),),
        registers=(HeatRegister(REGISTER),),
    )


def _first(trace: Trace, quantity: str) -> str | None:
    return next((c for c in trace.channels if quantity_of(c).name == quantity), None)


def _drawn(trace: Trace, name: str, zone: str) -> Installation | None:
    """What the channels alone describe; None without electricity."""
    water = all(c in trace for c in ("flow_rate", "flow_temp", "return_temp"))
    air = "supply_air_temp" in trace and "return_air_temp" in trace
    source = "source_temp" in trace
    channel = "power" if "power" in trace else _first(trace, "power") or _first(trace, "energy")
    kind = UnitKind.GROUND_SOURCE if source else UnitKind.AIR_TO_WATER
    if air and not water and "flow_temp" not in trace:
        kind = UnitKind.AIR_TO_AIR_SINGLE
    includes, heat = HOLDS["all"]
    if kind == UnitKind.AIR_TO_AIR_SINGLE:
        includes, heat = HOLDS["unit"]
    register = _first(trace, "heat_energy")
    circuits: tuple[WaterCircuit, ...] = ()
    if water and register is not None:  # a register beside them is a heat meter's
        circuits = (
            WaterCircuit(PROPOSED_HEAT, includes=heat, probes=Probes.HEAT_METER_PAIR, flow_class=3),
        )
    elif water:
        circuits = (WaterCircuit(PROPOSED_HEAT, includes=heat),)
    registers: tuple[HeatRegister, ...] = ()
    if register is not None:
        step = smallest_step(_rises(trace[register])) / 3.6e6
        registers = (
            HeatRegister(
                REGISTER,
                register,
                heat,
                resolution_kwh=max(round(step, 6), 1e-6),
                circuit=PROPOSED_HEAT if water else None,
            ),
        )
    reported: tuple[ReportedHeat, ...] = ()
    if not water and register is None and (shown := _first(trace, "heat_power")):
        reported = (ReportedHeat("controller", shown),)
    if channel is None:
        return None
    meters = (ElectricityMeter(METER, channel, includes),)
    return Installation(
        name,
        zone,
        meters,
        circuits=circuits,
        registers=registers,
        reported=reported,
        air=(
            AirCircuit(
                "air side",
                airflow=_first(trace, "airflow"),
                nominal_m3h=None if _first(trace, "airflow") else 600.0,
            ),
        )
        if air and not water
        else (),
        consumers=includes,
        unit=HeatPump(kind=kind),
    )


def _rises(values: Floats) -> Floats:
    known = values[np.isfinite(values)]
    rises: Floats = np.diff(known)
    return rises


def _sizes(analysis: RecordAnalysis) -> tuple[float | None, float | None]:
    """Full and least heat of running hours [kW], from what was delivered."""
    combination = widest(analysis.facts.combinations)
    if combination is None or analysis.cop_reason:
        return None, None
    segments = analysis.segments
    hour = segments.begins // HOUR
    label = (hour - hour[0]).astype(np.int64)
    on = (segments.state >= State.START_UP) & (segments.state <= State.HOT_WATER)
    given = summed(combination.given, segments.energy)
    assert given is not None
    heat = np.where(on, given, 0.0)
    seconds = np.bincount(label[on], segments.cells[on] * segments.step, int(label[-1]) + 1)
    energy = np.bincount(label, np.nan_to_num(heat), int(label[-1]) + 1)
    whole = seconds > 0.95 * HOUR
    rates = energy[whole] / HOUR
    rates = rates[rates > PROPOSED_LEAST_HEAT]
    if len(rates) < 24:
        return None, None
    full, least = np.percentile(rates, [PROPOSED_FULL, PROPOSED_LEAST]) / 1000
    return round(float(full) * 2) / 2 or None, round(float(least), 1) or None


def _found(
    base: Installation,
    trace: Trace,
    analysis: RecordAnalysis,
    size: float | None,
    least: float | None,
) -> list[str]:
    """What the readings say, in words."""
    said = [
        f"{(trace.stop - trace.start) / 86_400:.0f} days, every {trace.step} s.",
        f"Electricity: {base.electricity[0].channel}.",
    ]
    if base.circuits:
        said.append("Heat: flow × ΔT of the water; its own sensors or a heat meter's.")
    if base.registers:
        said.append(f"A heat register in steps of {base.registers[0].resolution_kwh:g} kWh.")
    if base.reported:
        said.append("Heat only as the controller reports it: no COP without a reference.")
    if size is not None:
        said.append(f"Size: it gives up to {size:g} kW, and {least:g} kW at its least.")
    if analysis.facts.heater:
        said.append(
            f"A heater of about {analysis.facts.heater / 1000:.1f} kW switches in this meter."
        )
    basis = analysis.facts.basis
    said += [f"{key.capitalize()} {basis[key]}." for key in PROPOSED_KNOWN_BY if key in basis]
    for check in analysis.facts.checks:
        if check.code == CheckCode.REGISTER_AGAINST_FLOW and not check.unsound and base.registers:
            said.append(f"Fluid: water fits. {check.sentence}")
    return said


def _asked(
    base: Installation, analysis: RecordAnalysis, cop: Estimate | None, trace: Trace
) -> list[Asked]:
    """Three to five questions, each with what it costs to skip it."""
    asked = []
    if base.unit.kind != UnitKind.AIR_TO_AIR_SINGLE:
        heater = analysis.facts.heater
        asked.append(
            Asked(
                "holds",
                "What does this electricity meter hold?",
                (
                    Answer(
                        "all", "everything: unit, controls, pumps, backup heater", "a COP at H4"
                    ),
                    Answer(
                        "pump",
                        "unit, controls and pumps; there is no backup heater",
                        f"a heater of {heater / 1000:.1f} kW is seen in it"
                        if heater
                        else "a COP at H4",
                    ),
                    Answer("unit", "the unit and its controls alone", "a COP at H2"),
                ),
                "all",
                "Taken as everything; a pump that it does not hold would make the COP look "
                "worse than it is.",
                False,
            )
        )
    now = base.electricity[0].accuracy
    asked.append(
        Asked(
            "class",
            "Its accuracy class?",
            tuple(
                Answer(one.value, words, _with_class(cop, base, one))
                for one, words in (
                    (ElectricityAccuracy.CLASS_A, "MID class A"),
                    (ElectricityAccuracy.CLASS_B, "MID class B"),
                    (ElectricityAccuracy.CLASS_C, "MID class C"),
                    (ElectricityAccuracy.PLUG, "a plug meter"),
                    (ElectricityAccuracy.CLAMP, "a clamp"),
                    (ElectricityAccuracy.UNKNOWN, "not known"),
                )
            ),
            now.value,
            f"Taken as not known: {_with_class(cop, base, now)}.",
            False,
        )
    )
    if base.circuits:
        asked.append(
            Asked(
                "heat",
                "What measures the heat?",
                (
                    Answer("2", "a heat meter of class 2 with its matched pair", ""),
                    Answer("3", "a heat meter of class 3, or of unknown class", ""),
                    Answer("A", "own sensors, probes of class A", ""),
                    Answer("B", "own sensors, probes of class B or unknown", ""),
                ),
                "3" if base.registers else "B",
                "Taken as "
                + ("a class 3 heat meter" if base.registers else "unmatched probes, class B")
                + (f": COP {cop}." if cop is not None else "."),
                False,
            )
        )
    if PROPOSED_PUMP in base.electricity[0].includes:
        asked.append(
            Asked(
                "pump",
                "How many watts does the circulation pump take?",
                (),
                "",
                "Read from the log where the water flows while the compressor rests, else 15 "
                "to 75 W; "
                "in the comparison with the rated table only.",
                True,
            )
        )
    asked.append(
        Asked(
            "table",
            "Do you have the maker's rated table?",
            (),
            "",
            "Without it nothing is compared: a COP, but no verdict. Rating takes it later, pasted.",
            False,
        )
    )
    return asked


def _with_class(cop: Estimate | None, base: Installation, accuracy: ElectricityAccuracy) -> str:
    """What the COP's U becomes with another class of the electricity meter."""
    limit = electricity_limit(accuracy)
    if cop is None:
        return f"± {limit:.1%} of the electricity"
    mine = base.electricity[0].name
    rest = sum(p.u**2 for p in cop.budget if p.cause.of != mine)
    u = sqrt(rest + (cop.value * rectangular(limit)) ** 2)
    return f"COP {cop.value:.2f} ± {2 * u:.2f}"
