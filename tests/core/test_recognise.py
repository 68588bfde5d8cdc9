"""Columns by their words, and by what their readings do."""

from unittest import TestCase

import numpy as np

from ember.intake.dialect import Dialect
from ember.intake.lexicon import Says, concepts
from ember.intake.mapping import _unit_of
from ember.intake.modes import meaning, proposed
from ember.intake.recognise import recognised
from ember.intake.sample import Sample

# Header sets of loggers as they might be in several languages; common practice. What stands
# beside each is what a practitioner would say, written down before the words of the lexicon were.
HEADERS = {
    "English": {
        "LWT (°C)": "flow_temp", "EWT (°C)": "return_temp", "Flow rate (L/min)": "flow_rate",
        "OAT (°C)": "outdoor_temp", "Electric power (W)": "power",
        "Heat meter (kWh)": "heat_energy",
        "Electricity import (kWh)": "energy", "DHW cylinder (°C)": "tank_temp",
        "Lounge (°C)": "room_temp", "Outdoor humidity (%)": "outdoor_humidity",
    },
    "German": {
        "Vorlauftemperatur [°C]": "flow_temp", "Rücklauftemperatur [°C]": "return_temp",
        "Durchfluss [l/h]": "flow_rate", "Außentemperatur [°C]": "outdoor_temp",
        "Wirkleistung [W]": "power", "Wärmemenge [kWh]": "heat_energy",
        "Stromzähler [kWh]": "energy", "Warmwasserspeicher [°C]": "tank_temp",
        "Raumtemperatur [°C]": "room_temp", "Luftfeuchte außen [%]": "outdoor_humidity",
    },
    "French": {
        "Température départ (°C)": "flow_temp", "Température retour (°C)": "return_temp",
        "Débit (m3/h)": "flow_rate", "Température extérieure (°C)": "outdoor_temp",
        "Puissance électrique (kW)": "power", "Compteur chaleur (kWh)": "heat_energy",
        "Compteur électrique (kWh)": "energy", "Ballon eau chaude (°C)": "tank_temp",
        "Salon (°C)": "room_temp",
    },
    "Spanish": {
        "Temperatura impulsión (°C)": "flow_temp", "Temperatura retorno (°C)": "return_temp",
        "Caudal (l/min)": "flow_rate", "Temperatura exterior (°C)": "outdoor_temp",
        "Potencia eléctrica (W)": "power", "Energía térmica (kWh)": "heat_energy",
        "Consumo eléctrico (kWh)": "energy", "Depósito ACS (°C)": "tank_temp",
        "Temperatura interior (°C)": "room_temp",
    },
    "Italian": {
        "Mandata (°C)": "flow_temp", "Ritorno (°C)": "return_temp", "Portata (l/h)": "flow_rate",
        "Temperatura esterna (°C)": "outdoor_temp", "Potenza elettrica (kW)": "power",
        "Calore (kWh)": "heat_energy", "Energia elettrica (kWh)": "energy",
        "Bollitore (°C)": "tank_temp", "Soggiorno (°C)": "room_temp",
    },
    "Dutch": {
        "Aanvoertemperatuur (°C)": "flow_temp", "Retourtemperatuur (°C)": "return_temp",
        "Debiet (l/min)": "flow_rate", "Buitentemperatuur (°C)": "outdoor_temp",
        "Elektrisch vermogen (W)": "power", "Warmte (kWh)": "heat_energy",
        "Elektriciteit (kWh)": "energy", "Woonkamer (°C)": "room_temp",
    },
    "Nordic": {
        "Framledning (°C)": "flow_temp", "Retur (°C)": "return_temp", "Flöde (l/min)": "flow_rate",
        "Utetemp (°C)": "outdoor_temp", "Eleffekt (W)": "power", "Fremløb T (°C)": "flow_temp",
        "Udetemp (°C)": "outdoor_temp", "Varmtvand (°C)": "tank_temp",
    },
    "Polish": {
        "Zasilanie (°C)": "flow_temp", "Powrót (°C)": "return_temp",
        "Przepływ (l/min)": "flow_rate",
        "Temperatura zewnętrzna (°C)": "outdoor_temp", "Zasobnik CWU (°C)": "tank_temp",
    },
    "abbreviations": {
        "T_sup [°C]": "flow_temp", "T_ret [°C]": "return_temp", "V_dot [l/h]": "flow_rate",
        "P_el [W]": "power", "Q_th [kWh]": "heat_energy", "T_amb [°C]": "outdoor_temp",
        "VL": "flow_temp", "RL": "return_temp", "T_room [°C]": "room_temp", "W_el [kWh]": "energy",
    },
    "tags": {
        "TT-201 SUPPLY °C": "flow_temp", "TT-202 RETURN °C": "return_temp",
        "FIT-201 L/min": "flow_rate", "JI-100 kW": "power", "JQI-100 kWh": "energy",
        "QQ-200 HEAT kWh": "heat_energy", "TI-001 OUTSIDE °C": "outdoor_temp",
    },
    "things that are none of it": {
        "Setpoint flow (°C)": None, "COP": None, "Cost (EUR)": None, "Row": None,
    },
}  # fmt: skip
NOTHING = Sample(np.empty(0), np.empty(0, np.int64), {}, {})


def sheet(*headers):
    return Dialect("UTF-8", ",", ".", headers, None, 1, 2, (), None)


def guesses(headers, sample=NOTHING):
    dialect = sheet(*headers)
    units = {k: _unit_of(dialect, k) for k in range(len(headers))}
    return recognised(dialect, sample, units, set())


def readings(seed=3, days=12):
    """A plant by hand: power on and off, water that parts while it runs, a register of each."""
    rng = np.random.default_rng(seed)
    n = days * 1440
    minute = np.arange(n)
    on = (minute % 90) < 50
    outdoor = 3 + 5 * np.sin(minute / 1440 * 2 * np.pi) + rng.normal(0, 0.1, n)
    back = 30 - 0.2 * outdoor + np.where(on, 1.5, 0.0) + rng.normal(0, 0.05, n)
    delta = np.where(on, 4.5, 0.0)
    power = np.where(on, 1500.0 - 20 * outdoor, 12.0)
    flow = np.where(on, 18.0, 0.0)
    heat = flow / 60000 * delta * 4.15e6
    return {
        "power": power,
        "flow_temp": back + delta + rng.normal(0, 0.05, n),
        "return_temp": back,
        "flow_rate": flow,
        "outdoor_temp": outdoor,
        "room_temp": 20.5 + 0.4 * np.sin(minute / 700) + rng.normal(0, 0.05, n),
        "energy": 1733 + np.cumsum(power) * 60 / 3.6e6,
        "heat_energy": 4120 + np.cumsum(heat) * 60 / 3.6e6,
    }


def sample_of(columns):
    n = len(next(iter(columns.values())))
    return Sample(
        60.0 * np.arange(n),
        np.zeros(n, np.int64),
        {k: np.asarray(v, float) for k, v in enumerate(columns.values())},
        {},
    )


class Words(TestCase):
    def test_headers_in_the_languages_of_the_trade(self) -> None:
        for language, headers in HEADERS.items():
            for header, wanted in headers.items():
                (found,), _ = guesses([header])
                self.assertEqual(found.quantity, wanted, f"{language}: {header}")

    def test_a_longer_word_takes_the_shorter_ones_within_it(self) -> None:
        self.assertNotIn(Says.ELECTRIC, concepts("Volumenstrom"))
        self.assertNotIn(Says.HEAT, concepts("heat pump"))
        self.assertIn(Says.HEAT, concepts("heat meter"))

    def test_modes_in_words(self) -> None:
        for word, state in (
            ("HEAT", "heating"),
            ("Warmwasser", "hot_water"),
            ("DHW heating", "hot_water"),
            ("Abtauen", "defrost"),
            ("dégivrage", "defrost"),
            ("OFF", "off"),
            ("Standby", "off"),
            ("refroidissement", "cooling"),
            ("calefacción", "heating"),
            ("xyz", None),
        ):
            self.assertEqual(meaning(word), state, word)

    def test_codes_by_what_the_plant_does_under_them(self) -> None:
        cells = ["1"] * 60 + ["3"] * 30 + ["5"] * 10 + ["0"] * 20
        power = np.array([1500.0] * 60 + [2200.0] * 30 + [1200.0] * 10 + [10.0] * 20)
        flow = np.array([35.0] * 60 + [55.0] * 30 + [25.0] * 10 + [28.0] * 20)
        back = np.array([31.0] * 60 + [50.0] * 30 + [28.0] * 10 + [28.0] * 20)
        found = {word: state for word, (state, _) in proposed(cells, power, flow, back).items()}
        self.assertEqual(found, {"1": "heating", "3": "hot_water", "5": "defrost", "0": "off"})


class Readings(TestCase):
    def test_flow_and_return_without_a_word(self) -> None:
        made = readings()
        names = ["P [W]", "Temp 1 [°C]", "Temp 2 [°C]"]
        columns = {"p": made["power"], "a": made["return_temp"], "b": made["flow_temp"]}
        found, _ = guesses(names, sample_of(columns))
        self.assertEqual([g.quantity for g in found], ["power", "return_temp", "flow_temp"])
        self.assertIn("warmer than the other while the unit runs", str(found[2].reason))

    def test_registers_by_the_rates_that_they_count(self) -> None:
        made = readings()
        names = ["Power [W]", "Supply [°C]", "Return [°C]", "Flow rate [L/min]", "Reg 1", "Reg 2"]
        columns = {
            "p": made["power"],
            "f": made["flow_temp"],
            "r": made["return_temp"],
            "v": made["flow_rate"],
            "x": made["heat_energy"],
            "y": made["energy"] * 1000,
        }
        found, _ = guesses(names, sample_of(columns))
        self.assertEqual((found[4].quantity, found[4].unit), ("heat_energy", "kWh"))
        self.assertEqual((found[5].quantity, found[5].unit), ("energy", "Wh"))

    def test_a_power_that_only_rises_is_a_register(self) -> None:
        made = readings()
        (found, *_), _ = guesses(["Leistung"], sample_of({"x": made["energy"]}))
        self.assertEqual(found.quantity, "energy")

    def test_fahrenheit_is_told_by_the_room(self) -> None:
        made = readings()
        columns = {"r": made["room_temp"] * 1.8 + 32, "f": made["flow_temp"] * 1.8 + 32}
        found, _ = guesses(["Living room", "Supply"], sample_of(columns))
        self.assertEqual([g.unit for g in found], ["degF", "degF"])

    def test_what_stays_open_is_asked_with_what_each_answer_gives(self) -> None:
        made = readings()
        columns = {"p": made["power"], "o": made["outdoor_temp"]}
        found, asked = guesses(["Power [W]", "Sensor 7 [°C]"], sample_of(columns))
        self.assertIsNone(found[1].quantity)
        (question,) = asked
        self.assertIn("Sensor 7", question.sentence)
        self.assertIn("outdoor_temp", [c.channel for c in question.choices])
        self.assertLessEqual(len(question.choices), 4)
        self.assertTrue(all(c.preview for c in question.choices))

    def test_ambient_that_is_warm_and_steady_is_the_room(self) -> None:
        made = readings()
        (found,), _ = guesses(["T ambiente [°C]"], sample_of({"x": made["room_temp"]}))
        self.assertEqual(found.quantity, "room_temp")
        (found,), _ = guesses(["Ambient [°C]"], sample_of({"x": made["outdoor_temp"]}))
        self.assertEqual(found.quantity, "outdoor_temp")


class AgainstEachOther(TestCase):
    """A sure guess that is wrong is worse than a question: headers of every language over readings
    that are, and that are not, what they say."""

    WORDS = ("flow_temp", "return_temp", "flow_rate", "outdoor_temp", "power")

    def sets(self):
        """A header of each quantity in every language that has them all."""
        for language, headers in HEADERS.items():
            named = {}
            for header, quantity in headers.items():
                named.setdefault(quantity, header)
            if set(self.WORDS) <= set(named):
                yield language, {quantity: named[quantity] for quantity in self.WORDS}

    def columns(self, named, readings_of):
        """Readings under headers, in the unit that each header says."""
        made = readings()
        scale = {"(kW)": 1e-3, "(m3/h)": 0.06, "[l/h]": 60.0, "(l/h)": 60.0}
        found = {}
        for quantity in self.WORDS:
            header = named[quantity]
            factor = next((v for k, v in scale.items() if header.endswith(k)), 1.0)
            found[header] = made[readings_of.get(quantity, quantity)] * factor
        return found

    def test_words_that_are_right_are_taken(self) -> None:
        seen = 0
        for language, named in self.sets():
            columns = self.columns(named, {})
            found, asked = guesses(list(columns), sample_of(columns))
            with self.subTest(language):
                self.assertEqual([g.quantity for g in found], list(self.WORDS))
                self.assertEqual(asked, [])
            seen += 1
        self.assertGreaterEqual(seen, 6)

    def test_a_temperature_under_the_word_of_a_power_is_none(self) -> None:
        for language, named in self.sets():
            if "kW" in named["power"]:
                continue  # kilowatts may well lie there
            columns = self.columns(named, {})
            columns[named["power"]] = readings()["outdoor_temp"]
            found, _ = guesses(list(columns), sample_of(columns))
            with self.subTest(language):
                self.assertNotEqual(found[4].quantity, "power")

    def test_a_register_under_the_word_of_a_temperature_is_none(self) -> None:
        for language, named in self.sets():
            columns = self.columns(named, {})
            columns[named["outdoor_temp"]] = readings()["energy"]
            found, _ = guesses(list(columns), sample_of(columns))
            with self.subTest(language):
                self.assertNotIn(found[3].quantity, ("outdoor_temp", "room_temp", "tank_temp"))

    def test_order_of_the_columns_does_not_matter(self) -> None:
        rng = np.random.default_rng(5)
        for language, named in self.sets():
            columns = self.columns(named, {})
            names = list(columns)
            for _ in range(4):
                order = rng.permutation(len(names))
                turned = {names[k]: columns[names[k]] for k in order}
                found, _ = guesses(list(turned), sample_of(turned))
                wanted = [self.WORDS[k] for k in order]
                self.assertEqual([g.quantity for g in found], wanted, language)
