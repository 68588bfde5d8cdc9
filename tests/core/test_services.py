"""Meters of one service each: like is paired with like. Sums by hand; invented data."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from pydantic import ValidationError

from ember.assessment.assess import assess
from ember.basis.series import Trace
from ember.boundary import Level, combinations_if_logged
from ember.boundary.combinations import combinations_by_service, services, takes_part
from ember.description.house import Tank
from ember.description.installation import (
    Consumer,
    ElectricityMeter,
    HeatRegister,
    Installation,
    Service,
)
from ember.metering import MeterEnergies
from tests.core.helpers import START, UNIT

KWH = 3.6e6
HELD = ("heat_pump", "backup_heater", "immersion_heater")
# Heating 1 120 kWh from 300, hot water 284 kWh from 70: 3.73, 4.06, and 1 404 from 370: 3.79.
HEATING, HOT_WATER = (1120.0, 300.0), (284.2, 70.0)


def registers(**totals: float) -> Trace:
    """A week of hourly registers that rise evenly to their totals [kWh]."""
    n = 7 * 24 + 1
    channels = {
        name.replace("__", ":"): np.linspace(1000.0, 1000.0 + total, n) * KWH
        for name, total in totals.items()
    }
    return Trace(START, 3600, channels)


def house(electricity: dict[str, str], heat: dict[str, str], **changes) -> Installation:
    """Meters by name and service, each on a channel of its name."""
    made = Installation(
        "Services",
        "UTC",
        tuple(
            ElectricityMeter(n, f"energy:{n}", UNIT, "B", serves=s) for n, s in electricity.items()
        ),
        registers=tuple(
            HeatRegister(n, f"heat_energy:{n}", serves=s, resolution_kwh=0.1)
            for n, s in heat.items()
        ),
    )
    return replace(made, **changes)


class Pairs(TestCase):
    def test_two_of_each(self) -> None:
        electricity = {"eh": "heating", "ew": "hot_water"}
        readings = registers(
            energy__eh=300, energy__ew=70, heat_energy__qh=1120, heat_energy__qw=284.2
        )
        found = assess(house(electricity, {"qh": "heating", "qw": "hot_water"}), readings).total
        self.assertAlmostEqual(found.reckonings[-1].cop.value, 1404.2 / 370, places=6)
        cops = {one.service: one.reckoning.cop.value for one in found.services}
        self.assertAlmostEqual(cops[Service.HEATING], 1120 / 300, places=6)  # 3.73
        self.assertAlmostEqual(cops[Service.HOT_WATER], 284.2 / 70, places=6)  # 4.06

    def test_without_services_they_would_be_paired_crosswise(self) -> None:
        """What happens to who does not say it: one register over one meter."""
        plain = house({"eh": "all", "ew": "all"}, {"qh": "all", "qw": "all"})
        self.assertEqual(services(plain), (Service.ALL,))
        combination = combinations_if_logged(plain)[Level.H2]
        self.assertEqual(len(combination.electricity), 1)

    def test_electricity_for_all_and_heat_by_service(self) -> None:
        readings = registers(energy__e=370, heat_energy__qh=1120, heat_energy__qw=284.2)
        found = assess(house({"e": "all"}, {"qh": "heating", "qw": "hot_water"}), readings).total
        self.assertAlmostEqual(found.reckonings[-1].cop.value, 1404.2 / 370, places=6)
        for one in found.services:  # 0.75 and 8.7 of before are stated by nobody
            self.assertIsNone(one.reckoning)
            self.assertIn("not metered", str(one.reason))

    def test_the_whole_less_one_service_is_the_other(self) -> None:
        """A meter for all and one for hot water: the heating is their difference."""
        readings = registers(
            energy__e=370, energy__ew=70, heat_energy__q=1404.2, heat_energy__qw=284.2
        )
        described = house({"e": "all", "ew": "hot_water"}, {"q": "all", "qw": "hot_water"})
        found = assess(described, readings).total
        self.assertAlmostEqual(found.reckonings[-1].cop.value, 1404.2 / 370, places=6)
        (water,) = found.services
        self.assertAlmostEqual(water.reckoning.cop.value, 284.2 / 70, places=6)

    def test_an_incomplete_pair_is_refused_with_the_reason(self) -> None:
        readings = registers(energy__eh=300, heat_energy__qh=1120, heat_energy__qw=284.2)
        described = house({"eh": "heating"}, {"qh": "heating", "qw": "hot_water"})
        found = assess(described, readings)
        self.assertEqual(found.total.reckonings, ())
        self.assertIn("for hot water not metered", str(found.levels[1].reason))
        first = found.total.services[0]
        self.assertAlmostEqual(first.reckoning.cop.value, 1120 / 300, places=6)

    def test_heating_alone_where_no_hot_water_is_made(self) -> None:
        readings = registers(energy__e=300, heat_energy__qh=1120)
        described = house({"e": "all"}, {"qh": "heating"})
        found = assess(described, readings).total
        self.assertAlmostEqual(found.reckonings[-1].cop.value, 1120 / 300, places=6)
        tank = assess(replace(described, tank=Tank(200.0)), readings)
        self.assertEqual(tank.total.reckonings, (), "electricity for hot water is in it")

    def test_cooling_stands_apart(self) -> None:
        readings = registers(
            energy__e=300, energy__ec=100, heat_energy__q=1120, heat_energy__qc=350
        )
        described = house({"e": "heating", "ec": "cooling"}, {"q": "heating", "qc": "cooling"})
        found = assess(described, readings).total
        self.assertAlmostEqual(found.reckonings[-1].cop.value, 1120 / 300, places=6)
        cool = next(one for one in found.services if one.service == Service.COOLING)
        self.assertAlmostEqual(cool.reckoning.cop.value, 3.5, places=6)


class Idle(TestCase):
    ALL = (*UNIT, Consumer.BACKUP_HEATER)

    def test_a_heater_that_surely_rests_needs_no_meter(self) -> None:
        readings = registers(energy__e=100, heat_energy__q=320)
        described = Installation(
            "Idle",
            "UTC",
            (ElectricityMeter("e", "energy:e", UNIT),),
            registers=(HeatRegister("q", "heat_energy:q", includes=HELD[:2]),),
            consumers=self.ALL,
        )
        self.assertEqual(assess(described, readings).total.reckonings, ())
        found = assess(replace(described, idle=(Consumer.BACKUP_HEATER,)), readings).total
        self.assertAlmostEqual(found.reckonings[-1].cop.value, 3.2, places=6)

    def test_only_heaters_are_declared_so(self) -> None:
        with self.assertRaisesRegex(ValidationError, "is no heater"):
            house({"e": "all"}, {"q": "all"}, idle=(Consumer.COMPRESSOR,))

    def test_the_whole_of_pump_and_heaters_stands_at_its_own_level(self) -> None:
        """10 kWh from 2.22 + 0.16 kWh: 4.20 at H3, though the register could hold an immersion
        heater that is not there."""
        readings = registers(energy__e=222, energy__b=16, heat_energy__q=1000)
        described = Installation(
            "Whole",
            "UTC",
            (
                ElectricityMeter("e", "energy:e", UNIT),
                ElectricityMeter("b", "energy:b", (Consumer.BACKUP_HEATER,)),
            ),
            registers=(HeatRegister("q", "heat_energy:q", includes=HELD),),
            consumers=self.ALL,
        )
        found = assess(described, readings).total.at(Level.H3)
        self.assertAlmostEqual(found.cop.value, 1000 / 238, places=6)

    def test_plans_name_the_service(self) -> None:
        described = house({"e": "all"}, {"qh": "heating", "qw": "hot_water"})
        found = combinations_by_service(described, MeterEnergies({}, {}, {}))
        self.assertEqual(set(found), {Service.HEATING, Service.HOT_WATER})

    def test_set_up_says_in_which_figure_each_meter_takes_part(self) -> None:
        described = house(
            {"eh": "heating", "ew": "hot_water"},
            {"qh": "heating", "qw": "hot_water", "spare": "cooling"},
        )
        found = takes_part(described)
        self.assertEqual(found["qh"], ("the whole: H2 to H4", "heating: H2 to H4"))
        self.assertEqual(found["ew"], ("the whole: H2 to H4", "hot water: H2 to H4"))
        self.assertEqual(found["spare"], ())


class Words(TestCase):
    def test_heat_whose_mode_is_not_known_has_a_line_of_its_own(self) -> None:
        readings = registers(energy__e=300, heat_energy__q=1120)
        found = assess(house({"e": "all"}, {"q": "all"}), readings).main
        self.assertEqual([line.name for line in found.heat_lines], ["modes not told apart"])
