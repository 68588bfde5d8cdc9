"""Units on room air: airflow by the fan's speed, heads, supply temperature, and the words."""

from dataclasses import replace
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np
from pydantic import ValidationError

from ember.assessment.record_analysis import RecordAnalysis, analyse_record
from ember.balance.sums import cooling, eer_name, figures, heads
from ember.basis.periods import Period
from ember.basis.series import Trace
from ember.boundary import Level
from ember.description.installation import (
    AirCircuit,
    Consumer,
    ElectricityMeter,
    HeatPump,
    UnitKind,
)
from ember.description.meters import FanPoint
from ember.events.hours import Hours
from ember.intake import read_log
from ember.metering import meter
from ember.metering.air import air_heat_rate, airflow_of
from ember.operation import operation
from ember.operation.within import Within
from ember.views.control import control_seen
from ember.views.curves import conditions
from stand_ins.scenario import simulate
from stand_ins.varrick import INSTALLATIONS
from tests.core.helpers import installation

FAN = (FanPoint(1.0, 320.0), FanPoint(2.0, 450.0), FanPoint(3.0, 600.0))


@cache
def two_heads() -> RecordAnalysis:
    """Two months of heating and one of cooling, of a unit with two heads."""
    done = simulate(replace(INSTALLATIONS["heads"], days=320))
    return analyse_record(done.installation, done.trace())


def whole(analysis: RecordAnalysis) -> Period:
    return Period("record", float(analysis.start), float(analysis.stop))


class Fan(TestCase):
    def test_airflow_between_the_described_speeds(self) -> None:
        circuit = AirCircuit("a", fan_speed="indoor_fan", fan=FAN)
        trace = Trace(0, 60, {"indoor_fan": np.array([1.0, 1.5, 3.0, 9.0, np.nan])})
        flow = airflow_of(circuit, trace) * 3600
        np.testing.assert_allclose(flow[:4], [320, 385, 600, 600])
        self.assertTrue(np.isnan(flow[4]))
        self.assertIsNone(airflow_of(circuit, Trace(0, 60, {"power": np.zeros(2)})))

    def test_the_heat_is_that_of_this_airflow(self) -> None:
        base = INSTALLATIONS["air-side"].installation
        circuit = AirCircuit("air side", fan_speed="indoor_fan", fan=FAN)
        n = 10
        trace = Trace(
            0,
            60,
            {
                "supply_air_temp": np.full(n, 38.0),
                "return_air_temp": np.full(n, 20.0),
                "indoor_fan": np.full(n, 2.0),
                base.electricity[0].channel: np.full(n, 1000.0),
                base.outdoor.channel: np.full(n, 5.0),
            },
        )
        found = meter(replace(base, air=(circuit,)), trace).heat["air side"]
        flow = np.full(n, 450.0 / 3600)
        wanted = air_heat_rate(flow, trace["supply_air_temp"], trace["return_air_temp"]) * 60
        np.testing.assert_allclose(found.energy, wanted)
        self.assertIn("by the fan's speed", found.method)

    def test_without_airflow_it_says_so(self) -> None:
        """Neither the logged nor a nominal airflow: the meter is silent, nothing breaks."""
        base = INSTALLATIONS["air-side"].installation
        trace = Trace(
            0,
            60,
            {
                "supply_air_temp": np.full(5, 38.0),
                "return_air_temp": np.full(5, 20.0),
                base.electricity[0].channel: np.full(5, 1000.0),
            },
        )
        for circuit in (
            AirCircuit("a", airflow="airflow"),
            AirCircuit("a", fan_speed="indoor_fan", fan=FAN),
        ):
            found = meter(replace(base, air=(circuit,)), trace)
            self.assertIn("no readings of", str(found.missing["a"]))
            self.assertNotIn("a", found.heat)

    def test_one_speed_is_no_table(self) -> None:
        with self.assertRaises(ValidationError):
            AirCircuit("a", fan_speed="indoor_fan", fan=FAN[:1])


class Recognised(TestCase):
    def test_airflow_in_one_word_is_no_water(self) -> None:
        rows = ["time,power [W],supply air temp [°C],return air temp [°C],HEADER,outdoor temp [°C]"]
        for k in range(600):
            on = (k // 45) % 2
            stamp = f"2026-01-05T{k // 60:02d}:{k % 60:02d}:00Z"
            rows.append(f"{stamp},{900 * on + 12},{20 + 14 * on},{20 + k % 3 / 10},{540 * on},3.0")
        circuit = AirCircuit("head", airflow="airflow")
        meter_ = ElectricityMeter("plug", "power", (Consumer.COMPRESSOR,))
        described = installation(
            electricity=(meter_,), circuits=(), air=(circuit,), consumers=(Consumer.COMPRESSOR,)
        )
        for header in ("airflow [m3/h]", "air flow [m3/h]", "airflow_m3h"):
            with TemporaryDirectory() as folder:
                path = Path(folder) / "log.csv"
                path.write_text("\n".join(rows).replace("HEADER", header))
                trace, _ = read_log(path, described)
            self.assertAlmostEqual(float(trace["airflow"].max()), 540 / 3600, 9, header)
            self.assertNotIn("flow_rate", trace)


class Heads(TestCase):
    def test_they_add_up_to_the_sum(self) -> None:
        analysis = two_heads()
        period = whole(analysis)
        found = heads(analysis, period)
        self.assertEqual(len(found), 2)
        total = figures(analysis, [period])[0].reckonings[-1]
        self.assertAlmostEqual(sum(h.heat.value for h in found), total.heat.value, 6)
        cold = cooling(analysis, period)
        self.assertAlmostEqual(sum(h.cooling.value for h in found), -cold.heat.value, 6)

    def test_one_circuit_has_no_heads(self) -> None:
        done = simulate(replace(INSTALLATIONS["air-side"], days=10))
        analysis = analyse_record(done.installation, done.trace())
        self.assertEqual(heads(analysis, whole(analysis)), [])

    def test_supply_air_while_it_heats(self) -> None:
        analysis = two_heads()
        found = conditions(analysis, whole(analysis))
        self.assertIsNone(found.flow)
        self.assertTrue(24.0 < found.supply.value < 45.0)
        probe = analysis.installation.air[0].probe_limit_k
        self.assertAlmostEqual(found.supply.U, 2 * probe / 3**0.5, 9)


class Words(TestCase):
    def test_levels_of_air_know_no_pumps(self) -> None:
        self.assertEqual(Level.H4.words(), "with pumps")
        self.assertEqual(Level.H4.words(on_air=True), "with indoor fans")
        self.assertTrue(HeatPump(kind=UnitKind.AIR_TO_AIR_MULTI_HEAD).on_air)
        self.assertFalse(HeatPump(kind=UnitKind.GROUND_SOURCE).on_air)

    def test_a_season_of_cooling_is_no_seer(self) -> None:
        self.assertEqual(eer_name(Period("day", 0.0, 86_400.0)), "EER")
        self.assertEqual(eer_name(Period("summer", 0.0, 90 * 86_400.0)), "Seasonal EER")


class Control(TestCase):
    def test_what_idles_is_a_fan(self) -> None:
        """With the limit at nothing, what runs with nothing made is named by what it is."""
        analysis = two_heads()
        limits = replace(analysis.described.thresholds, pump_idle=1e-9)
        told = replace(analysis, described=replace(analysis.described, thresholds=limits))
        done = simulate(replace(INSTALLATIONS["heads"], days=320))
        within = Within(told, operation(told, done.trace()), whole(told))
        of = dict(within.found.hours.of)
        of["pump_only"] = np.full(len(of["on"]), 60.0)
        found = replace(within.found, hours=Hours(within.found.hours.start, of))
        said = " ".join(control_seen(replace(within, found=found)).said)
        self.assertIn("Indoor fans ran for", said)
        self.assertNotIn("Pumps", said)
