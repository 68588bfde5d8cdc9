"""Dates and times as people write them, in every order and with every separator in use."""

import re
import unicodedata
from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from ember.basis.series import Floats, Ints

WHEN_ORDERS = ("ymd", "dmy", "mdy")
_HALF = r"(?:[aApP]\.?\s?[mM]\.?|上午|下午|午前|午後|오전|오후)"
_WORD = r"\p{L}{3,10}\.?"
_DAY = (
    rf"(?:\p{{L}}{{2,10}}[.,]?\s*[,\s]\s*)?"  # a weekday
    rf"(?P<a>\d{{1,4}}|{_WORD})(?:st|nd|rd|th|[./\-年년]|\s|,|º|er)+\s*(?:de\s+)?"
    rf"(?P<b>\d{{1,2}}|{_WORD})(?:st|nd|rd|th|[./\-月월]|\s|,)+\s*(?:de\s+)?"
    rf"(?P<c>\d{{1,4}})(?:日|일)?\.?(?:\s*\(\p{{L}}\))?"
)
_WHEN_CLOCK = (
    rf"(?P<p>{_HALF})?\s*(?P<h>\d{{1,2}})\s*(?:[:.h時时点시]|:)\s*(?P<m>\d{{1,2}})"
    r"(?:\s*(?:[:.'′m分분]|mn|min)\s*(?P<s>\d{1,2})(?P<f>[.,]\d{1,9})?\s*(?:[\"s″秒초])?)?"
    rf"(?:分|분|'|′)?\s*(?:Uhr|uur|h)?\s*(?P<q>{_HALF})?"
)
_ZONE = r"\s*(?P<z>Z|z|UTC|GMT|[+\-]\d{2}(?::?\d{2})?)?(?:\s?[A-Z]{2,5}T)?"
_BETWEEN = r"(?:[\sT,_;|\-]|um|at|à|kl\.?|klo|om|a las|alle)+"
WHEN_WHOLE = rf"^{_DAY}{_BETWEEN}{_WHEN_CLOCK}{_ZONE}$"
_COMPACT = (
    r"^(?P<a>\d{4})(?P<b>\d{2})(?P<c>\d{2})[T_\s\-]?(?P<h>\d{2}):?(?P<m>\d{2})(?::?(?P<s>\d{2}))?"
    r"(?P<f>[.,]\d{1,9})?\s*(?P<z>Z|[+\-]\d{2}(?::?\d{2})?)?$"
)
DATE = rf"^{_DAY}$"
_DATE_COMPACT = r"^(?P<a>\d{4})(?P<b>\d{2})(?P<c>\d{2})$"
TIME = rf"^(?:{_WHEN_CLOCK})$"
_MONTHS = (
    "jan ene gen sty led tam", "feb fev unor hel", "mar mrz maa bre", "apr avr abr kwi dub huh",
    "may mai mag mei maj kve tou", "jun jui giu cze kes", "jul lug lip cer hei",
    "aug aou ago sie srp elo", "sep set wrz zar syy", "oct okt ott out paz rij lok",
    "nov lis mar", "dec dez dic des gru pro jou",
)  # fmt: skip


def split(cells: pa.ChunkedArray) -> dict[str, pa.ChunkedArray] | None:
    """The parts of each date and time as text; None where hardly any cell is one."""
    best: dict[str, pa.ChunkedArray] | None = None
    most = 0
    for pattern in (WHEN_WHOLE, _COMPACT):
        found = pc.extract_regex(cells, pattern)
        count = len(found) - found.null_count
        if count > most:
            most = count
            best = {f.name: pc.struct_field(found, f.name) for f in found.type}
    return best


def is_date(cell: str) -> bool:
    """Whether a cell is a date alone."""
    return _matches(cell, DATE) or (_matches(cell, _DATE_COMPACT) and "19" <= cell[:2] <= "20")


def is_time(cell: str) -> bool:
    """Whether a cell is a time of day alone."""
    return _matches(cell, TIME)


def _matches(cell: str, pattern: str) -> bool:
    found = pc.match_substring_regex(pa.array([cell]), pattern)
    return bool(found[0].as_py())


def fitting(cells: Sequence[str]) -> list[str]:
    """The orders of day, month and year in which nearly all cells are dates, likeliest first: the
    one that makes the shortest record, then the one whose times rise."""
    text = pa.chunked_array([pa.array(list(cells), pa.string())])
    parts = split(text)
    if parts is None:
        return []
    found: list[tuple[float, float, str]] = []
    seen: list[Floats] = []
    for order in WHEN_ORDERS:
        times = _seconds(parts, order, len(text))
        known = times[np.isfinite(times)]
        if len(known) < 0.9 * len(cells) or not len(known):
            continue
        # A month in words leaves no choice of order.
        if any(np.array_equal(times, other, equal_nan=True) for other in seen):
            continue
        seen.append(times)
        falls = float((np.diff(known) < 0).mean()) if len(known) > 1 else 0.0
        found.append((float(known.max() - known.min()), min(falls, 1 - falls), order))
    found.sort()
    return [order for _, _, order in found]


def zoned(cells: Sequence[str]) -> bool:
    """Whether the cells carry their offset from UTC."""
    parts = split(pa.chunked_array([pa.array(list(cells), pa.string())]))
    if parts is None:
        return False
    have = sum(bool(z.as_py()) for z in parts["z"])
    return have > 0.9 * len(cells)


def seconds(cells: pa.ChunkedArray, order: str) -> Floats:
    """Instants of dates and times, (n,) [s]; of those without an offset, by their own clock as if
    it were UTC. NaN where a cell is none.

    Parameters
    ----------
    order : str
        of day, month and year, of ORDERS.
    """
    parts = split(cells)
    if parts is None:
        return np.full(len(cells), np.nan)
    return _seconds(parts, order, len(cells))


def _seconds(parts: dict[str, pa.ChunkedArray], order: str, n: int) -> Floats:
    names = dict(zip(order, ("a", "b", "c"), strict=True))
    a, b = parts["a"], parts["b"]
    texts = {k: parts[v] for k, v in names.items()}
    # A month in words says itself which it is: "Nov 1, 2024" and "1 Nov 2024" in any order.
    wordy = pc.match_substring_regex(pc.fill_null(a, ""), r"^\p{L}").to_numpy().astype(bool)
    named_b = pc.match_substring_regex(pc.fill_null(b, ""), r"^\p{L}").to_numpy().astype(bool)
    year_text, digits = texts["y"], pc.utf8_length(pc.fill_null(texts["y"], "")).to_numpy()
    if wordy.any():
        texts = {"m": a, "d": b, "y": parts["c"]}
        year_text = parts["c"]
        digits = pc.utf8_length(pc.fill_null(year_text, "")).to_numpy()
    month = _month(texts["m"]) if wordy.any() or named_b.any() else _number(texts["m"])
    year, day = _number(year_text), _number(texts["d"])
    with np.errstate(invalid="ignore"):
        year = np.where(digits <= 2, year + np.where(year < 70, 2000, 1900), year)
        wrong = (digits == 1) | (digits == 3) | (year < 1900) | (year > 2200)
        # What stands where the day is has at most two digits.
        wrong |= pc.utf8_length(pc.fill_null(texts["d"], "")).to_numpy() > 2
        wrong |= ~((month >= 1) & (month <= 12) & (day >= 1) & (day <= 31))
    hour = _number(parts["h"])
    minute, second = _number(parts["m"], 0.0), _number(parts["s"], 0.0)
    fraction = parts.get("f")
    if fraction is not None:
        text = pc.replace_substring(pc.fill_null(fraction, ""), ",", ".")
        second = second + _number(text, 0.0)
    half = _half(parts, n)
    with np.errstate(invalid="ignore"):
        wrong |= (half >= 0) & (hour > 12) & (half == 0)
        hour = np.where((half == 1) & (hour < 12), hour + 12, hour)
        hour = np.where((half == 0) & (hour == 12), 0.0, hour)
        wrong |= ~((hour >= 0) & (hour <= 24) & (minute < 60) & (second < 61))
    good = np.isfinite(year) & np.isfinite(month) & np.isfinite(day) & np.isfinite(hour) & ~wrong
    result = np.full(n, np.nan)
    y, mo, d = (np.where(good, v, 1.0).astype(np.int64) for v in (year, month, day))
    days = _days(np.where(good, y, 1970), mo, d)
    # The 31st of a month of 30 days is none.
    real = _days_in_month(np.where(good, y, 1970), mo) >= d
    result[:] = days * 86400.0 + hour * 3600.0 + minute * 60.0 + second - _offset(parts["z"])
    result[~(good & real)] = np.nan
    return result


def _number(column: pa.ChunkedArray, otherwise: float = np.nan) -> Floats:
    text = pc.if_else(pc.equal(pc.fill_null(column, ""), ""), None, column)
    good = pc.match_substring_regex(pc.fill_null(text, "x"), r"^\d*\.?\d+$")
    values = pc.if_else(good, text, None).cast(pa.float64()).to_numpy().astype(np.float64)
    return np.where(np.isnan(values), otherwise, values)


def _month(column: pa.ChunkedArray) -> Floats:
    """Months in numbers or words, by the distinct texts."""
    encoded = pc.fill_null(column, "").combine_chunks().dictionary_encode()
    values = np.array([_month_of(text) for text in encoded.dictionary.to_pylist()] or [np.nan])
    found: Floats = values[encoded.indices.to_numpy()]
    return found


def _month_of(text: str) -> float:
    if text.isdigit():
        return float(text)
    plain = unicodedata.normalize("NFKD", text.lower())
    word = "".join(c for c in plain if not unicodedata.combining(c)).strip(".")
    if word.startswith(("juil", "jul")):
        return 7.0
    for number, words in enumerate(_MONTHS, 1):
        if word[:3] in words.split() or word[:4] in words.split():
            return float(number)
    return np.nan


def _half(parts: dict[str, pa.ChunkedArray], n: int) -> Ints:
    """Half of the day, (n,): 0 before noon, 1 after, −1 not said."""
    result = np.full(n, -1, np.int64)
    for name in ("p", "q"):
        if name not in parts:
            continue
        text = pc.utf8_lower(pc.fill_null(parts[name], ""))
        after = pc.match_substring_regex(text, r"^p|下午|午後|오후").to_numpy().astype(bool)
        before = pc.match_substring_regex(text, r"^a|上午|午前|오전").to_numpy().astype(bool)
        result[after], result[before] = 1, 0
    return result


def _offset(column: pa.ChunkedArray) -> Floats:
    """Offset from UTC [s], 0 where none is given."""
    encoded = pc.fill_null(column, "").combine_chunks().dictionary_encode()
    values = []
    for text in encoded.dictionary.to_pylist():
        match = re.match(r"^([+-])(\d{2}):?(\d{2})?$", text)
        if not match:
            values.append(0.0)
            continue
        size = int(match[2]) * 3600 + int(match[3] or 0) * 60
        values.append(float(-size if match[1] == "-" else size))
    found: Floats = np.array(values or [0.0])[encoded.indices.to_numpy()]
    return found


def _days(year: Ints, month: Ints, day: Ints) -> Ints:
    """Days since 1970 of dates in the Gregorian calendar, (n,)."""
    months = (year - 1970) * 12 + month - 1
    first = months.astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)
    result: Ints = first + day - 1
    return result


def _days_in_month(year: Ints, month: Ints) -> Ints:
    return _days(year, month + 1, np.ones_like(year)) - _days(year, month, np.ones_like(year))
