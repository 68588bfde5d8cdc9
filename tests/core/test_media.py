"""Properties of water, glycol and moist air against published values and reference libraries."""

from unittest import TestCase

import numpy as np
import psychrolib
from iapws import IAPWS97

from ember.basis.errors import DescriptionError
from ember.properties import Fluid, FluidKind, liquid
from ember.properties.bake import TABLE, rows
from stand_ins.plant import _frost_ratio, _humidity_ratio, _water

TEMPS = np.arange(5.0, 91.0, 5.0)


class Water(TestCase):
    def test_against_iapws_if97(self) -> None:
        """IAPWS-IF97 at 2 bar, by the iapws package."""
        water = liquid(Fluid())
        for temp, rho, cp in zip(TEMPS, water.rho(TEMPS), water.cp(TEMPS), strict=True):
            reference = IAPWS97(T=temp + 273.15, P=0.2)
            self.assertAlmostEqual(rho / reference.rho, 1.0, delta=2e-4, msg=f"{temp} °C")
            self.assertAlmostEqual(cp / (reference.cp * 1000), 1.0, delta=8e-4, msg=f"{temp} °C")

    def test_published_point(self) -> None:
        """35 °C, 2 bar: 994.08 kg/m³ and 4.179 kJ/(kg K) (IAPWS-IF97)."""
        water, at = liquid(Fluid()), np.array([35.0])
        self.assertAlmostEqual(float(water.rho(at)[0]), 994.08, delta=0.15)
        self.assertAlmostEqual(float(water.cp(at)[0]), 4179, delta=3)


class Glycol(TestCase):
    def test_printed_values(self) -> None:
        """Aqueous glycols at 20 °C, 30 % by mass, as in printed tables (CRC Handbook, VDI Heat
        Atlas; from memory): ethylene 1038 kg/m³ and 3.66 kJ/(kg K), propylene 1023 and 3.85.
        Printed heat capacities of the same mixture differ by up to 2 %."""
        for kind, rho, cp in (
            (FluidKind.ETHYLENE_GLYCOL, 1038.0, 3660.0),
            (FluidKind.PROPYLENE_GLYCOL, 1023.0, 3850.0),
        ):
            mixture, at = liquid(Fluid(kind, 0.30)), np.array([20.0])
            self.assertAlmostEqual(float(mixture.rho(at)[0]) / rho, 1.0, delta=0.004)
            self.assertAlmostEqual(float(mixture.cp(at)[0]) / cp, 1.0, delta=0.02)

    def test_a_meter_set_for_water_reads_three_to_four_percent_high(self) -> None:
        """25 % propylene glycol at 35 °C carries 3–4 % less (common practice)."""
        water, mixture = liquid(Fluid()), liquid(Fluid(FluidKind.PROPYLENE_GLYCOL, 0.25))
        at = np.array([35.0])
        ratio = float((mixture.rho(at) * mixture.cp(at) / (water.rho(at) * water.cp(at)))[0])
        self.assertTrue(0.96 <= ratio <= 0.97, ratio)

    def test_strength_between_two_tabulated_ones(self) -> None:
        at = np.array([30.0])
        values = [
            float(liquid(Fluid(FluidKind.PROPYLENE_GLYCOL, f)).rho(at)[0])
            for f in (0.30, 0.325, 0.35)
        ]
        self.assertAlmostEqual(values[1], (values[0] + values[2]) / 2, places=3)

    def test_impossible_strengths_are_refused(self) -> None:
        for kind, fraction in (
            (FluidKind.WATER, 0.3),
            (FluidKind.PROPYLENE_GLYCOL, 0.02),
            (FluidKind.ETHYLENE_GLYCOL, 0.7),
        ):
            with self.assertRaises(DescriptionError):
                Fluid(kind, fraction)


class Baked(TestCase):
    def test_the_committed_table_is_what_coolprop_gives(self) -> None:
        lines = TABLE.read_text(encoding="utf-8").splitlines()[1:]
        fresh = rows()
        self.assertEqual(len(lines), len(fresh))
        for line, row in zip(lines, fresh, strict=True):
            kept = line.split(",")
            self.assertEqual(kept[:3], [str(v) for v in row[:3]])
            for a, b in zip(kept[3:], row[3:], strict=True):
                self.assertAlmostEqual(float(a) / float(b), 1.0, delta=1e-5)


class MoistAirOfTheStandIn(TestCase):
    """The simulated frost's humidity; the core itself needs no moist air yet."""

    def test_printed_saturation_values(self) -> None:
        """ASHRAE Fundamentals, table 2 of ch. 1, from memory: 20 °C 14.758 g/kg, over ice at
        −10 °C 1.6062 g/kg; they hold 0.5 % for real gas, which Magnus' formula leaves out."""
        self.assertAlmostEqual(_humidity_ratio(20.0, 1.0) * 1e3 / 14.758, 1.0, delta=0.008)
        self.assertAlmostEqual(_frost_ratio(-10.0) * 1e3 / 1.6062, 1.0, delta=0.008)

    def test_against_psychrolib(self) -> None:
        psychrolib.SetUnitSystem(psychrolib.SI)
        for temp in (-8.0, 0.5, 7.0, 15.0):
            reference = psychrolib.GetHumRatioFromRelHum(temp, 0.85, 101325)
            self.assertAlmostEqual(
                _humidity_ratio(temp, 0.85) / reference, 1.0, delta=0.09 if temp < 0 else 0.006
            )

    def test_dew_point(self) -> None:
        """25 °C and 80 % have their dew point at 21.309 °C (ASHRAE Fundamentals ch. 1)."""
        self.assertAlmostEqual(
            _humidity_ratio(25.0, 0.8) / _humidity_ratio(21.309, 1.0), 1.0, delta=2e-3
        )

    def test_the_stand_ins_water_agrees_with_iapws(self) -> None:
        for temp in (20.0, 35.0, 50.0):
            reference = IAPWS97(T=temp + 273.15, P=0.2)
            expected = reference.rho * reference.cp
            self.assertAlmostEqual(_water(temp) / expected, 1.0, delta=2e-3)
