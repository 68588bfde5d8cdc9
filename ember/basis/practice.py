"""Values of the trade that several rooms use, each once. Where each is from: docs/methods.md."""

NIGHT = (22, 6)  # local hours, from and to; common practice (of noise limits)
NIGHT_HOURS = (22, 23, 0, 1, 2, 3, 4, 5)
HEATING_BASE = 15.0  # outdoors, below which a house is heated [degC], common practice
KELVIN_SAVES = 0.025  # of the electricity, a kelvin of flow, common practice
KELVIN = 273.15  # [K] at 0 degC; SI brochure
