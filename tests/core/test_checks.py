"""Each check of the metering on a small record written by hand: what it finds, where, and what it
leaves in peace. Whole simulated years are in test_faults and in docs/validation.md. Invented data;
the limits are common practice."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

import numpy as np

from ember.assessment.assess import assess
from ember.assessment.record_analysis import analyse_record
from ember.basis.series import Trace
from ember.comparison.performance_ratio import VerdictKind
from ember.description.installation import (
    AddElectricity,
    ClockShift,
    Consumer,
    ElectricityMeter,
    Exclusion,
    Factor,
    HeatRegister,
    Loads,
    Offset,
    Prefer,
    RatedPoint,
    RatedTable,
    ReportedHeat,
    Rule,
    Transfer,
)
from ember.metering import meter
from ember.properties import Fluid, FluidKind
from ember.trust import Affects, Check, Soundness
from ember.trust.ratios import named
from ember.trust.stuck import constant
from tests.core.helpers import START, UNIT, installation, simulated

STEP = 60
DAY = 1440
LITRE_PER_MIN = 1e-3 / 60


def cycling(days: int = 6, pump_on: bool = True, **channels: Any) -> Trace:
    """Runs of 40 minutes and rests of 50: 2 kW, 20 L/min, ΔT 5 K while it runs, and at rest the
    water cools towards the room."""
    n = days * DAY
    minute = np.arange(n)
    phase = minute % 90
    on = phase < 40
    rng = np.random.default_rng(7)
    ripple = rng.normal(0, 0.01, n)
    back = np.where(on, 24 + 6 * phase / 40, 20 + 10 * np.exp(-(phase - 40) / 25))
    back = back + 0.02 * rng.normal(size=n)
    flowing = on | pump_on
    values = {
        "flow_rate": np.where(flowing, 20 * LITRE_PER_MIN * (1 + ripple), 0.0),
        "return_temp": back,
        "flow_temp": back + np.where(on, 5.0, 0.0) + 0.02 * rng.normal(size=n),
        "power:unit": np.where(on, 2000.0 * (1 + ripple) + 3 * phase, 12.0),
        "outdoor_temp": 4 + 3 * np.sin(2 * np.pi * minute / DAY) + 0.05 * rng.normal(size=n),
        "room_temp": np.full(n, 20.0),
        **channels,
    }
    return Trace(START, STEP, values)


def checked(name: str, readings: Trace, **described: Any) -> Check:
    found = assess(installation(**described), readings)
    return next(c for c in found.checks if c.name == name)


def resting(n: int) -> np.ndarray:
    return np.arange(n) % 90 >= 40


class PairOffset(TestCase):
    def test_it_is_found_with_its_u_and_corrected(self) -> None:
        readings = cycling()
        ill = readings.with_channels({"flow_temp": readings["flow_temp"] + 1.6})
        found = checked("pair offset", ill)
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        (offset,) = found.proposals
        self.assertIsInstance(offset, Offset)
        self.assertAlmostEqual(offset.add, -1.6, delta=0.1)
        self.assertLess(offset.U, 0.15)
        # 1.6 of 6.6 K: the heat falls by a quarter (hand sum).
        ratio = found.effect.heat_then.value / found.effect.heat_now.value
        self.assertLess(ratio, 0.8)

    def test_within_the_class_it_is_no_fault_but_makes_u_smaller(self) -> None:
        readings = cycling()
        found = checked(
            "pair offset", readings.with_channels({"flow_temp": readings["flow_temp"] + 0.4})
        )
        self.assertEqual(found.soundness, Soundness.SOUND)
        self.assertLess(found.effect.cop_then.relative, 0.6 * found.effect.cop_now.relative)

    def test_pipe_loss_is_no_offset(self) -> None:
        """200 W at 8 L/min look like 0.36 K (hand sum); in proportion to the water's excess it is
        the slope of the line, not its intercept."""
        readings = cycling()
        n = len(readings)
        excess = readings["return_temp"] - 20
        lost = np.where(resting(n), 0.036 * excess, 0.0)
        found = checked(
            "pair offset", readings.with_channels({"flow_temp": readings["flow_temp"] - lost})
        )
        self.assertEqual(found.soundness, Soundness.SOUND)
        self.assertEqual(found.proposals, ())

    def test_a_pump_that_stops_with_the_compressor_says_nothing(self) -> None:
        found = checked("pair offset", cycling(pump_on=False))
        self.assertEqual(found.soundness, Soundness.NOT_CHECKABLE)
        self.assertIn("pump run alone", found.remedy)


class Stuck(TestCase):
    def test_a_sensor_that_stands_still_while_the_unit_starts_and_stops(self) -> None:
        readings = cycling()
        values = readings["return_temp"].copy()
        values[2000:2400] = values[2000]
        found = checked("stuck readings", readings.with_channels({"return_temp": values}))
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        (span,) = found.spans
        self.assertEqual(span.start, START + 2000 * STEP)
        self.assertEqual(span.stop, START + 2400 * STEP)
        self.assertIsInstance(found.proposals[0], Exclusion)

    def test_two_hours_are_not_enough(self) -> None:
        readings = cycling()
        values = readings["return_temp"].copy()
        values[2000:2120] = values[2000]
        found = checked("stuck readings", readings.with_channels({"return_temp": values}))
        self.assertEqual(found.soundness, Soundness.SOUND)

    def test_a_flow_of_zero_while_the_unit_runs(self) -> None:
        readings = cycling()
        values = readings["flow_rate"].copy()
        values[2000:2400] = 0.0
        found = checked("stuck readings", readings.with_channels({"flow_rate": values}))
        self.assertIn("flow_rate", found.sentence)

    def test_a_pump_that_always_gives_the_same_is_not_stuck(self) -> None:
        steady = np.full(6 * DAY, 20 * LITRE_PER_MIN)
        found = checked("stuck readings", cycling(flow_rate=steady))
        self.assertEqual(found.soundness, Soundness.SOUND)

    def test_a_register_that_stands_still_while_heat_passes(self) -> None:
        readings = cycling()
        kwh = 100 + np.floor(np.cumsum(np.where(~resting(len(readings)), 7.0, 0.0)) / 60)
        kwh[3000:5500] = kwh[3000]
        found = checked(
            "stuck readings",
            readings.with_channels({"heat_energy": kwh * 3.6e6}),
            registers=(HeatRegister("register"),),
        )
        self.assertIn("heat_energy", found.sentence)

    def test_constant_stretches(self) -> None:
        values = np.array([1, 1, 2, 2, 2, np.nan, np.nan, 3, 3, 3, 3.0])
        found = [(s.start, s.stop) for s in constant(values, 3)]
        self.assertEqual(found, [(2, 5), (7, 11)])


class Spikes(TestCase):
    def test_single_readings_are_left_out_by_rule(self) -> None:
        readings = cycling()
        values = readings["flow_temp"].copy()
        at = np.array([500, 1500, 2500, 3500])
        values[at] += 40
        found = checked("spikes", readings.with_channels({"flow_temp": values}))
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        (rule,) = found.proposals
        self.assertIsInstance(rule, Rule)
        self.assertIn("flow_temp 4 times", found.sentence)
        mended = assess(
            installation(corrections=(rule,)), readings.with_channels({"flow_temp": values})
        )
        self.assertEqual(mended.main.left_out[0].seconds, 4 * STEP)

    def test_two_are_let_pass(self) -> None:
        readings = cycling()
        values = readings["flow_temp"].copy()
        values[[500, 1500]] += 40
        found = checked("spikes", readings.with_channels({"flow_temp": values}))
        self.assertEqual(found.soundness, Soundness.SOUND)


class Outdoors(TestCase):
    def sunny(self, size):
        readings = cycling(days=20)
        hour = np.arange(len(readings)) / 60 % 24
        sun = np.clip(np.minimum(hour - 10, 12 - hour) / 0.3, 0, 1) * size
        return readings, readings.with_channels({"outdoor_temp": readings["outdoor_temp"] + sun})

    def test_sun_at_the_same_hour_each_day(self) -> None:
        found = checked("outdoor sensor", self.sunny(6.0)[1])
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        self.assertIn("about 10 o'clock", found.sentence)
        self.assertEqual(found.affects, (Affects.CONDITIONS,))

    def test_another_series_shows_it_and_is_preferred(self) -> None:
        true, ill = self.sunny(6.0)
        ill = ill.with_channels({"outdoor_temp:weather": true["outdoor_temp"]})
        found = checked("outdoor sensor", ill)
        self.assertEqual(found.proposals[0].use, "outdoor_temp:weather")
        self.assertIsInstance(found.proposals[0], Prefer)

    def test_a_front_now_and_then_is_weather(self) -> None:
        readings = cycling(days=20)
        values = readings["outdoor_temp"].copy()
        for day, hour in ((3, 9), (8, 14), (15, 19)):
            values[day * DAY + hour * 60 :] += 4 * (-1) ** day
        found = checked("outdoor sensor", readings.with_channels({"outdoor_temp": values}))
        self.assertEqual(found.soundness, Soundness.SOUND)


class Registers(TestCase):
    def test_a_fall_is_said_and_no_kwh_is_negative(self) -> None:
        readings = cycling()
        kwh = 100 + np.cumsum(np.where(~resting(len(readings)), 2.0, 0.0)) / 60
        kwh[4000:] -= kwh[4000]
        described = {
            "electricity": (ElectricityMeter("unit meter", "energy:unit", UNIT),),
            "circuits": installation().circuits,
        }
        readings = readings.with_channels({"energy:unit": kwh * 3.6e6})
        found = checked("counter resets", readings, **described)
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        self.assertIn("falls 1 times", found.sentence)
        self.assertEqual(found.affects, ())
        main = assess(installation(**described), readings).main
        whole = np.count_nonzero(~resting(len(readings))) * 2.0 / 60
        self.assertAlmostEqual(main.electricity.value, whole, delta=0.1)

    def test_a_rate_register_not_read_at_night(self) -> None:
        readings = cycling(days=12)
        hour = np.arange(len(readings)) / 60 % 24
        counted = np.where(~resting(len(readings)) & (hour < 22) & (hour >= 5), 2.0, 0.0)
        kwh = 100 + np.cumsum(counted) / 60
        found = checked(
            "rate registers",
            readings.with_channels({"energy:unit": kwh * 3.6e6}),
            electricity=(ElectricityMeter("unit meter", "energy:unit", UNIT),),
        )
        self.assertEqual(found.soundness, Soundness.BROKEN)
        (rule,) = found.proposals
        self.assertEqual((rule.from_time.hour, rule.to_time.hour), (22, 5))
        self.assertIsNone(found.effect.cop_now)
        self.assertAlmostEqual(found.effect.cop_then.value, 3.4, delta=0.4)

    def test_glycol_that_the_calculator_takes_for_water(self) -> None:
        """25 % propylene glycol at 35 °C: 3 to 4 % less heat per litre and kelvin (handbook)."""
        readings = cycling(days=20)
        fluid = Fluid(FluidKind.PROPYLENE_GLYCOL, 0.25)
        plain = assess(installation(fluid=fluid), readings).main.heat.value
        water = assess(installation(), readings).main.heat.value
        self.assertAlmostEqual(water / plain, 1.035, delta=0.006)
        kwh = np.cumsum(np.where(~resting(len(readings)), 1.0, 0.0))
        kwh *= water / kwh[-1]
        readings = readings.with_channels({"heat_energy": kwh * 3.6e6})
        register = HeatRegister("register", resolution_kwh=0.001)
        found = checked("glycol", readings, fluid=fluid, registers=(register,))
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        self.assertIsInstance(found.proposals[0], Factor)
        self.assertAlmostEqual(found.proposals[0].factor, plain / water, delta=0.01)
        knows = replace(register, set_for_water=False)
        sound = checked("glycol", readings, fluid=fluid, registers=(knows,))
        self.assertEqual(sound.soundness, Soundness.SOUND)

    def test_water_cannot_be_told_from_glycol(self) -> None:
        found = checked("glycol", cycling(2))
        self.assertEqual(found.soundness, Soundness.NOT_CHECKABLE)
        self.assertIn("refractometer", found.remedy)


class Consumers(TestCase):
    def backup(self, doubled: bool):
        readings = cycling()
        on = (np.arange(len(readings)) % 700 > 300) & ~resting(len(readings))
        backup = np.where(on, 3000.0, 0.0)
        unit = readings["power:unit"] + (backup if doubled else 0)
        return readings.with_channels({"power:backup": backup, "power:unit": unit})

    described = {  # noqa: RUF012
        "electricity": (
            ElectricityMeter("unit meter", "power:unit", UNIT),
            ElectricityMeter("backup meter", "power:backup", (Consumer.BACKUP_HEATER,)),
        ),
        "consumers": (*UNIT, Consumer.BACKUP_HEATER),
    }

    def test_a_heater_behind_two_meters(self) -> None:
        found = checked("consumers", self.backup(True), **self.described)
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        self.assertIn("counts a second time", found.sentence)
        self.assertEqual(
            found.proposals,
            (
                Loads(
                    meter="unit meter",
                    includes=(*UNIT, Consumer.BACKUP_HEATER),
                    reason="its power moves with the backup heater",
                ),
            ),
        )

    def test_a_heater_with_a_meter_of_its_own(self) -> None:
        found = checked("consumers", self.backup(False), **self.described)
        self.assertEqual(found.soundness, Soundness.SOUND)

    def test_other_loads_by_what_is_read_at_rest(self) -> None:
        readings = cycling(pump_on=False)
        ill = readings.with_channels({"power:unit": readings["power:unit"] + 230})
        found = checked("other loads", ill)
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        (offset,) = found.proposals
        self.assertAlmostEqual(offset.add, -(12 + 230 - 25), delta=2)
        self.assertEqual(checked("other loads", readings).soundness, Soundness.SOUND)


TABLE = RatedTable(
    points=tuple(
        RatedPoint(o, f, 8.0, round(0.40 * (f + 273.15) / max(f - o, 10), 2))
        for o in (-15.0, -7.0, 2.0, 7.0, 12.0)
        for f in (25.0, 35.0, 45.0)
    ),
    includes_defrost=False,
)


class AgainstTheTable(TestCase):
    def ratio(self, readings: Trace) -> float:
        return assess(installation(rated=TABLE), readings).comparison.ratio.value

    def test_a_leg_without_a_clamp_is_named(self) -> None:
        readings = cycling(days=12)
        # Scaled so that the unit meets its table, then half of it seen.
        true = readings["power:unit"] * self.ratio(readings)
        half = readings.with_channels({"power:unit": np.where(true > 100, true / 2, true)})
        found = checked("beyond the table", half, rated=TABLE)
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        self.assertIn("near 2", found.sentence)
        (factor,) = found.proposals
        self.assertEqual(factor.factor, 2.0)
        verdict = assess(installation(rated=TABLE), half).verdict
        self.assertEqual(verdict.kind, VerdictKind.NONE)

    def test_yield_and_a_unit_that_is_merely_worse(self) -> None:
        """Both read a COP one too low in the middle; only the yield does so in all weather."""
        readings = cycling(days=30)
        minute = np.arange(len(readings))
        outdoor = 2 + 8 * np.sin(2 * np.pi * minute / (15 * DAY))
        flow = readings["flow_temp"]
        rated = 0.40 * (flow + 273.15) / np.maximum(flow - outdoor, 10)
        on = ~resting(len(readings))
        power = np.where(on, 2000.0, 12.0)
        for name, heat, ill in (
            ("yield", np.where(on, power * (rated - 1), 0.0), True),
            ("worse", np.where(on, power * rated * 0.72, 0.0), False),
        ):
            joule = np.concatenate([[0.0], np.cumsum(heat)[:-1]]) * STEP
            logged = readings.with_channels(
                {"heat_energy": joule, "outdoor_temp": outdoor, "power:unit": power}
            )
            channels = {c: v for c, v in logged.channels.items() if c != "flow_rate"}
            logged = Trace(logged.start, logged.step, channels)
            register = HeatRegister("display", resolution_kwh=0.001)
            found = checked("yield as heat", logged, rated=TABLE, registers=(register,))
            with self.subTest(name):
                self.assertEqual(found.soundness == Soundness.DOUBTFUL, ill, found.sentence)
                if ill:
                    self.assertIsInstance(found.proposals[0], AddElectricity)

    def test_flow_and_delta_cannot_be_the_yield(self) -> None:
        found = checked("yield as heat", cycling(12), rated=TABLE)
        self.assertIn("cannot be the source's yield", found.sentence)


class Clocks(TestCase):
    def test_which_way_and_by_how_much(self) -> None:
        readings = cycling(days=10)
        for minutes in (30, -20):
            late = np.roll(readings["power:unit"], minutes)
            found = checked("clocks", readings.with_channels({"power:unit": late}))
            with self.subTest(minutes):
                self.assertEqual(found.soundness, Soundness.DOUBTFUL)
                (shift,) = found.proposals
                self.assertIsInstance(shift, ClockShift)
                self.assertEqual(shift.seconds, -60 * minutes)

    def test_a_clock_that_drifts_is_straightened(self) -> None:
        """Twenty seconds a day over ten weeks: 23 min at the end. What is corrected fits again."""
        done = simulated("as-rated", days=70)
        readings, drift = done.trace(), 20.0
        days = np.arange(len(readings)) * readings.step / 86_400
        at = np.arange(len(readings)) - np.rint(drift * days / readings.step).astype(int)
        late = readings["power:unit"][np.maximum(at, 0)]
        ill = readings.with_channels({"power:unit": late})
        found = next(
            c for c in analyse_record(done.installation, ill).facts.checks if c.name == "clocks"
        )
        self.assertEqual(found.soundness, Soundness.DOUBTFUL, found.sentence)
        (shift,) = found.proposals
        assert isinstance(shift, ClockShift)
        self.assertAlmostEqual(shift.drift, -drift, delta=2.0)
        mended = replace(done.installation, corrections=(shift,))
        again = analyse_record(mended, ill)
        self.assertEqual(
            [c.soundness for c in again.facts.checks if c.name == "clocks"], [Soundness.SOUND]
        )
        starts = [len(s.runs) for s in (again, analyse_record(done.installation, readings))]
        self.assertAlmostEqual(starts[0], starts[1], delta=0.03 * starts[1])
        healthy = analyse_record(done.installation, readings).facts.checks
        self.assertFalse(next(c for c in healthy if c.name == "clocks").unsound)

    def test_what_rests_on_states_is_not_said_meanwhile(self) -> None:
        readings = cycling(days=10)
        late = readings.with_channels({"power:unit": np.roll(readings["power:unit"], 30)})
        for name in ("flow reading", "pair offset", "stuck readings", "consumers"):
            found = checked(name, late)
            self.assertEqual(found.soundness, Soundness.NOT_CHECKABLE)
            self.assertIn("clocks disagree", found.sentence)


class Controller(TestCase):
    described = {"reported": (ReportedHeat("controller"),)}  # noqa: RUF012

    def reported(self, factor: float, wobble: float = 0.0) -> Trace:
        readings = cycling(days=10)
        heat = np.where(~resting(len(readings)), 7000.0, 0.0)
        daily = 1 + wobble * np.sin(np.arange(len(readings)) // DAY)
        return readings.with_channels({"heat_power": heat * factor * daily})

    def test_apart_is_said_and_neither_is_chosen(self) -> None:
        found = checked("controller against meter", self.reported(1.3, 0.05), **self.described)
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        self.assertEqual((found.proposals, found.affects), ((), ()))

    def test_two_displays_of_one_sensor(self) -> None:
        readings = self.reported(1.0)
        energy = meter(installation(), readings).heat["circuit"].energy / STEP
        found = checked(
            "controller against meter",
            readings.with_channels({"heat_power": energy}),
            **self.described,
        )
        self.assertEqual(found.soundness, Soundness.SOUND)
        self.assertIn("same sensor", found.sentence)

    def test_a_borrowed_meter_gives_a_factor(self) -> None:
        readings = self.reported(1.25, 0.02)
        long = {c: np.concatenate([v, v, v]) for c, v in readings.channels.items()}
        part = np.arange(len(long["flow_rate"])) >= 6 * DAY
        long["flow_rate"] = np.where(part, np.nan, long["flow_rate"])
        found = checked("controller against meter", Trace(START, STEP, long), **self.described)
        transfer, prefer = found.proposals
        self.assertIsInstance(transfer, Transfer)
        self.assertAlmostEqual(transfer.factor, 1 / 1.25, delta=0.05)
        self.assertEqual((prefer.use, prefer.instead_of), ("controller", "circuit"))
        self.assertGreater(transfer.U, 0.04)  # never better than the reference itself


class Resolution(TestCase):
    def test_steps_of_a_kelvin_at_five(self) -> None:
        readings = cycling()
        coarse = {c: np.round(readings[c]) for c in ("flow_temp", "return_temp")}
        found = checked("resolution", readings.with_channels(coarse))
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        self.assertIn("steps of 1 K at a ΔT of 5", found.sentence)
        self.assertEqual(found.affects, (Affects.MOMENTS,))
        self.assertEqual(checked("resolution", readings).soundness, Soundness.SOUND)


class Gaps(TestCase):
    def test_a_fifth_missing_touches_totals_only(self) -> None:
        readings = cycling(days=10)
        flow = readings["flow_rate"].copy()
        flow[3 * DAY : 5 * DAY] = np.nan
        readings = readings.with_channels({"flow_rate": flow})
        found = checked("gaps", readings)
        self.assertEqual(found.affects, (Affects.TOTALS,))
        self.assertIn("80.0%", found.sentence)
        self.assertIsNotNone(assess(installation(), readings).main.cop)

    def test_a_log_of_electricity_alone(self) -> None:
        readings = cycling(days=10)
        power = readings["power:unit"].copy()
        power[3 * DAY : 5 * DAY] = np.nan
        alone = Trace(readings.start, readings.step, {"power:unit": power})
        found = next(c for c in assess(installation(), alone).checks if c.name == "gaps")
        self.assertEqual(found.soundness, Soundness.DOUBTFUL)
        self.assertIn("80.0% of the time is covered by the electricity meters", found.sentence)


class Ratios(TestCase):
    def test_a_ratio_and_its_inverse_name_the_same_mistake(self) -> None:
        """The list of the handbook: kWh and MJ, W and kW, gallons, Btu, calories, legs, pulses."""
        for ratio in (3.6, 1000, 60, 16.67, 3.785, 3.412, 1.163, 1.8, 2, 3, 10, 12):
            self.assertEqual(named(ratio)[0], ratio)
            self.assertEqual(named(1 / ratio)[0], ratio)
        self.assertIsNone(named(1.3))
        self.assertIsNone(named(2.5))
