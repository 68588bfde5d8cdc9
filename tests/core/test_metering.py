"""Heat, registers, error limits and boundaries against hand sums and standards."""

from dataclasses import replace
from math import sqrt
from unittest import TestCase

import numpy as np

from ember.boundary import Level, combinations
from ember.boundary.combinations import all_metered, find_combination
from ember.description.installation import (
    Consumer,
    ElectricityAccuracy,
    ElectricityMeter,
    HeatRegister,
    HeatSource,
    Pipe,
    Probes,
    WaterCircuit,
)
from ember.metering import meter
from ember.metering.heat import circuit_heat, heat_capacity_rate, pair_u
from ember.metering.register import increments
from ember.properties import Fluid, FluidKind
from tests.core.helpers import LITRE_PER_MIN, UNIT, installation, steady, trace


def relative(component, energy) -> float:
    """Standard uncertainty of a term as a share of the energy."""
    return sum(f * b.sum() for f, b in component.pairs) / energy.sum()


class Heat(TestCase):
    def test_twenty_litres_a_minute_at_five_kelvin(self) -> None:
        """6.9–7.0 kW (hand sum)."""
        energy, _, _ = circuit_heat(WaterCircuit("c"), Fluid(), steady(1))
        self.assertTrue(6900 < energy.mean() / 60 < 7000, energy.mean() / 60)

    def test_density_is_that_of_the_meters_pipe(self) -> None:
        rate, warm, cold = (np.array([v]) for v in (20 * LITRE_PER_MIN, 50.0, 30.0))
        in_return = heat_capacity_rate(rate, warm, cold, Fluid(), Pipe.RETURN)
        in_flow = heat_capacity_rate(rate, warm, cold, Fluid(), Pipe.FLOW)
        # IAPWS-IF97: 988.1 kg/m³ at 50 °C, 995.7 at 30 °C.
        self.assertAlmostEqual(float((in_flow / in_return)[0]), 988.1 / 995.7, delta=2e-4)

    def test_heat_is_negative_while_it_is_drawn_back(self) -> None:
        energy, _, _ = circuit_heat(WaterCircuit("c"), Fluid(), steady(1, flow_temp=26.0))
        self.assertTrue((energy < 0).all())

    def test_pipe_loss_looks_like_an_offset(self) -> None:
        """200 W at 8 L/min is 0.36 K (hand sum)."""
        carried = heat_capacity_rate(
            np.array([8 * LITRE_PER_MIN]), np.array([30.0]), np.array([30.0]), Fluid(), Pipe.RETURN
        )
        self.assertAlmostEqual(200 / float(carried[0]), 0.36, delta=0.005)

    def test_unknown_stays_unknown(self) -> None:
        gappy = steady(1)
        values = gappy["flow_temp"].copy()
        values[10:20] = np.nan
        energy, _, _ = circuit_heat(
            WaterCircuit("c"), Fluid(), gappy.with_channels({"flow_temp": values})
        )
        self.assertEqual(int(np.isnan(energy).sum()), 10)


class Limits(TestCase):
    def test_two_class_b_probes(self) -> None:
        """IEC 60751 class B at 40 °C: ±0.5 K each; at ΔT 5 K 8.2 % at k = 1, 16.3 % at k = 2."""
        self.assertAlmostEqual(pair_u(Probes.CLASS_B, 40.0, 40.0) / 5, 0.082, delta=0.0005)
        self.assertAlmostEqual(2 * pair_u(Probes.CLASS_B, 40.0, 40.0) / 5, 0.163, delta=0.0005)

    def test_iec_60751_classes(self) -> None:
        """IEC 60751: AA 0.1 + 0.0017|t|, A 0.15 + 0.002|t|."""
        self.assertAlmostEqual(pair_u(Probes.CLASS_AA, 50, 50), sqrt(2 / 3) * 0.185)
        self.assertAlmostEqual(pair_u(Probes.CLASS_A, -20, -20), sqrt(2 / 3) * 0.19)

    def test_en_1434_limits_by_hand(self) -> None:
        """EN 1434-1 (from memory): class 2 flow sensor ±(2 + 0.02·q_p/q) %, pair
        ±(0.5 + 3·Δθ_min/Δθ) %, calculator ±(0.5 + Δθ_min/Δθ) %; here q = 1.2 m³/h, Δθ = 5 K."""
        circuit = WaterCircuit(
            "m",
            flow_class=2,
            nominal_flow_m3h=2.5,
            probes=Probes.HEAT_METER_PAIR,
            in_service=False,
        )
        energy, components, _ = circuit_heat(circuit, Fluid(), steady(1))
        flow, pair, calculator, _ = (relative(t, energy) * sqrt(3) * 100 for t in components)
        self.assertAlmostEqual(flow, 2 + 0.02 * 2.5 / 1.2, places=6)
        self.assertAlmostEqual(pair, 0.5 + 3 * 3 / 5, places=6)
        self.assertAlmostEqual(calculator, 0.5 + 3 / 5, places=6)
        doubled, _, _, _ = circuit_heat(replace(circuit, in_service=True), Fluid(), steady(1))[1]
        self.assertAlmostEqual(relative(doubled, energy) * sqrt(3) * 100, 2 * flow, places=6)

    def test_the_flow_sensors_limit_is_capped(self) -> None:
        """EN 1434-1: never above 5 % (class 3), from memory."""
        circuit = WaterCircuit(
            "m",
            flow_class=3,
            nominal_flow_m3h=600.0,
            probes=Probes.HEAT_METER_PAIR,
            in_service=False,
        )
        energy, components, _ = circuit_heat(circuit, Fluid(), steady(1))
        self.assertAlmostEqual(relative(components[0], energy) * sqrt(3), 0.05, places=6)

    def test_a_resting_pump_carries_neither_heat_nor_error(self) -> None:
        circuit = WaterCircuit("m", flow_class=2, probes=Probes.HEAT_METER_PAIR)
        energy, components, _ = circuit_heat(circuit, Fluid(), steady(1, flow_rate=0.0))
        self.assertEqual(float(np.abs(energy).sum()), 0.0)
        for component in components:
            self.assertEqual(sum(f * b.sum() for f, b in component.pairs), 0.0, component.source)

    def test_an_unknown_class_is_said_to_be_assumed(self) -> None:
        meter_energies = meter(installation(), steady(1))
        (component,) = meter_energies.electricity["unit meter"].components
        self.assertIn("class not known, taken as MID class A", component.source)

    def test_glycol_is_less_certain_than_water(self) -> None:
        for fluid, share in ((Fluid(), 0.001), (Fluid(FluidKind.PROPYLENE_GLYCOL, 0.3), 0.01)):
            energy, components, _ = circuit_heat(WaterCircuit("c"), fluid, steady(1))
            self.assertAlmostEqual(relative(components[-1], energy), share, places=9)


class Registers(TestCase):
    def test_increments_add_up_and_stand_where_they_were_read(self) -> None:
        register = np.array([10.0, np.nan, np.nan, 13.0, np.nan, np.nan, 14.0]) * 3.6e6
        energy, holes, smallest = increments(register, 60, 180.0)
        np.testing.assert_allclose(energy[:6] / 3.6e6, [0, 0, 3, 0, 0, 1])
        self.assertTrue(np.isnan(energy[6]))
        self.assertEqual((holes, smallest / 3.6e6), ((), 1.0))

    def test_a_reset_is_never_negative_and_never_counted(self) -> None:
        register = np.array([100.0, 101.0, 0.0, 1.0, 2.0]) * 3.6e5
        energy, _, _ = increments(register, 60, 60.0)
        self.assertTrue(np.isnan(energy[1]))
        self.assertAlmostEqual(np.nansum(energy) / 3.6e5, 3.0)

    def test_a_wild_reading_is_not_counted(self) -> None:
        register = np.array([1.0, 1.1, 9000.0, 1.3, 1.4]) * 3.6e6
        energy, _, _ = increments(register, 60, 60.0)
        np.testing.assert_array_equal(np.isnan(energy), [False, True, True, False, True])

    def test_a_hole_is_known_as_a_whole(self) -> None:
        register = np.arange(20.0) * 3.6e5
        register[5:12] = np.nan
        energy, holes, _ = increments(register, 60, 60.0)
        self.assertEqual([(h.start, h.stop) for h in holes], [(4, 12)])
        self.assertAlmostEqual(np.nansum(energy) / 3.6e5, 19.0)

    def test_a_register_that_was_never_read(self) -> None:
        energy, holes, _ = increments(np.full(5, np.nan), 60, 60.0)
        self.assertTrue(np.isnan(energy).all())
        self.assertEqual(holes, ())


def electricity(**meters: tuple[Consumer, ...]):
    return tuple(
        ElectricityMeter(n, f"power:{n}", c, ElectricityAccuracy.CLASS_B) for n, c in meters.items()
    )


PUMP, BACKUP = (Consumer.DISTRIBUTION_PUMP,), (Consumer.BACKUP_HEATER,)
ALL = (*UNIT, *PUMP, *BACKUP)


class Boundaries(TestCase):
    """Levels of SEPEMO-Build (from memory): H1 compressor, H2 with source and controls, H3 with
    backup and immersion heater, H4 with pumps."""

    def computable(self, meters, heat=(HeatSource.HEAT_PUMP,), consumers=ALL):
        described = installation(
            electricity=meters, consumers=consumers, circuits=(WaterCircuit("c", includes=heat),)
        )
        channels = {m.channel.replace(":", "_"): 100.0 for m in meters}
        readings = steady(1, **channels)
        return combinations(described, meter(described, readings))

    def test_each_consumer_on_its_own_meter(self) -> None:
        found = self.computable(
            electricity(comp=UNIT[:1], rest=UNIT[1:], pump=PUMP, backup=BACKUP),
            (HeatSource.HEAT_PUMP, HeatSource.BACKUP_HEATER),
        )
        self.assertEqual([p.level for p in found.values() if p.reason is None], list(Level))
        self.assertEqual(found[Level.H1].electricity, ((1, "comp"),))
        # The heat meter holds the backup's heat; at H1 and H2 its electricity is taken out.
        self.assertEqual(found[Level.H2].heat_by_heaters, ((-1, "backup"),))
        self.assertEqual(found[Level.H3].heat_by_heaters, ())

    def test_a_main_meter_less_its_sub_meters(self) -> None:
        found = self.computable(electricity(main=ALL, pump=PUMP, backup=BACKUP))
        self.assertEqual(
            set(found[Level.H2].electricity), {(1, "main"), (-1, "pump"), (-1, "backup")}
        )
        self.assertEqual(set(found[Level.H3].electricity), {(1, "main"), (-1, "pump")})
        self.assertEqual(found[Level.H4].electricity, ((1, "main"),))
        # Backup heat that the heat meter does not see counts by its electricity.
        self.assertEqual(found[Level.H4].heat_by_heaters, ((1, "backup"),))

    def test_what_is_not_metered_is_named(self) -> None:
        found = self.computable(electricity(unit=UNIT, backup=BACKUP))
        self.assertIsNone(found[Level.H3].reason)
        self.assertEqual(str(found[Level.H4].reason), "distribution pump not metered")

    def test_one_meter_for_everything_gives_h4_alone(self) -> None:
        found = self.computable(
            electricity(main=ALL), (HeatSource.HEAT_PUMP, HeatSource.BACKUP_HEATER)
        )
        self.assertIsNone(found[Level.H4].reason)
        self.assertIn("'main' also holds", str(found[Level.H2].reason))

    def test_heat_and_electricity_have_the_same_boundary(self) -> None:
        """An immersion heater in the heat but not in the electricity gives no H3."""
        consumers = (*UNIT, Consumer.IMMERSION_HEATER)
        found = self.computable(
            electricity(unit=UNIT), (HeatSource.HEAT_PUMP, HeatSource.IMMERSION_HEATER), consumers
        )
        self.assertIn("immersion heater", str(found[Level.H2].reason))
        self.assertEqual(str(found[Level.H3].reason), "immersion heater not metered")

    def test_a_silent_meter_says_why(self) -> None:
        described = installation()
        meter_energies = meter(described, trace(flow_rate=[1e-4] * 5, flow_temp=[35.0] * 5))
        found = combinations(described, meter_energies)
        self.assertIn("no readings of power:unit", str(found[Level.H2].reason))
        self.assertIn("no readings of return_temp", meter_energies.missing["circuit"].sentence)

    def test_fewest_meters_win(self) -> None:
        meters = {"a": frozenset("xy"), "b": frozenset("x"), "c": frozenset("y")}
        self.assertEqual(find_combination(frozenset("xy"), meters), ((1, "a"),))
        self.assertIsNone(find_combination(frozenset("z"), meters))

    def test_everything_metered_is_counted_once(self) -> None:
        described = installation(electricity=electricity(main=ALL, pump=PUMP), consumers=ALL)
        meter_energies = meter(described, steady(1, power_main=100.0, power_pump=10.0))
        self.assertEqual(all_metered(described, meter_energies), ((1, "main"),))


class RegisterErrors(TestCase):
    def test_a_register_shares_the_errors_of_its_logged_sensors(self) -> None:
        described = installation(
            circuits=(WaterCircuit("m", flow_class=2, probes=Probes.HEAT_METER_PAIR),),
            registers=(HeatRegister("reg", circuit="m", accuracy_class=2),),
        )
        n = 600
        readings = steady(10).with_channels({"heat_energy": np.floor(np.arange(n) / 8.6) * 3.6e6})
        meter_energies = meter(described, readings)
        circuit, register = meter_energies.heat["m"], meter_energies.heat["reg"]
        self.assertEqual(
            [t.source for t in circuit.components], [t.source for t in register.components]
        )
        for a, b in zip(circuit.components, register.components, strict=True):
            known = np.isfinite(register.energy)
            share = sum(f * v[known].sum() for f, v in b.pairs) / register.energy[known].sum()
            self.assertAlmostEqual(relative(a, circuit.energy), share, places=9)

    def test_a_register_alone_assumes_the_usual(self) -> None:
        described = installation(circuits=(), registers=(HeatRegister("reg", accuracy_class=2),))
        readings = steady(10).with_channels({"heat_energy": np.arange(600.0) * 4e5})
        components = meter(described, readings).heat["reg"].components
        self.assertEqual(
            [t.source for t in components],
            ["reg: flow sensor", "reg: temperature pair", "reg: calculator"],
        )
