"""A change at the same rooms and sun: invented days whose saving is known, the stand-in's truth."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from ember.assessment.record_analysis import analyse_and_walk
from ember.basis.calendar import whole
from ember.events.hours import Hours
from ember.operation.record import operation
from ember.season import same_rooms, season_seen
from ember.season.before_after import Changed, before_after
from ember.season.same_rooms import daily_means
from stand_ins.catalogue import random_season
from stand_ins.scenario import simulate
from tests.core.helpers import season_of_days

DAYS = 220
YEAR = 9 - 11 * np.cos(2 * np.pi * np.arange(365) / 365)
BRIGHT = 110 - 90 * np.cos(2 * np.pi * (np.arange(365) + 10) / 365)  # [W/m2]


class Winters:
    """Two winters of a house: after the change it takes 3.6 for 4.0 kWh a kelvin, but its rooms
    and its sun are others too."""

    def __init__(self, seed: int, warmer: float = 0.0, sun: float = 0.0) -> None:
        rng = np.random.default_rng(seed)
        n, first = 3 * 365, 270
        self.start = np.arange(n) * 86_400.0
        outdoor = np.tile(YEAR, 3) + rng.normal(0, 3, n)
        shine = np.clip(np.tile(BRIGHT, 3) * rng.uniform(0.2, 1.8, n), 0, None)
        shine[365 + 180 :] *= 1.3  # a sunnier winter
        room = 20.5 + rng.normal(0, 0.3, n)
        room[365 + 180 :] += warmer
        noise = rng.normal(0, 5, n)
        for k in range(1, n):
            noise[k] += 0.5 * noise[k - 1]
        slope = np.where(np.arange(n) < 365 + 180, 4.0, 3.6)
        cold = outdoor - (room - 20.5) + sun * shine / 100
        energy = 12 + slope * np.maximum(15.3 - cold, 0) + noise
        self.sides = []
        for begin in (first, 365 + first):
            part = slice(begin, begin + DAYS)
            self.sides.append(season_of_days(self.start[part], outdoor[part], energy[part]))
        self.year = season_of_days(self.start[:365], outdoor[:365], energy[:365])
        values = {"room": np.repeat(room, 24), "sun": np.repeat(shine, 24)}
        if not sun:
            values["sun"] = np.full(24 * n, np.nan)
        self.hours = Hours(0, values)
        self.sun = sun
        self.usual = 0.0
        if sun:
            of = (daily_means(self.hours, "sun", side.daily.start) for side in self.sides)
            self.usual = float(np.mean([one.mean() for one in of]))

    def compared(self):
        return same_rooms(*self.sides, self.year, self.hours)

    def saved(self, found) -> float:
        """What is truly saved on the days that both saw [kWh a year]."""
        weather, rooms = self.year.daily.outdoor, []
        for side in self.sides:
            room = daily_means(self.hours, "room", side.daily.start)
            rooms.append(room)
        moved = [
            side.daily.outdoor - (room - rooms[0].mean())
            for side, room in zip(self.sides, rooms, strict=True)
        ]
        if found.sun is not None:
            weight = found.sun.value / 100
            shine = [daily_means(self.hours, "sun", s.daily.start) for s in self.sides]
            moved = [m + weight * (s - self.usual) for m, s in zip(moved, shine, strict=True)]
            of_year = daily_means(self.hours, "sun", self.year.daily.start)
            weather = weather + weight * (of_year - self.usual)
        inside = np.ones(365, np.bool_)
        pairs = [(one, weather) for one in moved]
        pairs += [(side.daily.outdoor, self.year.daily.outdoor) for side in self.sides]
        for one, laid in pairs:
            low, high = np.quantile(one, [0.05, 0.95])
            inside &= (low <= laid) & (laid <= high)
        # The sun that is usual stands in the knee of the days as they truly are.
        knee = 15.3 + rooms[0].mean() - 20.5 - self.sun * self.usual / 100
        return float((0.4 * np.maximum(knee - weather[inside], 0)).sum())


class Invented(TestCase):
    def away(self, seeds: int, **how) -> tuple[np.ndarray, np.ndarray]:
        """Error ÷ half the 95 % interval, with the rooms in the model and without."""
        mine, plain = [], []
        for seed in range(seeds):
            winters = Winters(seed, **how)
            found = winters.compared()
            truth = winters.saved(found)
            assert isinstance(found.heat, Changed)
            saved = found.heat.saved
            mine.append((saved.value - truth) / (0.98 * saved.U))
            bare = before_after(*winters.sides, winters.year.daily.outdoor).heat
            assert isinstance(bare, Changed)
            plain.append((bare.saved.value - truth) / (0.98 * bare.saved.U))
        return np.abs(mine), np.abs(plain)

    def test_rooms_that_are_colder_are_no_saving(self) -> None:
        mine, plain = self.away(120, warmer=-1.5)
        self.assertGreaterEqual((mine <= 1).mean(), 0.9)
        self.assertLess((plain <= 1).mean(), 0.5)

    def test_nor_is_the_sun(self) -> None:
        mine, _ = self.away(40, sun=2.5)
        self.assertGreaterEqual((mine <= 1).mean(), 0.88)
        self.assertGreater(np.median(mine), 0.1)

    def test_the_weight_of_the_sun(self) -> None:
        away = []
        for seed in range(30):
            found = Winters(100 + seed, sun=2.5).compared()
            away.append(abs(found.sun.value - 2.5) / found.sun.u)
        self.assertGreaterEqual(np.mean(np.array(away) <= 2), 0.9)
        self.assertGreater(np.median(away), 0.3)

    def test_what_is_logged_of_neither_says_nothing(self) -> None:
        winters = Winters(1, warmer=-1.0)
        empty = {name: np.full(len(of), np.nan) for name, of in winters.hours.of.items()}
        none = same_rooms(*winters.sides, winters.year, Hours(0, empty))
        self.assertIsNone(none)
        found = winters.compared()
        self.assertIsNone(found.sun)
        self.assertAlmostEqual(found.room_after - found.room_before, -1.0, delta=0.1)

    def test_too_few_days_tell_nothing(self) -> None:
        winters = Winters(2, sun=2.5)
        few = [
            season_of_days(s.daily.start[:12], s.daily.outdoor[:12], s.daily.heat[:12])
            for s in winters.sides
        ]
        self.assertIsNone(same_rooms(*few, winters.year, winters.hours))

    def test_what_the_change_saved_is_not_taken_for_the_rooms(self) -> None:
        """The rooms as they were, a tenth less heat a kelvin: with and without them in the model
        the same days are counted, so hardly anything is the rooms'."""
        for seed in range(5):
            found = Winters(seed).compared()
            self.assertLess(abs(found.others.value), 0.1 * found.electricity.value)

    def test_half_a_day_has_no_mean(self) -> None:
        values = np.full(48, 20.0)
        values[24:36] = np.nan
        found = daily_means(Hours(0, {"room": values}), "room", np.array([0.0, 86_400.0]))
        np.testing.assert_array_equal(found, [20.0, np.nan])


class StandIn(TestCase):
    def test_a_mended_unit_in_rooms_that_were_turned_down(self) -> None:
        """A unit at 80 % of its table, mended, while the rooms were set 1.5 K lower; the truth is
        that of the same house as warm as before."""
        away, bare = [], []
        for seed in range(2):
            scenario, ran, seen = random_season(seed), [], []
            lower = scenario.plant.room_set - 1.5
            for changes in ({"cop_factor": 0.8}, {"room_set": lower}, {}):
                plant = scenario.plant._replace(**changes)
                done = simulate(replace(scenario, plant=plant))
                analysis, walked = analyse_and_walk(done.installation, done.trace())
                ends = whole(analysis.start, analysis.stop)
                seen.append(season_seen(analysis, ends))
                ran.append(operation(analysis, done.trace(), walked))
            hours = ran[0].hours
            # The second winter follows a year later.
            later = replace(seen[1].daily, start=seen[1].daily.start + 365 * 86_400.0)
            after = replace(seen[1], daily=later)
            gap = np.full(365 * 24 - len(hours), np.nan)
            joined = {
                name: np.concatenate([hours.of[name], gap, ran[1].hours.of[name]])
                for name in ("room", "sun", "flow")
            }
            weather = seen[0].daily.outdoor[np.isfinite(seen[0].daily.outdoor)]
            plain = before_after(seen[0], after, weather)
            truth = before_after(seen[0], seen[2], weather)
            found = same_rooms(seen[0], after, seen[0], Hours(hours.start, joined))
            mine, true = found.electricity, truth.electricity.saved
            self.assertLess(
                abs(found.heat.saved.value - truth.heat.saved.value), found.heat.saved.U
            )
            away.append(abs(mine.value - true.value) / mine.U)
            bare.append((plain.electricity.saved.value - true.value) / true.value)
            self.assertLess(found.room_after, found.room_before - 0.8)
        self.assertLessEqual(max(away), 1.0, away)
        self.assertGreater(min(bare), 0.1, "by its days alone the saving is praised too much")
