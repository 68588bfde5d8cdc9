"""All ways of measuring heat, the boundary by fixed power, and what a missing meter may hide."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
import psychrolib
from CoolProp.CoolProp import PropsSI

from ember.assessment.assess import assess
from ember.assessment.record_analysis import analyse_record
from ember.basis.quantity import convert
from ember.boundary import Level
from ember.description.house import Tank as HotWaterTank
from ember.description.installation import (
    AddElectricity,
    Consumer,
    ElectricityMeter,
    FixedPower,
    HeatRegister,
    Prefer,
    Refrigerant,
    RefrigerantSide,
    ReportedHeat,
    RunsWith,
    SourceYield,
    Transfer,
)
from ember.metering.air import air_heat_rate
from ember.metering.refrigerant import heat_per_power
from ember.metering.tank import charge_energy, tank_charge
from ember.properties.bake import AIR_TABLE, REFRIGERANTS, air_rows
from ember.properties.moist_air import (
    dry_air_density,
    enthalpy,
    humidity_ratio,
    pressure_at,
    saturation_pressure,
)
from ember.properties.refrigerant import enthalpies
from ember.reckoning import heat_methods, missing_part
from ember.states import State
from stand_ins.scenario import simulate
from stand_ins.varrick import INSTALLATIONS
from tests.core.helpers import UNIT, installation, steady, trace
from validation.trust import against_truth

psychrolib.SetUnitSystem(psychrolib.SI)


class MoistAir(TestCase):
    """Against PsychroLib (ASHRAE Fundamentals 2017, ch. 1)."""

    def test_the_table_is_the_one_that_is_baked(self) -> None:
        lines = AIR_TABLE.read_text(encoding="utf-8").splitlines()[1:]
        self.assertEqual(lines, [",".join(row) for row in air_rows()])

    def test_properties(self) -> None:
        for temp in (-18.2, -3.37, 0.4, 12.1, 20.0, 27.9, 45.6):
            for humidity in (20.0, 55.0, 95.0):
                for altitude in (0.0, 1500.0):
                    p = psychrolib.GetStandardAtmPressure(altitude)
                    self.assertAlmostEqual(pressure_at(altitude) / p, 1, 5)
                    t, rh = np.array([temp]), np.array([humidity])
                    w = psychrolib.GetHumRatioFromRelHum(temp, humidity / 100, p)
                    found = humidity_ratio(t, rh, p)
                    self.assertAlmostEqual(float(found[0]) / w, 1, 3)
                    h = psychrolib.GetMoistAirEnthalpy(temp, w)
                    self.assertAlmostEqual(float(enthalpy(t, np.array([w]))[0]), h, delta=1)
                    v = psychrolib.GetMoistAirVolume(temp, w, p)
                    density = float(dry_air_density(t, np.array([w]), p)[0])
                    self.assertAlmostEqual(density * v, 1, 4)

    def test_saturation_between_the_rows_of_the_table(self) -> None:
        for temp in np.linspace(-30, 60, 73):
            exact = psychrolib.GetSatVapPres(float(temp))
            self.assertAlmostEqual(float(saturation_pressure(temp)) / exact, 1, delta=2e-4)


class AirSide(TestCase):
    def test_the_american_rule_holds_for_standard_air(self) -> None:
        """1.08·CFM·ΔT[°F] in Btu/h: 9 and 21 kBtu/h at 1,000 CFM are rises of 8.3 and 19.4 °F
        (hand sums). Standard air is dry, 21 °C."""
        flow = np.array([convert(1000.0, "CFM", "m3_per_s")])
        dry = np.array([0.0])
        for btu, rise in ((9000.0, 8.33), (21000.0, 19.44)):
            back = np.array([21.0])
            rate = air_heat_rate(flow, back + rise * 5 / 9, back, 0.0, dry)
            self.assertAlmostEqual(
                convert(float(rate[0]), "watt", "Btu_per_h") / btu, 1, delta=0.015
            )

    def test_cooling_holds_the_latent_heat(self) -> None:
        """27 °C, 60 % to 13 °C, 95 %: PsychroLib's enthalpies, 0.5 m³/s."""
        p = 101325.0
        w1 = psychrolib.GetHumRatioFromRelHum(27.0, 0.6, p)
        w2 = psychrolib.GetHumRatioFromRelHum(13.0, 0.95, p)
        dry = 0.5 / psychrolib.GetMoistAirVolume(27.0, w1, p)
        by_hand = dry * (
            psychrolib.GetMoistAirEnthalpy(13.0, w2) - psychrolib.GetMoistAirEnthalpy(27.0, w1)
        )
        one = np.array([1.0])
        found = air_heat_rate(0.5 * one, 13 * one, 27 * one, 0.0, 60 * one, 95 * one)
        self.assertAlmostEqual(float(found[0]) / by_hand, 1, delta=2e-3)
        sensible = air_heat_rate(0.5 * one, 13 * one, 27 * one, 0.0, 60 * one)
        self.assertLess(float(found[0]), 1.4 * float(sensible[0]))  # both negative

    def test_thin_air_carries_less(self) -> None:
        one = np.array([1.0])
        low, high = (air_heat_rate(one, 40 * one, 20 * one, a)[0] for a in (0.0, 2000.0))
        self.assertAlmostEqual(high / low, pressure_at(2000.0) / 101325.0, delta=2e-3)

    def test_where_the_airflow_is_measured(self) -> None:
        """The mass is that of the duct in which the sensor sits: supply air of 40 °C is lighter
        than the room's of 20 °C by the ratio of absolute temperatures (ideal gas)."""
        flow, supply, back = np.array([0.2]), np.array([40.0]), np.array([20.0])
        entering = air_heat_rate(flow, supply, back, 0.0, None, None)
        leaving = air_heat_rate(flow, supply, back, 0.0, None, None, "supply")
        self.assertAlmostEqual(float(leaving[0] / entering[0]), 293.15 / 313.15, 3)
        standard = air_heat_rate(flow, supply, back, 2000.0, None, None, "standard")
        low = air_heat_rate(flow, supply, back, 0.0, None, None, "standard")
        self.assertAlmostEqual(float(standard[0] / low[0]), 1.0, 2)  # whatever the altitude

    def test_the_demo_library_states_wide_limits_that_hold(self) -> None:
        scenario = INSTALLATIONS["air-side"]
        done = simulate(scenario)
        found = analyse_record(done.installation, done.trace())
        self.assertLess(abs(against_truth(done, found, done.trace())), 1)
        main = assess(done.installation, done.trace()).main
        self.assertIn("airflow assumed", main.method)
        self.assertGreater(main.cop.relative, 0.15)


class Tank(TestCase):
    def test_a_lift_by_hand(self) -> None:
        """200 L by 20 K: 200·0.992·4.18·20/3600 = 4.61 kWh (hand sum, water at 40 °C)."""
        joule = charge_energy(200.0, 1.0, np.array([20.0]), np.array([40.0]))
        self.assertAlmostEqual(float(joule[0]) / 3.6e6, 4.61, delta=0.01)

    def test_loss_surroundings_and_probes_as_described(self) -> None:
        """Two hours from 40 to 50 °C by two probes 4 K apart, 2.5 W/K in a loft of 5 °C."""
        n = 120
        warm = np.concatenate([np.full(30, 40.0), np.linspace(40, 50, n), np.full(30, 50.0)])
        hot = np.zeros(len(warm), np.bool_)
        hot[30 : 30 + n] = True
        readings = trace(tank_temp=warm, tank_top=warm + 2, tank_low=warm - 2)
        plain = tank_charge(HotWaterTank(200.0), readings, hot)
        usual = float(np.nansum(plain.energy))
        described = HotWaterTank(200.0, loss_w_k=2.5, ambient=5.0, probes=("tank_top", "tank_low"))
        found = tank_charge(described, readings, hot)
        taken = usual - 1.8 * (45.0 - 20.0) * 7200
        self.assertAlmostEqual(
            float(np.nansum(found.energy)) / (taken + 2.5 * (45.0 - 5.0) * 7200), 1.0, 3
        )
        self.assertIn("two probes", found.method)

        def share(meter_energy) -> float:
            ((factor, _),) = meter_energy.components[0].pairs
            return factor

        self.assertAlmostEqual(share(found) / share(plain), 0.10 / 0.15, 9)


YIELD = SourceYield("display", limit=0.05, lost=0.10)


def with_yield(cop=3.33, hours=48):
    """2 kW in; the display counts what came from outdoors."""
    n = hours * 60
    source = 3.6e6 * np.arange(n) * 2.0 / 60 * (cop - 1)
    return steady(hours).with_channels({"environmental_yield": source})


class Yield(TestCase):
    def test_the_electricity_is_added(self) -> None:
        """180 Wh in and 420 from outdoors is 600 out: COP 3.33, not 2.33 (hand sum); as much as a
        tenth of the electricity may not reach the water."""
        described = installation(circuits=(), yields=(YIELD,))
        main = assess(described, with_yield()).main
        self.assertAlmostEqual(main.cop.value, 2.33 + 0.95, delta=0.01)
        self.assertGreater(main.cop.value + main.cop.U, 3.33)
        self.assertIn("upper bound", main.method)

    def test_the_unit_meters_error_acts_on_both_sides(self) -> None:
        """COP = 1 − lost/2 + Y/E: a meter 1 % high lowers only Y/E (hand derivative)."""
        described = installation(circuits=(), yields=(YIELD,))
        main = assess(described, with_yield()).main
        part = next(p for p in main.cop.budget if p.source.startswith("unit meter"))
        self.assertAlmostEqual(part.u, -2.33 * 0.035 / np.sqrt(3), delta=0.002)

    def test_without_electricity_there_is_no_heat(self) -> None:
        readings = with_yield()
        described = installation(
            circuits=(),
            yields=(YIELD,),
            electricity=(ElectricityMeter("pump", "power:unit", (Consumer.DISTRIBUTION_PUMP,)),),
            consumers=(*UNIT, Consumer.DISTRIBUTION_PUMP),
        )
        found = assess(described, readings)
        self.assertIsNone(found.main)
        self.assertIn("not metered", str(found.missing_meters["display"]))


class Reported(TestCase):
    """Heat from the controller alone is no COP; a borrowed meter makes it one."""

    described = installation(circuits=(), reported=(ReportedHeat("controller"),))

    def readings(self, hours=72):
        n = hours * 60
        return steady(hours).with_channels({"heat_power": np.full(n, 8000.0)})

    def test_no_cop_from_what_is_reported(self) -> None:
        found = assess(self.described, self.readings())
        self.assertIsNone(found.main)
        self.assertIn("borrowed", str(found.levels[1].reason))

    def test_a_transfer_factor_by_hand(self) -> None:
        """8 kW reported × 0.85 on 2 kW: 3.4, U as a share that of the factor and the meter."""
        factor = Transfer(
            meter="controller",
            factor=0.85,
            U=0.06,
            low=0.0,
            high=5.0,
            until="2027-01-01T00:00",
            reason="two weeks",
        )
        found = assess(replace(self.described, corrections=(factor,)), self.readings()).main
        self.assertAlmostEqual(found.cop.value, 3.4, 6)
        by_hand = np.hypot(0.06, 2 * 0.035 / np.sqrt(3))
        self.assertAlmostEqual(found.cop.relative, by_hand, delta=1e-3)
        self.assertIn("borrowed", found.method)

    def test_it_holds_neither_in_other_weather_nor_for_ever(self) -> None:
        cold = {"low": 10.0, "high": 15.0, "until": "2027-01-01T00:00"}
        late = {"low": 0.0, "high": 5.0, "until": "2026-01-02T00:00"}
        for bounds, words in ((cold, "10 to 15 °C"), (late, "expired")):
            factor = Transfer(meter="controller", factor=0.85, U=0.06, reason="x", **bounds)
            found = assess(replace(self.described, corrections=(factor,)), self.readings()).main
            self.assertLess(found.coverage, 0.4)
            self.assertIn(words, str(found.left_out[0].reason))

    def test_two_weeks_beside_a_borrowed_meter_carry_a_season(self) -> None:
        done = simulate(INSTALLATIONS["controller"])
        readings = done.trace()
        first = analyse_record(done.installation, readings)
        (check,) = (c for c in first.facts.checks if c.name == "controller against meter")
        kinds = [type(p) for p in check.proposals]
        self.assertEqual(kinds, [Transfer, Prefer])
        self.assertAlmostEqual(check.proposals[0].factor, 1 / 1.17, delta=0.04)
        accepted = replace(done.installation, corrections=check.proposals)
        whole = analyse_record(accepted, readings)
        self.assertLess(abs(against_truth(done, whole, readings)), 1)
        self.assertGreater(assess(accepted, readings).main.coverage, 0.5)


class AddedElectricity(TestCase):
    def test_a_register_that_held_the_yield(self) -> None:
        n = 48 * 60
        kwh = 3.6e6 * np.arange(n) * 2.0 / 60 * 2.33
        readings = steady(48).with_channels({"heat_energy": kwh})
        described = installation(
            circuits=(),
            registers=(HeatRegister("register", resolution_kwh=0.001),),
            corrections=(AddElectricity(meter="register", reason="it is the yield"),),
        )
        self.assertAlmostEqual(assess(described, readings).main.cop.value, 2.33 + 0.95, delta=0.01)


class RefrigerantSides(TestCase):
    """A cycle made with CoolProp itself: dew points −8 and 38 °C, R290, 6 K superheat, 5 K
    subcooling, gas leaving at 65 °C."""

    side = RefrigerantSide(Refrigerant.R290, subcooling_k=5.0)

    def cycle(self):
        def h(*state):
            return PropsSI("H", *state, "R290")

        low, high = (PropsSI("P", "T", t + 273.15, "Q", 1, "R290") for t in (-8.0, 38.0))
        hot = h("T", 65 + 273.15, "P", high)
        suction = h("T", -2 + 273.15, "P", low)
        liquid = h("T", 33 + 273.15, "P", high)
        return low, high, (hot - liquid) / (hot - suction)

    def readings(self, hours=2, **changes):
        low, high, _ = self.cycle()
        n = hours * 60
        values = {
            "evaporating_pressure": low - 101325,
            "condensing_pressure": high - 101325,
            "discharge_temp": 65.0,
            "suction_temp": -2.0,
            **changes,
        }
        return steady(hours).with_channels({k: np.full(n, v) for k, v in values.items()})

    def test_heat_per_power_is_that_of_the_cycle(self) -> None:
        found = heat_per_power(self.side, self.readings())
        self.assertAlmostEqual(float(found[0]) / self.cycle()[2], 1, delta=2e-3)

    def test_every_refrigerant_against_coolprop(self) -> None:
        for name in REFRIGERANTS:
            table = enthalpies(name)
            for dew, heat in ((-12.5, 7.0), (17.0, 25.0), (48.0, 12.0)):
                p = PropsSI("P", "T", dew + 273.15, "Q", 1, name)
                mine = float(table.of_gas(np.array([p]), np.array([heat]))[0])
                exact = PropsSI("H", "T", dew + 273.15 + heat, "P", p, name)
                self.assertAlmostEqual(mine, exact, delta=700, msg=name)
                if dew < 0:
                    continue
                bubble = PropsSI("T", "P", p, "Q", 0, name)
                mine = float(table.of_liquid(np.array([p]), np.array([4.0]))[0])
                exact = PropsSI("H", "T", bubble - 4, "P", p, name)
                self.assertAlmostEqual(mine, exact, delta=700, msg=name)

    def test_beside_the_others_and_no_cop_rests_on_it(self) -> None:
        """2 kW, nine tenths of it into the refrigerant: 1.8 kW times the cycle's ratio."""
        described = installation(refrigerant=self.side)
        found = analyse_record(described, self.readings())
        groups = np.where(found.segments.state == State.HEATING, 0, -1)
        combination = found.facts.combinations[Level.H2]
        ways = {
            w.name: w
            for w in heat_methods(found.segments, combination, ["circuit", self.side.name], groups)
        }
        mine = ways[self.side.name]
        self.assertAlmostEqual(mine.heat.value / mine.hours, 1.8 * self.cycle()[2], delta=0.02)
        self.assertTrue(ways["circuit"].used)
        only = installation(refrigerant=self.side, circuits=())
        self.assertIsNone(assess(only, self.readings()).main)

    def test_outside_the_table_nothing_is_said(self) -> None:
        found = heat_per_power(self.side, self.readings(condensing_pressure=9e6))
        self.assertTrue(np.isnan(found).all())


class FixedPowers(TestCase):
    consumers = (*UNIT, Consumer.DISTRIBUTION_PUMP)

    def test_fixed_power_times_running_time(self) -> None:
        """6.9 kW on 2 kW and a pump of 50 W: H4 = H2·2000/2050 (hand sum)."""
        pump = FixedPower("pump", (Consumer.DISTRIBUTION_PUMP,), 50.0, RunsWith.PUMP, 0.4)
        described = installation(consumers=self.consumers, fixed=(pump,))
        found = assess(described, steady(5))
        by_level = {r.level: r for r in found.total.reckonings}
        h2, h4 = by_level[Level.H2].cop, by_level[Level.H4].cop
        self.assertAlmostEqual(h4.value / h2.value, 2000 / 2050, 6)
        (part,) = (p for p in h4.budget if "assumed power" in p.source)
        self.assertAlmostEqual(abs(part.u) / h4.value, 50 * 0.4 / np.sqrt(3) / 2050, 6)

    def test_it_runs_with_the_compressor_only(self) -> None:
        n = 240
        on = np.where(np.arange(n) < 120, 2000.0, 0.0)
        readings = trace(
            flow_rate=np.full(n, 3e-4),
            flow_temp=np.full(n, 35.0),
            return_temp=np.full(n, 30.0),
            power_unit=on,
            outdoor_temp=np.full(n, 2.0),
        )
        for runs, hours in ((RunsWith.COMPRESSOR, 2.0), (RunsWith.ALWAYS, 4.0)):
            pump = FixedPower("pump", (Consumer.DISTRIBUTION_PUMP,), 60.0, runs)
            described = installation(consumers=self.consumers, fixed=(pump,))
            main = assess(described, readings).main
            line = next(x for x in main.electricity_lines if x.name == "pump")
            self.assertAlmostEqual(line.energy.value, 0.060 * hours, 6)

    def test_a_pump_that_nobody_knows_gives_a_range(self) -> None:
        """20 to 120 W beside 2 kW: between H2·2000/2120 and H2·2000/2020 (hand sum)."""
        described = installation(consumers=self.consumers)
        found = analyse_record(described, steady(5))
        combination = found.facts.combinations[Level.H4]
        self.assertIn("not metered", str(combination.reason))
        groups = np.zeros(len(found.segments.state), int)
        part = missing_part(found.segments, combination, groups, (0.0, 1.0))
        h2 = assess(described, steady(5)).main.cop.value
        self.assertAlmostEqual(part.low.value / h2, 2000 / 2120, 4)
        self.assertAlmostEqual(part.high.value / h2, 2000 / 2020, 4)

    def test_a_heater_is_not_guessed(self) -> None:
        described = installation(consumers=(*UNIT, Consumer.BACKUP_HEATER))
        found = analyse_record(described, steady(5))
        groups = np.zeros(len(found.segments.state), int)
        self.assertIsNone(
            missing_part(found.segments, found.facts.combinations[Level.H3], groups, (0.0, 1.0))
        )
