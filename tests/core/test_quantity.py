"""Estimate against the `uncertainties` package; units against published values."""

from math import sqrt
from unittest import TestCase

import numpy as np
import pint
from hypothesis import given
from hypothesis import strategies as st
from uncertainties import ufloat

from ember.basis.codes import SourceCode
from ember.basis.quantity import (
    Estimate,
    Estimates,
    UncertaintyComponent,
    added,
    conversion,
    convert,
    exact,
    merge,
    rectangular,
    unit_named,
)
from ember.messages import Source

positive = st.floats(0.1, 1e4)
small = st.floats(0.0, 0.2)


class EstimateAgainstUncertainties(TestCase):
    """The `uncertainties` package is the reference library for linear propagation."""

    @given(positive, positive, small, small, small)
    def test_quotient_with_a_shared_source(self, a, b, ua, ub, shared) -> None:
        common = ufloat(0, 1)
        x = ufloat(a, ua * a) + common * shared * a
        y = ufloat(b, ub * b) + common * shared * b * 0.5
        mine = Estimate(
            a,
            "kWh",
            (
                UncertaintyComponent(Source(SourceCode.METHOD, detail="a"), ua * a),
                UncertaintyComponent(Source(SourceCode.METHOD, detail="common"), shared * a),
            ),
        ).over(
            Estimate(
                b,
                "kWh",
                (
                    UncertaintyComponent(Source(SourceCode.METHOD, detail="b"), ub * b),
                    UncertaintyComponent(
                        Source(SourceCode.METHOD, detail="common"), shared * b * 0.5
                    ),
                ),
            ),
            "",
        )
        reference = x / y
        self.assertAlmostEqual(mine.value, reference.nominal_value, places=9)
        self.assertAlmostEqual(mine.u / mine.value, reference.std_dev / mine.value, places=9)

    @given(positive, positive, small, small)
    def test_product_sum_and_difference(self, a, b, ua, ub) -> None:
        x, y = ufloat(a, ua * a), ufloat(b, ub * b)
        one = Estimate(
            a, "kWh", (UncertaintyComponent(Source(SourceCode.METHOD, detail="a"), ua * a),)
        )
        other = Estimate(
            b, "kWh", (UncertaintyComponent(Source(SourceCode.METHOD, detail="b"), ub * b),)
        )
        for mine, reference in (
            (one.times(other, "kWh²"), x * y),
            (one + other, x + y),
            (one - other, x - y),
            (one + one, x + x),
        ):
            self.assertAlmostEqual(mine.value, reference.nominal_value, delta=1e-9 * a * b + 1e-9)
            self.assertAlmostEqual(mine.u, reference.std_dev, delta=1e-9 * a * b + 1e-9)

    def test_what_two_figures_share_cancels_in_their_ratio(self) -> None:
        before = Estimate(
            100.0, "kWh", (UncertaintyComponent(Source(SourceCode.METHOD, detail="meter"), 3.0),)
        )
        after = Estimate(
            90.0, "kWh", (UncertaintyComponent(Source(SourceCode.METHOD, detail="meter"), 2.7),)
        )
        self.assertAlmostEqual(after.over(before, "").u, 0.0, places=12)

    def test_different_units_do_not_add(self) -> None:
        with self.assertRaises(ValueError):
            exact(1.0, "kWh") + exact(1.0, "EUR")


class Shown(TestCase):
    def test_digits_follow_the_uncertainty(self) -> None:
        for value, u, text in (
            (3.412, 0.085, "3.41 ± 0.17"),
            (3.412, 0.25, "3.4 ± 0.5"),
            (16973.2, 511.0, "16,973 ± 1,022 kWh"),
            (0.8523, 0.0251, "0.85 ± 0.05"),
        ):
            unit = "kWh" if value > 100 else ""
            self.assertEqual(
                str(
                    Estimate(
                        value,
                        unit,
                        (UncertaintyComponent(Source(SourceCode.METHOD, detail="x"), u),),
                    )
                ),
                text,
            )

    def test_no_uncertainty_shows_none(self) -> None:
        self.assertEqual(str(exact(0.3125, "EUR")), "0.3125 EUR")
        self.assertIsNone(exact(1.0, "").decimals)

    def test_same_sources_merge_with_their_signs(self) -> None:
        merged = merge(
            [
                UncertaintyComponent(Source(SourceCode.METHOD, detail="a"), 1.0),
                UncertaintyComponent(Source(SourceCode.METHOD, detail="b"), 2.0),
                UncertaintyComponent(Source(SourceCode.METHOD, detail="a"), -1.0),
            ]
        )
        self.assertEqual(
            merged, (UncertaintyComponent(Source(SourceCode.METHOD, detail="b"), 2.0),)
        )

    def test_rectangular_limits(self) -> None:
        """GUM (JCGM 100:2008) 4.3.7: u = limit/√3."""
        self.assertAlmostEqual(rectangular(0.3), 0.3 / sqrt(3))


class ManyAtOnce(TestCase):
    """`Estimates` are to give what `Estimate` gives of each, which is checked against the
    `uncertainties` package above."""

    @given(st.lists(st.tuples(positive, positive, small, small, small), min_size=1, max_size=6))
    def test_sums_and_quotients_are_those_of_each(self, drawn) -> None:
        a, b, ua, ub, shared = (np.array(column) for column in zip(*drawn, strict=True))
        mine = Source(SourceCode.METHOD, detail="mine")
        both = Source(SourceCode.METHOD, detail="both")
        steps = Source(SourceCode.REGISTER_STEP, "x")
        heat = Estimates(
            a, "kWh", {(both, False): a * shared, (mine, False): a * ua, (steps, True): a * 0.01}
        )
        used = Estimates(b, "kWh", {(both, False): b * shared / 2, (steps, True): b * ub})
        sums, ratios = added([heat, used], len(a)), heat.over(used, "")
        for k in range(len(a)):
            for found, one in (
                (sums[k], heat[k] + used[k]),
                (ratios[k], heat[k].over(used[k], "")),
            ):
                self.assertAlmostEqual(found.value, one.value, delta=1e-9 * abs(one.value))
                self.assertAlmostEqual(found.U, one.U, delta=1e-9 * max(one.U, 1e-9))
                self.assertEqual({p.cause for p in found.budget}, {p.cause for p in one.budget})
            self.assertAlmostEqual(float(ratios.U[k]), ratios[k].U)

    def test_one_among_many_is_itself(self) -> None:
        one = Estimate(
            3.0,
            "kWh",
            (UncertaintyComponent(Source(SourceCode.SAMPLING, "m"), 0.2, random=True),),
        )
        self.assertEqual(Estimates.of(one)[0], one)

    def test_a_divisor_of_zero_harms_no_other(self) -> None:
        over = Estimates(np.array([1.0, 4.0]), "kWh", {})
        under = Estimates(np.array([0.0, 2.0]), "kWh", {})
        self.assertEqual(over.over(under, "")[1].value, 2.0)
        self.assertEqual(added([], 2).values.tolist(), [0.0, 0.0])


class Units(TestCase):
    def test_published_conversions(self) -> None:
        """Btu (IT), US gallon and ton of refrigeration as published (NIST SP 811, from memory)."""
        self.assertAlmostEqual(convert(1, "kWh", "Btu"), 3412.14, places=2)
        self.assertAlmostEqual(convert(1, "gpm", "L_per_min"), 3.785412, places=6)
        self.assertAlmostEqual(convert(1, "ton", "kW"), 3.51685, places=5)
        self.assertAlmostEqual(convert(30.0, "kBtu_per_h", "kW"), 8.79, places=2)
        self.assertAlmostEqual(convert(30.0, "kBtu_per_h", "ton"), 2.5, places=9)
        self.assertAlmostEqual(convert(212, "degF", "degC"), 100.0, places=9)
        self.assertAlmostEqual(convert(-40, "degF", "degC"), -40.0, places=9)

    def test_against_pints_own_registry(self) -> None:
        """Pint's default definitions as reference, where they mean the same."""
        reference = pint.UnitRegistry()
        for mine, theirs, target, their_target in (
            ("GJ", "gigajoule", "kWh", "kilowatt_hour"),
            ("MJ", "megajoule", "joule", "joule"),
            ("L_per_s", "liter/second", "m3_per_h", "meter**3/hour"),
            ("L_per_h", "liter/hour", "m3_per_s", "meter**3/second"),
            ("MWh", "megawatt_hour", "joule", "joule"),
        ):
            expected = reference.Quantity(1.0, theirs).to(their_target).magnitude
            self.assertAlmostEqual(convert(1.0, mine, target) / expected, 1.0, places=12)

    @given(st.floats(-50, 120))
    def test_conversions_round_trip(self, value) -> None:
        for a, b in (("degC", "degF"), ("kW", "kBtu_per_h"), ("L_per_min", "gpm")):
            self.assertAlmostEqual(convert(convert(value, a, b), b, a), value, places=9)

    def test_spellings(self) -> None:
        for text, unit in (
            ("°C", "degC"),
            ("L/min", "L_per_min"),
            ("m³/h", "m3_per_h"),
            ("kWh", "kWh"),
            ("kW", "kW"),
            ("°F", "degF"),
            ("%RH", "percent"),
            ("GPM", "gpm"),
            ("MWh", "MWh"),
        ):
            self.assertEqual(unit_named(text), unit, text)
        self.assertIsNone(unit_named("furlong"))

    def test_different_quantities_do_not_convert(self) -> None:
        self.assertIsNone(conversion("kWh", "kW"))
        with self.assertRaises(ValueError):
            convert(1, "degC", "kW")
