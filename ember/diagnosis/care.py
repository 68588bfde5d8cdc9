"""Cautions, and who may do what; common practice. Local codes and licensed practice decide."""

MAINS = (
    "Isolate the mains before opening the unit; fans start without warning. Work on mains is for a "
    "qualified electrician; local codes decide."
)
CARE_REFRIGERANT = (
    f"{MAINS} Refrigerant circuits only by certified technicians; some refrigerants burn."
)
ICE = (
    "Ice falls and meltwater freezes on paths; never chip a coil. "
    "Isolate the unit first: fans start without warning."
)
CARE_WATER = (
    "Stored water below 60 °C can grow legionella: follow local rules before lowering a set point. "
    "Above 50 °C it scalds within seconds to minutes: blend at the tap."
)
CARE_PRESSURE = "The circuit is hot and under pressure: let it cool, isolate, and relieve it first."
GLYCOL = "Antifreeze is toxic to some degree: gloves, and never into the drain."
COMFORT = "Watch the rooms: who is old, ill or very young must not be left in the cold."

ANYBODY = "The controller's settings: whoever looks after it, noting the old values first."
TECHNICIAN = "A certified technician; the refrigerant circuit by nobody else."
HEATING = "A heating engineer."
ELECTRICIAN = "A qualified electrician."
