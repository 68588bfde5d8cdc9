"""Own solar and battery, against the house's bill and a loop over its moments. Invented data."""

from dataclasses import replace
from datetime import date, time
from unittest import TestCase

import numpy as np
from pydantic import ValidationError

from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import costs_of
from ember.basis.calendar import whole
from ember.basis.periods import Period
from ember.cost import battery_efficiency, own_of, supply_said
from ember.description.as_json import installation_to_json, problems_of
from ember.description.supply import Sharing, SolarWorth, Supply
from ember.description.tariff import Band, PricesFrom, Tariff, Tier
from ember.views.uses import uses
from tests.core.helpers import installation, trace

STEP, DAYS = 300, 20
TARIFF = Tariff(
    price=0.30,
    standing_charge=0.50,
    vat=0.1,
    export_price=0.08,
    bands=(Band("night", 0.15, time(0), time(5)),),
    changes=(
        PricesFrom(
            price=0.35,
            vat=0.1,
            export_price=0.05,
            bands=(Band("night", 0.20, time(0), time(5)),),
            start=date(2026, 1, 11),
        ),
    ),
)
BY_GRID = Supply(
    grid_import="power:import",
    grid_export="power:export",
    solar="power:solar",
    battery_charge="power:in",
    battery_discharge="power:out",
)


class House:
    """A house with panels and a battery that gives back 85 %, in steps of five minutes [W]."""

    def __init__(self, battery: bool = True) -> None:
        rng = np.random.default_rng(7)
        n = DAYS * 86400 // STEP
        hour = np.arange(n) * STEP / 3600 % 24
        bright = rng.uniform(0.1, 1.0, DAYS)[np.arange(n) * STEP // 86400]
        self.solar = 5000 * bright * np.clip(np.sin((hour - 8) / 8 * np.pi), 0, None)
        self.pump = np.where(rng.random(n) < 0.6, rng.uniform(600, 2500, n), 10.0)
        self.others = rng.uniform(100, 1500, n)
        self.load = self.pump + self.others
        self.into, self.out, held = np.zeros(n), np.zeros(n), 0.0
        for k in range(n if battery else 0):
            surplus = self.solar[k] - self.load[k]
            last = k >= n - 86400 // STEP  # it ends as empty as it began
            if hour[k] < 2 and not last:
                self.into[k] = 1000.0  # by the cheap hours
            elif surplus > 0 and not last:
                self.into[k] = min(surplus, 3000.0)
            elif surplus < 0 and hour[k] >= 5:
                self.out[k] = min(-surplus, 2500.0, held / STEP)
            held += (0.85 * self.into[k] - self.out[k]) * STEP
        balance = self.load + self.into - self.solar - self.out
        self.taken, self.given = np.maximum(balance, 0), np.maximum(-balance, 0)
        self.left = held

    def trace(self, pump=None, **more):
        named = {
            "power:import": self.taken,
            "power:export": self.given,
            "power:solar": self.solar,
            "power:in": self.into,
            "power:out": self.out,
            "power:load": self.load,
            "grid_power": self.taken - self.given,
            "battery_power": self.out - self.into,
            **more,
        }
        n = len(self.load)
        return trace(
            STEP,
            power_unit=self.pump if pump is None else pump,
            flow_rate=np.full(n, 3e-4),
            flow_temp=np.full(n, 35.0),
            return_temp=np.full(n, 30.0),
            outdoor_temp=np.full(n, 2.0),
        ).with_channels(named)


def prices(n):
    """Of the grid with VAT and of export, of each cell, by its hour and day alone."""
    hour, day = np.arange(n) * STEP // 3600 % 24, np.arange(n) * STEP // 86400
    later = day >= 10
    paid = np.where(hour < 5, np.where(later, 0.20, 0.15), np.where(later, 0.35, 0.30))
    return 1.1 * paid, np.where(later, 0.05, 0.08)


def cost_of(house, supply, pump=None, tariff=TARIFF, **more):
    readings = house.trace(pump, **more)
    analysis = analyse_record(installation(tariff=tariff, supply=supply), readings)
    (found,) = costs_of(analysis, [whole(analysis.start, analysis.stop)])
    return found, analysis


def kwh(power):
    return float(np.sum(power)) * STEP / 3.6e6


class TheBill(TestCase):
    def test_the_whole_house_pays_its_bill_and_what_it_did_not_sell(self) -> None:
        """With the house as the heat pump: what is bought, less what is sold, and the export price
        of all that the panels made."""
        for battery in (False, True):
            house = House(battery)
            paid, export = prices(len(house.load))
            bill = kwh(house.taken * paid) - kwh(house.given * export) + kwh(house.solar * export)
            supply = (
                BY_GRID
                if battery
                else replace(BY_GRID, battery_charge=None, battery_discharge=None)
            )
            found, _ = cost_of(house, supply, pump=house.load)
            self.assertLess(abs(house.left), 1.0)
            self.assertAlmostEqual(found.total.value - found.standing, bill, delta=0.001 * bill)
            self.assertAlmostEqual(sum(r.electricity.value for r in found.bands), kwh(house.load))

    def test_at_nothing_it_pays_what_is_bought(self) -> None:
        house = House()
        paid, _ = prices(len(house.load))
        supply = replace(BY_GRID, solar_worth=SolarWorth.NOTHING)
        found, _ = cost_of(house, supply, pump=house.load)
        bill = kwh(house.taken * paid)
        self.assertAlmostEqual(found.total.value - found.standing, bill, delta=0.001 * bill)

    def test_every_way_to_meter_it_says_the_same(self) -> None:
        house = House()
        first, _ = cost_of(house, BY_GRID)
        for supply in (
            replace(
                BY_GRID,
                grid_import="grid_power",
                grid_export="grid_power",
                battery_charge="battery_power",
                battery_discharge="battery_power",
            ),
            replace(BY_GRID, grid_import=None, grid_export=None, house_load="power:load"),
        ):
            found, _ = cost_of(house, supply)
            self.assertAlmostEqual(found.total.value, first.total.value)
        bare = House(battery=False)
        alone = replace(BY_GRID, battery_charge=None, battery_discharge=None)
        by_load = Supply(grid_import="power:import", house_load="power:load")
        self.assertAlmostEqual(
            cost_of(bare, by_load)[0].total.value, cost_of(bare, alone)[0].total.value
        )


class TheHeatPump(TestCase):
    def setUp(self) -> None:
        self.house = House(battery=False)
        self.supply = replace(BY_GRID, battery_charge=None, battery_discharge=None)

    def looped(self, sharing):
        """kWh of own solar and money, moment by moment."""
        house, (paid, export) = self.house, prices(len(self.house.load))
        own, money = 0.0, 0.0
        for k, pump in enumerate(house.pump.tolist()):
            used = min(house.solar[k], house.load[k])
            mine = {
                Sharing.PROPORTIONAL: used * pump / house.load[k],
                Sharing.OTHERS_FIRST: max(used - house.others[k], 0.0),
                Sharing.HEAT_PUMP_FIRST: min(used, pump),
            }[sharing]
            own += mine * STEP / 3.6e6
            money += (mine * export[k] + (pump - mine) * paid[k]) * STEP / 3.6e6
        return own, money

    def test_to_whom_own_solar_goes(self) -> None:
        for sharing in Sharing:
            own, money = self.looped(sharing)
            found, _ = cost_of(self.house, replace(self.supply, sharing=sharing))
            (solar,) = [row for row in found.bands if row.band == "own solar"]
            self.assertAlmostEqual(solar.electricity.value, own)
            self.assertAlmostEqual(found.total.value - found.standing, money)

    def test_uses_add_up_to_it(self) -> None:
        found, analysis = cost_of(self.house, self.supply)
        parts = uses(analysis, whole(analysis.start, analysis.stop))
        total = sum(part.paid.value for part in parts)
        self.assertAlmostEqual(total, found.total.value - found.standing)

    def test_it_says_how_it_is_priced_or_what_lacks(self) -> None:
        described = installation(tariff=TARIFF, supply=BY_GRID)
        _, analysis = cost_of(House(), BY_GRID)
        said = supply_said(described, analysis.facts.channels, analysis.segments)
        self.assertIn("the export price forgone", said)
        self.assertIn("85% of it comes out", said)
        readings = self.house.trace()
        left = {k: v for k, v in readings.channels.items() if k != "power:out"}
        analysis = analyse_record(described, replace(readings, channels=left))
        said = supply_said(described, analysis.facts.channels, analysis.segments)
        self.assertIn("power:out", said)
        self.assertIsNone(supply_said(installation(), (), analysis.segments))

    def test_a_brushed_span_is_an_assessment_of_it(self) -> None:
        described = installation(tariff=TARIFF, supply=self.supply)
        readings = self.house.trace()
        ends = [readings.start + 3 * 86_400 + 37_500, readings.start + 5 * 86_400 + 52_200]
        period = Period("some", *ends)
        cut = analyse_record(described, readings).cut(readings, ends)
        (mine,), (other,) = (
            costs_of(one, [period]) for one in (cut, analyse_record(described, readings, ends))
        )
        self.assertEqual(mine.total.value, other.total.value)
        self.assertIn("own solar", [row.band for row in mine.bands])

    def test_without_a_supply_all_is_bought(self) -> None:
        paid, _ = prices(len(self.house.load))
        found, _ = cost_of(self.house, None)
        self.assertAlmostEqual(found.total.value - found.standing, kwh(self.house.pump * paid))

    def test_an_error_of_a_meter_of_the_supply_stays_within_what_is_said(self) -> None:
        true, _ = cost_of(self.house, self.supply)
        found, _ = cost_of(self.house, self.supply, **{"power:solar": self.house.solar * 1.02})
        named = [c.u for c in true.total.budget if c.source == "share of own solar and battery"]
        self.assertEqual(len(named), 1)
        self.assertLess(abs(found.total.value - true.total.value), 2 * abs(named[0]))

    def test_where_a_reading_lacks_the_money_is_of_the_rest(self) -> None:
        solar = self.house.solar.copy()
        solar[: len(solar) // 4] = np.nan
        found, _ = cost_of(self.house, self.supply, **{"power:solar": solar})
        self.assertAlmostEqual(found.covered, 0.75)

    def test_registers_each_quarter_of_an_hour(self) -> None:
        """Steps of 0.01 kWh; within a quarter the mix is one."""
        house, quarter = self.house, 3
        n = len(house.load)
        flows = {"import": house.taken, "export": house.given, "solar": house.solar}
        registers = {}
        for name, power in flows.items():
            counted = np.concatenate([[0.0], np.cumsum(power)[:-1]]) * STEP
            read = np.full(n, np.nan)
            read[::quarter] = np.round(counted[::quarter] / 36_000.0) * 36_000.0
            registers[f"energy:{name}"] = read
        supply = Supply(
            grid_import="energy:import", grid_export="energy:export", solar="energy:solar"
        )
        readings = replace(house.trace(**registers), native=dict.fromkeys(registers, 900.0))
        analysis = analyse_record(installation(tariff=TARIFF, supply=supply), readings)
        (found,) = costs_of(analysis, [whole(analysis.start, analysis.stop)])
        own = 0.0
        mean = {k: v.reshape(-1, quarter).sum(1) for k, v in flows.items()}
        load = mean["import"] + mean["solar"] - mean["export"]
        sun = np.clip(mean["solar"] - mean["export"], 0, load) / load
        own = float((house.pump.reshape(-1, quarter).sum(1) * sun).sum()) * STEP / 3.6e6
        (solar,) = [row for row in found.bands if row.band == "own solar"]
        self.assertAlmostEqual(solar.electricity.value, own, delta=0.01 * own)

    def test_read_too_seldom_it_lies_between(self) -> None:
        """Own electricity by the day: any share of it may have been the heat pump's."""
        house = self.house
        register = np.cumsum(np.concatenate([[0.0], house.solar[:-1]])) * STEP
        seldom = np.full(len(register), np.nan)
        seldom[:: 86400 // STEP] = register[:: 86400 // STEP]
        supply = replace(self.supply, solar="energy:solar")
        readings = house.trace(**{"energy:solar": seldom})
        readings = replace(readings, native={"energy:solar": 86400.0})
        described = installation(tariff=TARIFF, supply=supply)
        analysis = analyse_record(described, readings)
        said = supply_said(described, analysis.facts.channels, analysis.segments)
        self.assertIn("less than once an hour", said)
        (found,) = costs_of(analysis, [whole(analysis.start, analysis.stop)])
        low, high = kwh(house.pump) * 0.05, kwh(house.pump) * 0.35 * 1.1
        money = found.total.value - found.standing
        self.assertLess(money - found.total.U, low + 0.2 * (high - low))
        self.assertGreater(
            money + found.total.U, kwh(house.pump * prices(len(house.load))[0]) * 0.95
        )

    def test_tiers_count_what_is_bought(self) -> None:
        tariff = Tariff(price=0.3, tiers=(Tier(50.0, 0.2),))
        found, _ = cost_of(
            self.house, replace(self.supply, sharing=Sharing.OTHERS_FIRST), tariff=tariff
        )
        own, _ = self.looped(Sharing.OTHERS_FIRST)
        (tier,) = [row for row in found.bands if row.on_top]
        self.assertAlmostEqual(tier.electricity.value, kwh(self.house.pump) - own - 50.0)


class TheBattery(TestCase):
    def test_a_kwh_out_of_it_costs_its_charge_and_its_losses(self) -> None:
        house = House()
        _, analysis = cost_of(house, BY_GRID)
        segments, zone = analysis.segments, analysis.zone
        own = own_of(BY_GRID, TARIFF, segments, zone)
        paid, export = prices(len(house.load))
        by_sun = np.minimum(house.into, np.maximum(house.solar - house.load, 0))
        charge = kwh(by_sun * export) + kwh((house.into - by_sun) * paid)
        efficiency = battery_efficiency(segments)
        self.assertAlmostEqual(efficiency, house.out.sum() / house.into.sum())
        self.assertAlmostEqual(efficiency, 0.85, places=2)
        self.assertAlmostEqual(own.battery_price[0], charge / kwh(house.out), places=4)
        self.assertIsNone(own_of(None, TARIFF, segments, zone))
        self.assertIsNone(own_of(BY_GRID, TARIFF, replace(segments, sums={}), zone))


class Described(TestCase):
    def test_what_cannot_be_told_is_refused(self) -> None:
        for fields, words in (
            ({"solar": "power:solar"}, "how much of the solar was used"),
            ({"solar": "power:solar", "grid_import": "power:a"}, "how much of the solar was used"),
            ({"grid_import": "power:a"}, "name the solar"),
            ({}, "name the solar"),
            (
                {"solar": "power:s", "house_load": "power:a", "battery_charge": "power:b"},
                "both what goes in",
            ),
        ):
            with self.assertRaises(ValidationError) as caught:
                Supply(**fields)
            self.assertIn(words, str(caught.exception))

    def test_a_channel_that_is_none_of_the_supply_is_named(self) -> None:
        for channel in ("flow_temp", "grid_power"):
            described = installation(supply=BY_GRID)
            text = installation_to_json(described).replace("power:solar", channel)
            (problem,) = problems_of(text)
            self.assertEqual(problem.where, "supply.solar")
            self.assertIn(f"'{channel}' is not a channel of power or energy", problem.what)
