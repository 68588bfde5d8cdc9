"""The demo's installations: Varrick Sound, a made-up island municipality.

Most are healthy; each fault of the handbook's trust table is somewhere. The truth is known to the
tests and not to the core.
"""

from dataclasses import replace
from datetime import date

from ember.description.house import Built, CurvePoint, Emitters, House, SetCurve
from ember.description.installation import (
    AirCircuit,
    Carbon,
    Consumer,
    ElectricityAccuracy,
    ElectricityMeter,
    FixedPower,
    HeatPump,
    Installation,
    Probes,
    Refrigerant,
    RefrigerantSide,
    ReportedHeat,
    RunsWith,
    UnitKind,
)
from ember.description.logged import Column, HandKind, HandSeries, Keeps
from ember.description.supply import BATTERY, GRID, Supply
from stand_ins.catalogue import SCENARIOS
from stand_ins.dialects import DIALECTS
from stand_ins.faults import FAULTS
from stand_ins.meters import MeterErrors
from stand_ins.plant import Plant
from stand_ins.scenario import CHANNELS, Scenario, default_installation

FIRST = date(2025, 10, 1)
DAYS = 212  # October to April
STEP = 300
MINUTE = 60
USUAL = (
    "flow_temp", "return_temp", "flow_rate", "outdoor_temp", "outdoor_humidity", "room_temp",
    "tank_temp", "power_unit", "power_pump", "power_backup", "energy_unit", "heat_energy",
    "hot_water_on",
)  # fmt: skip
_WITHIN = MeterErrors(
    flow_gain=0.004, flow_offset=0.06, return_offset=0.05, outdoor_offset=-0.2, unit_gain=-0.003
)
_FLAT = Plant(capacity=6000.0, heat_loss=95.0, emitter=44.0, flow=13.5, tank=150.0, part_load=0.02)
_HOUSE = Plant(capacity=9000.0, heat_loss=155.0, emitter=72.0, flow=19.5, part_load=0.02)


def _base(name: str, seed: int, plant: Plant, step: int = STEP) -> Scenario:
    return Scenario(
        name=name,
        seed=seed,
        first_day=FIRST,
        days=DAYS,
        step=step,
        plant=plant,
        errors=_WITHIN,
        installation=default_installation(name, plant),
    )


def _with(name: str, seed: int, plant: Plant, fault: str, size: float) -> Scenario:
    found = next(f for f in FAULTS if f.name == fault)
    made = found.make(_base(name, seed, plant), size)
    return replace(made, fault=f"{fault}: {size:g} {found.unit}")


def _clinic() -> Scenario:
    """The controller's heat alone, and two weeks in January with a borrowed meter beside it."""
    base = _base("Clinic", 31, _HOUSE)
    assert base.installation is not None
    described = base.installation
    borrowed = replace(
        described.circuits[0],
        name="borrowed meter",
        flow_class=None,
        flow_limit=0.03,
        probes=Probes.CLASS_AA,
    )
    described = replace(
        described,
        circuits=(borrowed,),
        registers=(),
        reported=(ReportedHeat("controller", includes=borrowed.includes),),
    )
    errors = replace(
        _WITHIN,
        reported=1.17,
        only=(("flow_rate", 100.0, 115.0), ("return_temp", 100.0, 115.0)),
        without=("heat_energy",),
    )
    return replace(
        base,
        installation=described,
        errors=errors,
        fault="the controller reports 17 % too much; borrowed meter on days 100 to 115",
    )


def _electricity_only() -> Scenario:
    base = _base("Flat 4", 32, _FLAT)
    assert base.installation is not None
    described = replace(base.installation, circuits=(), registers=())
    without = ("flow_rate", "flow_temp", "return_temp", "heat_energy")
    return replace(
        base,
        installation=described,
        errors=replace(_WITHIN, without=without),
        fault="heat is not measured",
    )


def _tank_only() -> Scenario:
    """A plug meter and one probe in the tank, which is charged by the clock at night."""
    base = _base("Buoy store", 61, _FLAT._replace(tank_clock=3.0, tank_set=50.0), MINUTE)
    assert base.installation is not None and base.installation.tank is not None
    tank = replace(base.installation.tank, effective_share=1.0)  # a spiral down to the bottom
    described = replace(base.installation, circuits=(), registers=(), tank=tank)
    without = ("flow_rate", "flow_temp", "return_temp", "heat_energy", "room_temp")
    return replace(
        base,
        days=60,
        installation=described,
        errors=replace(_WITHIN, without=without),
        fault="heat is not measured",
    )


def _with_fans(described: Installation) -> Installation:
    """What moves the heat of a unit on room air is a fan, and its meter is called so."""
    meters = tuple(
        replace(m, name="fan meter") if m.name == "pump meter" else m for m in described.electricity
    )
    return replace(described, electricity=meters)


def _library() -> Scenario:
    """Ducted air-to-air: heat by the air side, the airflow by its nominal value."""
    plant = _HOUSE._replace(tank=0.0, backup=0.0, pump=30.0)
    base = _base("Library", 33, plant)
    assert base.installation is not None
    described = _with_fans(base.installation)
    air = AirCircuit("air side", nominal_m3h=1500.0, includes=described.circuits[0].includes)
    described = replace(
        described,
        circuits=(),
        registers=(),
        air=(air,),
        rated=None,
        unit=HeatPump(kind=UnitKind.AIR_TO_AIR_DUCTED, capacity_kw=9.0, minimum_output_kw=2.5),
        house=replace(described.house, emitters=Emitters.AIR, design_flow=None),
    )
    without = ("flow_rate", "flow_temp", "return_temp", "heat_energy", "hot_water_on", "tank_temp")
    return replace(
        base, installation=described, errors=replace(_WITHIN, air_m3h=1590.0, without=without)
    )


def _columns(*further: str, without: tuple[str, ...] = ()) -> tuple[Column, ...]:
    """The usual columns of a log, and further ones whose headers do not say it all."""
    headers = DIALECTS["plain"].headers
    named = [name for name in (*USUAL, *further) if name not in without]
    return tuple(Column(headers[name][0], CHANNELS[name][0]) for name in named)


def _loft() -> Scenario:
    """Sun on the outdoor sensor; another series of the weather is logged too."""
    base = _with("Net loft", 34, _HOUSE, "sun on the outdoor sensor", 7.0)
    assert base.installation is not None
    return replace(
        base,
        installation=replace(base.installation, columns=_columns("outdoor_weather")),
        errors=replace(base.errors, weather=True),
    )


def _glazed() -> Scenario:
    """Healthy: the sun warms its rooms, two of which are logged, as is the sun."""
    base = _base("Sunroom house", 61, _HOUSE._replace(windows=5.0))
    assert base.installation is not None
    columns = _columns("solar_radiation", "room_bedroom")
    return replace(base, installation=replace(base.installation, columns=columns))


def _quirky() -> Scenario:
    """Healthy: the pump always on, some pipe loss, a high standby, coarse steps, gaps; the pump has
    no meter, its power is taken from its display."""
    plant = _HOUSE._replace(pump_on=1.0, pipe=18.0, controls=38.0)
    errors = replace(_WITHIN, temp_step=0.2, flow_noise=0.02, gaps=((40 * 86400.0, 43 * 86400.0),))
    base = _base("Museum boathouse", 35, plant)
    pump = FixedPower("pump", (Consumer.DISTRIBUTION_PUMP,), 48.0, RunsWith.PUMP, 0.25)
    described = replace(_without_pump_meter(base.installation), fixed=(pump,))
    return replace(base, errors=replace(errors, without=("power_pump",)), installation=described)


def _without_pump_meter(described: Installation | None) -> Installation:
    assert described is not None
    meters = tuple(m for m in described.electricity if m.name != "pump meter")
    return replace(described, electricity=meters)


def _post_office() -> Scenario:
    """Register resets, and nobody knows what the pump takes: H4 is a range."""
    made = _with("Old post office", 49, _HOUSE, "register reset", 2.0)
    return replace(
        made,
        installation=_without_pump_meter(made.installation),
        errors=replace(made.errors, without=("power_pump",)),
    )


def _two_probes() -> Scenario:
    """Healthy within its class, and the class is wide: two unmatched class-B probes."""
    plant = _HOUSE._replace(pump_on=1.0, pipe=12.0)
    base = _base("Slip cottage", 36, plant)
    assert base.installation is not None
    circuit = replace(base.installation.circuits[0], probes=Probes.CLASS_B, name="own sensors")
    meters = tuple(
        replace(m, accuracy=ElectricityAccuracy.CLASS_B) for m in base.installation.electricity
    )
    described = replace(base.installation, circuits=(circuit,), registers=(), electricity=meters)
    errors = replace(_WITHIN, flow_offset=0.28, return_offset=-0.11, without=("heat_energy",))
    return replace(base, installation=described, errors=errors)


def _timed() -> Scenario:
    """Defrosts every 45 minutes of running below 6 °C, whatever the air."""
    plant = _HOUSE._replace(timed=2700.0)
    return replace(_base("Net store", 37, plant, MINUTE), fault="defrosts by the clock: 45 min")


def _iced() -> Scenario:
    """Defrosts that a time limit ends before the coil is clear."""
    plant = _HOUSE._replace(melts=0.33, defrost_limit=540.0)
    return replace(
        _base("Bait shed", 38, plant, MINUTE), fault="defrosts end at a limit of 9 min, ice stays"
    )


def _thermostat() -> Scenario:
    """No weather curve, short runs, and a tank heated to 60 °C every seventh night."""
    plant = _HOUSE._replace(
        fixed_flow=50.0, least=0.55, tight=0.5, pause=240.0, pasteurise=60.0, tank_set=52.0
    )
    return replace(
        _base("Slipway workshop", 39, plant, MINUTE),
        fault="fixed flow temperature of 50 °C and short cycling",
    )


def _buffer() -> Scenario:
    """A buffer mixes, and the flow behind it is logged; the night is set back by 3 K."""
    plant = _HOUSE._replace(blend=0.45, steep=2.5, setback=3.0)
    base = _base("Weaving shed", 40, plant, MINUTE)
    assert base.installation is not None
    return replace(
        base,
        errors=replace(_WITHIN, secondary=True),
        installation=replace(base.installation, columns=_columns("flow_secondary")),
        fault="a buffer loses 45 % of ΔT by mixing",
    )


def _gauged() -> Scenario:
    """Healthy, with gauges: the refrigerant's pressures and temperatures are logged."""
    base = _base("Pump house", 54, _HOUSE, MINUTE)
    assert base.installation is not None
    side = RefrigerantSide(Refrigerant.R290)
    gauges = ("evaporating_pressure", "condensing_pressure", "suction_temp", "discharge_temp")
    return replace(
        base,
        errors=replace(_WITHIN, gauges=True),
        installation=replace(base.installation, refrigerant=side, columns=_columns(*gauges)),
    )


def _heads() -> Scenario:
    """One outdoor unit with two heads; it cools in summer."""
    plant = _FLAT._replace(tank=0.0, backup=0.0, pump=25.0, cooling=23.0)
    base = replace(_base("Tide house", 55, plant), days=365)
    assert base.installation is not None
    described = _with_fans(base.installation)
    includes = described.circuits[0].includes
    air = tuple(
        AirCircuit(
            label,
            f"supply_air_temp:{label}",
            f"return_air_temp:{label}",
            nominal_m3h=airflow,
            includes=includes,
        )
        for label, airflow in (("lounge", 640.0), ("bedroom", 380.0))
    )
    without = ("flow_rate", "flow_temp", "return_temp", "heat_energy", "hot_water_on", "tank_temp")
    heads = ("supply_air_lounge", "return_air_lounge", "supply_air_bedroom", "return_air_bedroom")
    described = replace(
        described,
        circuits=(),
        registers=(),
        air=air,
        rated=None,
        unit=HeatPump(kind=UnitKind.AIR_TO_AIR_MULTI_HEAD, capacity_kw=6.0, minimum_output_kw=1.7),
        house=replace(described.house, emitters=Emitters.AIR, design_flow=None),
        columns=_columns(*heads, without=("power_backup", *without)),
    )
    errors = replace(
        _WITHIN, heads=(("lounge", 0.63, 640.0), ("bedroom", 0.37, 380.0)), without=without
    )
    return replace(base, errors=errors, installation=described)


def _ground() -> Scenario:
    """A ground source: nothing frosts; the brine's temperature is logged."""
    base = _base("Observatory", 56, _HOUSE._replace(ground=1.0), MINUTE)
    assert base.installation is not None
    unit = replace(base.installation.unit, kind=UnitKind.GROUND_SOURCE, low_outdoor_limit=None)
    return replace(
        base,
        errors=replace(_WITHIN, brine=True),
        installation=replace(base.installation, unit=unit, columns=_columns("source_temp")),
    )


ALL = (
    Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS, Consumer.DISTRIBUTION_PUMP,
    Consumer.BACKUP_HEATER,
)  # fmt: skip


def _one_meter() -> Scenario:
    """Healthy, metered as most are: one electricity meter for everything and one heat meter, whose
    register counts net; nobody knows what the pump takes. Its house has panels and a battery."""
    base = _base("Salt store", 57, _HOUSE, MINUTE)
    assert base.installation is not None
    tariff = base.installation.tariff
    assert tariff is not None
    described = replace(
        base.installation,
        electricity=(_main_meter("power:unit"),),
        consumers=ALL,
        tariff=replace(tariff, export_price=0.07),
        supply=Supply(
            grid_import=GRID,
            grid_export=GRID,
            solar="power:solar",
            battery_charge=BATTERY,
            battery_discharge=BATTERY,
        ),
        carbon=Carbon(0.16, "the island's made-up mix"),
        house=replace(base.installation.house, curve=SetCurve(slope=0.55, offset=8.0)),
        columns=_columns(
            "power_solar",
            "battery_power",
            "grid_power",
            without=("power_pump", "power_backup", "hot_water_on", "energy_unit"),
        ),
    )
    errors = replace(
        _WITHIN,
        whole=True,
        net=True,
        without=("power_pump", "power_backup", "hot_water_on", "energy_unit"),
    )
    return replace(base, installation=described, errors=errors, panels=6.5, battery=7.0)


def _main_meter(channel: str) -> ElectricityMeter:
    return ElectricityMeter("main meter", channel, ALL, ElectricityAccuracy.CLASS_B)


def _by_hand() -> Scenario:
    """Healthy; nothing is logged but the weather. Both meters are read by hand, about weekly."""
    base = replace(_base("Signal house", 58, _HOUSE), days=365)
    assert base.installation is not None
    register = replace(base.installation.registers[0], circuit=None)
    described = replace(
        base.installation,
        electricity=(_main_meter("energy:main"),),
        consumers=ALL,
        circuits=(),
        registers=(register,),
        columns=_columns(without=_ALL_BUT_WEATHER),
        by_hand=(
            HandSeries("electricity", HandKind.ELECTRICITY, "kWh", "main meter", resolution=0.1),
            HandSeries("heat", HandKind.HEAT, "kWh", register.name, resolution=1.0),
        ),
    )
    return replace(base, installation=described, fault="nothing is logged but the weather")


def _display() -> Scenario:
    """Healthy; the controller's own totals of each month are all there is."""
    base = replace(_base("Beacon hut", 59, _FLAT), days=365)
    assert base.installation is not None
    reported = ReportedHeat(
        "display", "heat_energy:display", includes=base.installation.circuits[0].includes
    )
    described = replace(
        base.installation,
        electricity=(_main_meter("energy:main"),),
        consumers=ALL,
        circuits=(),
        registers=(),
        reported=(reported,),
        columns=_columns(without=_ALL_BUT_WEATHER),
        by_hand=(
            HandSeries("electricity", HandKind.ELECTRICITY, "kWh", "main meter", keeps=Keeps.MONTH),
            HandSeries("heat", HandKind.HEAT, "kWh", "display", keeps=Keeps.MONTH),
        ),
    )
    return replace(base, installation=described, fault="heat is only reported by the controller")


def _table() -> Scenario:
    """Nothing is metered yet: a house that is to have a heat pump, and the maker's table."""
    base = replace(_base("Rope walk", 60, _HOUSE), days=7)
    assert base.installation is not None
    curve = SetCurve((CurvePoint(-10.0, 48.0), CurvePoint(0.0, 41.0), CurvePoint(15.0, 28.0)))
    house = House(
        floor_area_m2=135.0,
        heat_loss_kw=8.6,
        design_outdoor=-10.0,
        design_flow=50.0,
        emitters=Emitters.RADIATORS,
        built=Built.TO_1980,
        airtightness_ach50=6.0,
        curve=curve,
    )
    unit = replace(base.installation.unit, low_outdoor_limit=-20.0)
    described = replace(
        base.installation,
        house=house,
        unit=unit,
        consumers=ALL,
        electricity=(_main_meter("energy:main"),),
        circuits=(),
        registers=(),
        columns=(),
    )
    return replace(base, installation=described)


_ALL_BUT_WEATHER = tuple(name for name in USUAL if not name.startswith("outdoor"))
TABLE_ONLY = ("table",)  # nothing is logged of them
BY_HAND = ("by-hand", "display")  # whose sheet is filled in: see stand_ins.notebook

FURTHER = {
    "controller": _clinic(),
    "electricity-only": _electricity_only(),
    "air-side": _library(),
    "sun": _loft(),
    "glazed": _glazed(),
    "quirky": _quirky(),
    "two-probes": _two_probes(),
    "offset": _with("Chandlery", 41, _HOUSE, "pair offset", 0.6),
    "unit": _with("Flat 1", 42, _FLAT, "register in a wrong unit", 2.0),
    "stuck": _with("Flat 2", 43, _FLAT, "stuck return sensor", 6.0),
    "spikes": _with("Flat 3", 44, _FLAT, "spikes of the flow sensor", 300.0),
    "phases": _with("Harbour office", 45, _HOUSE, "phases without a clamp", 0.5),
    "other-loads": _with("Pilot house", 46, _HOUSE, "other loads on the circuit", 300.0),
    "doubled": _with("Smokehouse", 47, _HOUSE, "backup counted twice", 3.0),
    "heat-alone": _with("Sail loft", 48, _HOUSE, "backup in the heat alone", 4.0),
    "resets": _post_office(),
    "late": _with("Lighthouse cottage", 50, _HOUSE, "electricity logged late", 3600.0),
    "glycol": _with("Boat shed", 51, _HOUSE, "glycol unknown to the meter", 0.25),
    "yield": _with("Ropewalk", 52, _HOUSE, "yield logged as heat", 1.0),
    "timed": _timed(),
    "iced": _iced(),
    "thermostat": _thermostat(),
    "buffer": _buffer(),
    "gauges": _gauged(),
    "heads": _heads(),
    "ground": _ground(),
    "one-meter": _one_meter(),
    "by-hand": _by_hand(),
    "display": _display(),
    "table": _table(),
    "tank": _tank_only(),
    "rate": _with("Flat 5", 53, _FLAT, "a rate register not read", 6.0),
}

INSTALLATIONS = {**SCENARIOS, **FURTHER}
