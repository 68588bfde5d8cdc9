"""Rated tables as they are pasted: shapes, units, and the usual misreadings (common practice)."""

from unittest import TestCase

from ember.description.installation import Speed, TableKind
from ember.rated import TableReading, read_sheet, table_from_csv
from ember.rated.sheet import number_in

WATER, AIR = TableKind.WATER, TableKind.AIR


def rows(*lines: str) -> str:
    """A text of some lines."""
    return "\n".join(lines) + "\n"


GOOD = rows(
    "outdoor [°C],flow [°C],capacity [kW],cop",
    "7,35,8,4.4",
    "-7,35,6.5,2.9",
    "7,45,7.8,3.5",
    "-7,45,6.3,2.4",
)


def offered(text: str, kind: TableKind = WATER, nominal: float | None = None):
    """The one reading that is offered, with the sheet it makes."""
    sheet = read_sheet(text, kind, nominal_kw=nominal)
    (doubt,) = [d for d in sheet.doubts if d.reading is not None]
    again = read_sheet(text, kind, doubt.reading, nominal)
    return doubt, again


class Shapes(TestCase):
    def test_a_row_a_point(self) -> None:
        sheet = read_sheet(GOOD)
        self.assertEqual((len(sheet.points), sheet.doubts, sheet.assumed), (4, (), ()))

    def test_flow_temperatures_across(self) -> None:
        text = (
            "COP\t35\t45\t55\n7\t4.5\t3.5\t2.8\n-7\t2.9\t2.4\t2.0\n"
            "Capacity [kW]\t35\t45\t55\n7\t8\t7.8\t7.5\n-7\t6.5\t6.3\t6.0\n"
        )
        sheet = read_sheet(text)
        self.assertEqual(len(sheet.points), 6)
        point = next(p for p in sheet.points if (p.outdoor, p.flow) == (-7, 55))
        self.assertEqual((point.capacity_kw, point.cop), (6.0, 2.0))

    def test_names_of_points_and_decimal_commas(self) -> None:
        text = rows(
            "ambient;LWT;output;power input",
            "A7;W35;8,0;1,8",
            "A-7;W35;6,5;2,3",
            "A7;W55;7,5;2,7",
            "A-7;W55;6,0;3,0",
        )
        sheet = read_sheet(text)
        self.assertEqual(sheet.points[1].outdoor, -7.0)
        self.assertAlmostEqual(sheet.points[0].cop, 8 / 1.8)
        self.assertEqual(sheet.assumed, ("outdoor", "flow", "capacity", "input"))

    def test_speeds(self) -> None:
        points = ((7, 35, 8, 4.4), (-7, 35, 6.5, 2.9), (7, 45, 7.8, 3.5), (-7, 45, 6.3, 2.4))
        lines = "".join(
            f"{o},{f},{c * k},{p},{s}\n"
            for s, k in (("max", 1.0), ("min", 0.4))
            for o, f, c, p in points
        )
        sheet = read_sheet("outdoor,flow,capacity,cop,speed\n" + lines)
        self.assertEqual({p.speed for p in sheet.points}, {Speed.MINIMUM, Speed.MAXIMUM})
        self.assertEqual([d for d in sheet.doubts if d.grave], [])

    def test_numbers_in_cells(self) -> None:
        for cell, value in (
            ("A-7", -7),
            ("W35", 35),
            ("−15", -15),
            ("47 °F", 47),
            ("4,5", 4.5),
            ("x", None),
            ("", None),
        ):
            self.assertEqual(number_in(cell), value)


class Misreadings(TestCase):
    def test_bare_kbtu(self) -> None:
        """28.4 in a US table is 28.4 kBtu/h, 8.32 kW."""
        text = (
            "outdoor,flow,capacity,input\n7,35,28.4,2.0\n-8,35,20,2.4\n7,45,27,2.5\n-8,45,19,2.9\n"
        )
        doubt, again = offered(text)
        self.assertEqual(doubt.kind, "capacity in kBtu/h")
        self.assertTrue(doubt.grave)
        self.assertAlmostEqual(again.points[0].capacity_kw, 28.4 / 3.412142, places=4)
        self.assertEqual(again.doubts, ())

    def test_bare_kbtu_in_fahrenheit(self) -> None:
        text = rows(
            "outdoor,flow,capacity,input",
            "47,95,28.4,2.0",
            "17,95,20,2.4",
            "47,113,27,2.5",
            "17,113,19,2.9",
        )
        doubt, again = offered(text)
        self.assertIn("°F", doubt.remedy)
        self.assertAlmostEqual(again.points[0].outdoor, (47 - 32) / 1.8, places=6)
        self.assertAlmostEqual(again.points[0].cop, 28.4 / 3.412142 / 2.0, places=4)

    def test_bare_kbtu_beside_a_cop_shows_against_the_described_size(self) -> None:
        text = rows(
            "outdoor,flow,capacity,cop",
            "7,35,28.4,4.4",
            "-7,35,22,2.9",
            "7,45,27,3.5",
            "-7,45,21,2.4",
        )
        doubt, again = offered(text, nominal=8.0)
        self.assertEqual(doubt.kind, "capacity in kBtu/h")
        self.assertFalse(doubt.grave)  # nothing is impossible, it is only another size
        self.assertAlmostEqual(again.points[0].capacity_kw, 8.3232, places=3)
        self.assertEqual(read_sheet(text).doubts, ())

    def test_axes_exchanged(self) -> None:
        text = rows(
            "outdoor,flow,capacity,cop", "35,7,8,4.4", "35,-7,7,2.9", "45,7,8,3.5", "45,-7,6.5,2.4"
        )
        doubt, again = offered(text)
        self.assertEqual(doubt.kind, "axes exchanged")
        self.assertEqual((again.points[0].outdoor, again.points[0].flow), (7.0, 35.0))

    def test_a_cop_of_31(self) -> None:
        text = rows(
            "outdoor,flow,capacity,cop", "7,35,8,44", "-7,35,6.5,31", "7,45,7.8,35", "-7,45,6.3,24"
        )
        doubt, again = offered(text)
        self.assertEqual(doubt.kind, "COP without its decimal sign")
        self.assertAlmostEqual(again.points[1].cop, 3.1)

    def test_tons(self) -> None:
        """2.5 tons of refrigeration are 8.79 kW."""
        text = rows(
            "outdoor [F],indoor [F],capacity,input",
            "47,70,2.5,2.3",
            "17,70,1.9,2.4",
            "47,60,2.55,2.2",
            "17,60,2.0,2.3",
        )
        doubt, again = offered(text, AIR)
        self.assertEqual(doubt.kind, "capacity in ton")
        self.assertAlmostEqual(again.points[0].capacity_kw, 8.792, places=3)

    def test_input_in_watts(self) -> None:
        text = (
            "outdoor,flow,capacity,input\n7,35,8,1800\n-7,35,7,2400\n7,45,8,2300\n-7,45,6.5,2700\n"
        )
        doubt, again = offered(text)
        self.assertEqual(doubt.kind, "input in W")
        self.assertAlmostEqual(again.points[0].cop, 8 / 1.8)

    def test_what_rises_where_it_must_fall_is_named_by_row(self) -> None:
        text = GOOD.replace("7,45,7.8,3.5", "7,45,7.8,4.9")
        (doubt,) = read_sheet(text).doubts
        self.assertEqual((doubt.kind, doubt.grave), ("against its axis", False))
        self.assertEqual(set(doubt.rows), {2, 4})

    def test_a_reading_is_not_applied_by_itself(self) -> None:
        text = rows(
            "outdoor,flow,capacity,cop", "7,35,8,44", "-7,35,6.5,31", "7,45,7.8,35", "-7,45,6.3,24"
        )
        self.assertEqual(read_sheet(text).points, ())
        self.assertEqual(len(read_sheet(text, WATER, TableReading({}, cop_over=10.0)).points), 4)

    def test_nothing_makes_sense_of_nonsense(self) -> None:
        text = rows(
            "outdoor,flow,capacity,cop", "7,35,8,0.2", "-7,35,6.5,12", "7,45,7.8,0.1", "-7,45,6.3,9"
        )
        doubts = read_sheet(text).doubts
        self.assertIn("odd", [d.kind for d in doubts])
        self.assertTrue(all(d.reading is None for d in doubts))

    def test_a_saved_table_says_whether_defrosts_are_in_it(self) -> None:
        self.assertFalse(table_from_csv("# includes defrost: no\n" + GOOD, "t").includes_defrost)
        self.assertTrue(table_from_csv(GOOD, "t").includes_defrost)


class FromPrint(TestCase):
    """What a page of print does to a table."""

    def test_merged_cells_footnotes_split_rows_and_the_header_again(self) -> None:
        sheet = read_sheet(
            "Outdoor [°C]\tFlow [°C]\tCapacity [kW]\tCOP\n"
            "-7\t35\t6.1¹\t2.9\n"
            "\t45\t5.9\t2.4 1)\n"
            "2\t35\t7.0*\t3.6\n"
            "\t45\t6.8\t3.0\n"
            "1) with defrosts\n"
            "Outdoor [°C]\tFlow [°C]\tCapacity [kW]\tCOP\n"
            "7\t35\t8.0\t4.6\n"
            "\t45\n"
            "7.8\t3.7\n"
        )
        self.assertEqual(
            [(p.outdoor, p.flow, p.capacity_kw, p.cop) for p in sheet.points],
            [
                (-7, 35, 6.1, 2.9),
                (-7, 45, 5.9, 2.4),
                (2, 35, 7.0, 3.6),
                (2, 45, 6.8, 3.0),
                (7, 35, 8.0, 4.6),
                (7, 45, 7.8, 3.7),
            ],
        )
        said = {doubt.kind: doubt.rows for doubt in sheet.doubts}
        self.assertEqual(said, {"merged": (3, 5, 9), "split": (10,), "remarks": (6, 7)})
        self.assertFalse(any(doubt.grave for doubt in sheet.doubts))

    def test_columns_by_wide_spaces_bars_or_single_spaces(self) -> None:
        wanted = [(-7, 35, 6.1, 2.9), (2, 35, 7.0, 3.6)]
        for text in (
            "Outdoor °C  Flow °C  Capacity kW  COP\n-7  35  6.1  2.9\n2  35  7.0  3.6",
            "| outdoor | flow | capacity | cop |\n| -7 | 35 | 6.1 | 2.9 |\n| 2 | 35 | 7.0 | 3.6 |",
            "outdoor flow capacity cop\n–7 35 6,1 2,9\n2 35 7,0 3,6",
        ):
            points = read_sheet(text).points
            self.assertEqual([(p.outdoor, p.flow, p.capacity_kw, p.cop) for p in points], wanted)

    def test_a_half_is_kept_for_what_it_allows(self) -> None:
        capacity = read_sheet(
            "outdoor,indoor,capacity [kBtu/h]\n5,20,18.2\n17,20,36", TableKind.AIR
        )
        self.assertEqual([p.cop for p in capacity.points], [None, None])
        self.assertEqual([d.kind for d in capacity.doubts], ["half"])
        cops = read_sheet("outdoor,flow,cop\n-7,35,2.9\n2,35,3.5")
        self.assertEqual([p.capacity_kw for p in cops.points], [None, None])
        self.assertEqual([d.grave for d in cops.doubts], [False])
        neither = read_sheet("outdoor,flow,input\n-7,35,2.9\n2,35,3.5")
        self.assertTrue(neither.doubts[0].grave)
