"""Weather files: read by the rules of their formats, and never a typical year as readings."""

import tempfile
import unittest
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pvlib
from pvlib import iotools

from ember.basis.errors import IntakeError
from ember.intake import read_log
from ember.intake.weather import typical_year
from tests.core.helpers import simulated

# A typical year that ships with pvlib's package (TMY3, Wilcox and Marion 2008, NREL/TP-581-43156).
TMY3 = Path(pvlib.__file__).parent / "data" / "703165TY.csv"
NOW = datetime(2026, 11, 1, tzinfo=UTC).timestamp()


def epw(years: list[int], first: datetime, hours: int) -> str:
    """An EPW file of made-up weather. Columns: EnergyPlus Auxiliary Programs, "EPW CSV Format"."""
    lines = [
        "LOCATION,Somewhere,-,-,made up,000000,54.00,-3.00,0.0,10.0",
        "DESIGN CONDITIONS,0",
        "TYPICAL/EXTREME PERIODS,0",
        "GROUND TEMPERATURES,0",
        "HOLIDAYS/DAYLIGHT SAVINGS,No,0,0,0",
        "COMMENTS 1,made up",
        "COMMENTS 2,",
        "DATA PERIODS,1,1,Data,Sunday,1/1,12/31",
    ]
    for k in range(hours):
        when = first + timedelta(hours=k)
        year = years[when.month % len(years)]
        cells = [year, when.month, when.day, when.hour + 1, 60, "?", f"{k % 24 / 2:.1f}", 3.0, 80]
        cells += [101325, 0, 0, 300, 5 * (k % 24), 0, 5 * (k % 24), 0, 0, 0, 0, 180, 3.0, 5, 5, 20]
        cells += [777, 9, 999999999, 10, 0.05, 0, 88, 0.2, 0.0, 1.0]
        lines.append(",".join(str(cell) for cell in cells))
    return "\n".join(lines) + "\n"


class Weather(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "weather.epw"
        self.installation = simulated("as-rated", days=2).installation

    def test_a_weather_file_of_a_real_time_is_a_log(self) -> None:
        self.path.write_text(epw([2026], datetime(2026, 1, 1), 240))
        trace, report = read_log(self.path, self.installation, NOW)
        self.assertIn("EPW weather file", report.dialect)
        # Hour 1 ends at 01:00, and the dry bulb is that of its end (EPW data dictionary, from
        # memory).
        self.assertEqual(trace.start, datetime(2026, 1, 1, 1, tzinfo=UTC).timestamp())
        self.assertEqual(trace.step, 3600)
        np.testing.assert_allclose(trace["outdoor_temp"][:24], np.arange(24) / 2)
        np.testing.assert_allclose(trace["outdoor_humidity"], 80.0)
        np.testing.assert_allclose(trace["solar_radiation"][:24], 5.0 * np.arange(24))
        self.assertTrue(any("recognised as electricity" in n.text for n in report.notes))

    def test_a_typical_year_is_refused_as_readings_and_read_as_a_year(self) -> None:
        self.path.write_text(epw([1999, 2004, 2011], datetime(2001, 1, 1), 8760))
        for path, years in ((self.path, "1999 to 20"), (TMY3, "19")):
            with self.assertRaisesRegex(IntakeError, f"a typical year, .* of {years}"):
                read_log(path, self.installation, NOW)
        year = typical_year(self.path)
        self.assertEqual(len(year), 8760)
        np.testing.assert_allclose(year["outdoor_temp"][:24], np.arange(24) / 2)

    def test_tmy3_is_what_the_reference_library_reads(self) -> None:
        year = typical_year(TMY3)
        table, _ = iotools.read_tmy3(str(TMY3), map_variables=False)
        np.testing.assert_allclose(year["outdoor_temp"], table["Dry-bulb (C)"])
        np.testing.assert_allclose(year["outdoor_humidity"], table["RHum (%)"])

    def test_damaged_and_short_files_are_said(self) -> None:
        self.path.write_text(epw([2026], datetime(2026, 1, 1), 48))
        with self.assertRaisesRegex(IntakeError, "48 hours"):
            typical_year(self.path)
        self.path.write_text("LOCATION,Somewhere,-,-\nnothing else\n")
        with self.assertRaisesRegex(IntakeError, "begins like a weather file .EPW."):
            read_log(self.path, self.installation, NOW)
