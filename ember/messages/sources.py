"""What a source of uncertainty is called."""

from typing import NamedTuple

from ember.basis.codes import SourceCode

SOURCES: dict[SourceCode, str] = {
    SourceCode.ELECTRICITY_METER: "electricity meter",
    SourceCode.HEAT_METER: "heat meter",
    SourceCode.START_MOMENT: "moment of the start",
    SourceCode.BEGIN_AND_END: "begin and end",
    SourceCode.OUTDOOR_SENSOR: "outdoor sensor",
    SourceCode.FLOW_TEMPERATURE: "flow temperature",
    SourceCode.SUPPLY_TEMPERATURE: "supply air temperature",
    SourceCode.STORE_HEAT: "store's described heat",
    SourceCode.TANK_PROBES: "{of}: {detail} for the mean",
    SourceCode.TANK_VOLUME: "{of}: volume",
    SourceCode.STANDING_LOSS: "{of}: standing loss",
    SourceCode.TANK_DRAWS: "{of}: draws too small to see",
    SourceCode.TANK_PROBE: "tank probe",
    SourceCode.ASSUMED_POWER: "{of}: assumed power",
    SourceCode.AIRFLOW: "{of}: airflow",
    SourceCode.AIR_TEMPERATURES: "{of}: air temperatures",
    SourceCode.FLOW_SENSOR: "{of}: flow sensor",
    SourceCode.TEMPERATURE_PAIR: "{of}: temperature pair",
    SourceCode.CALCULATOR: "{of}: calculator",
    SourceCode.TWO_PROBES: "{of}: two probes, class {detail}",
    SourceCode.OFFSET_CORRECTION: "{of}: offset correction",
    SourceCode.FLUID_PROPERTIES: "fluid properties",
    SourceCode.READINGS_APART: "{of}: readings {detail} min apart",
    SourceCode.TO_REFRIGERANT: "{of}: electricity that reaches the refrigerant",
    SourceCode.PRESSURES: "{of}: pressures and temperatures",
    SourceCode.YIELD: "{of}: yield",
    SourceCode.REPORTED: "{of}: reported, not measured",
    SourceCode.TRANSFER_FACTOR: "{of}: transfer factor",
    SourceCode.LOST_ELECTRICITY: "electricity that does not reach the water",
    SourceCode.CORRECTED_FACTOR: "{of}: corrected factor",
    SourceCode.CORRECTED_OFFSET: "{of}: corrected offset",
    SourceCode.SHARED_EVENLY: "shared out evenly between readings, {detail}",
    SourceCode.SAMPLING: "{of}: sampling",
    SourceCode.TEMPERATURE_STEPS: "{of}: steps of the temperatures",
    SourceCode.REGISTER_STEP: "{of}: register step",
    SourceCode.TIME_NOT_COVERED: "time not covered",
    SourceCode.RATED_TABLE: "rated table",
    SourceCode.CONSUMER_POWER: "{of}: power",
    SourceCode.CONSUMER_SHARE: "{of}: share in the rating",
    SourceCode.EFFICIENCY_BEFORE: "efficiency of the heating before",
    SourceCode.HOURS_SCATTER: "scatter of the hours",
    SourceCode.FLOW_NEEDED: "the flow that is needed",
    SourceCode.ONE_SPEED: "running at one speed, above the mean",
    SourceCode.DATE_CHANGE: "change at a date",
    SourceCode.SENSOR_PAIR: "pair of sensors",
    SourceCode.NOT_COMPARED: "running not compared",
    SourceCode.HEAT_LOSS: "heat loss",
    SourceCode.HOURS_OF_USE: "hours of use",
    SourceCode.MID_CLASS: "{of}: MID class {detail}",
    SourceCode.CLASS_NOT_KNOWN: "{of}: class not known, taken as MID class A",
    SourceCode.PLUG_METER: "{of}: plug meter",
    SourceCode.CLAMP: "{of}: clamp without voltage",
    SourceCode.METHOD: "{detail}",
}


class Source(NamedTuple):
    """A source of uncertainty: two parts of one source add, whatever it is called.

    Attributes
    ----------
    of : str
        the meter or consumer that errs, empty for none.
    detail : str
        what tells it from others of its kind.
    """

    code: SourceCode
    of: str = ""
    detail: str = ""

    @property
    def words(self) -> str:
        """It as it is said."""
        return SOURCES[self.code].format(of=self.of, detail=self.detail)
