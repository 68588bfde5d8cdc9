"""A column of operating modes in words or codes: which state each of them is."""

from collections.abc import Mapping, Sequence

import numpy as np

from ember.basis.series import Bools, Floats
from ember.intake.lexicon import folded

# What each word means, in the languages of the trade; common practice. Found anywhere in a cell.
_STATES: dict[str, str] = {
    "defrost": "defrost defrosting abtau abtauen abtauung abt degivrage desescarche sbrinamento "
               "ontdooi ontdooien afrimning avfrostning odszranianie odmrazovani sulatus df def",
    "hot_water": "dhw hotwater warmwasser ww brauchwasser tww ecs acs sww aqs cwu tuv varmvatten "
                 "varmtvand vv hw water lkv hwc tank cylinder legionella pasteurisation "
                 "pasteurization antilegionella speicherladung boiler ballon hmv tap",
    "cooling": "cool cooling kuhlen kuehlen kuhlung kuehlung refroidissement froid frio "
               "raffrescamento koelen koeling koling kyla chlodzenie chlazeni",
    "heating": "heat heating heizen heizung heizbetrieb chauffage calefaccion riscaldamento "
               "verwarmen verwarming varme opvarmning uppvarmning ogrzewanie vytapeni lammitys ch "
               "sh hz hzg space raumheizung futes",
    "off": "off aus standby stand idle bereit bereitschaft arret veille parado espera apagado "
           "spento attesa uit stop stopped ruhe rest none wait waiting pause sluk fra wylaczony "
           "vypnuto ready auto",
}  # fmt: skip
MODES_STATES = tuple(_STATES)
MODES_LEAST = 5  # rows under a word before its readings say anything


def meaning(cell: str) -> str | None:
    """The state that a word means; None where it is none of them, or several."""
    text = folded(cell)
    joined = text.replace(" ", "")
    found = []
    for state, words in _STATES.items():
        for word in words.split():
            whole = word in text.split() or word == joined
            if whole or (len(word) >= 5 and word in joined):
                found.append(state)
                break
    if "defrost" in found:
        return "defrost"
    if "hot_water" in found:  # "hot water heating" is hot water
        return "hot_water"
    if "off" in found and len(found) > 1:
        return found[0] if "auto" in text else "off"
    return found[0] if found else None


def speaks_of_modes(cells: Sequence[str]) -> bool:
    """Whether distinct cells are words for modes: most of them, two states at least."""
    found = [meaning(cell) for cell in cells]
    known = [state for state in found if state is not None]
    return len(known) > 0.5 * len(found) and len(set(known)) >= 2


def proposed(
    cells: Sequence[str], power: Floats | None, flow: Floats | None, back: Floats | None
) -> Mapping[str, tuple[str, str]]:
    """The state of each distinct cell with the reason: what it says, else what power and
    temperatures do under it.

    Parameters
    ----------
    cells : Sequence[str]
        (n,). power [W], flow, back [degC] : arrays, (n,) Where they are known.

    Source: common practice.
    """
    text = np.array([cell or "" for cell in cells])
    result: dict[str, tuple[str, str]] = {}
    full = float(np.nanpercentile(power, 95)) if power is not None and len(power) else 0.0
    for word in np.unique(text).tolist():
        if not word:
            continue
        said = meaning(word)
        here: Bools = text == word
        if said is not None:
            result[word] = said, f"'{word}' says so"
            continue
        if here.sum() < MODES_LEAST or power is None or full <= 0:
            continue
        used = float(np.nanmean(power[here]))
        if used < 0.05 * full:
            result[word] = "off", f"{used:.0f} W under it"
            continue
        if flow is None or back is None:
            continue
        delta = float(np.nanmedian((flow - back)[here]))
        warm = float(np.nanmedian(flow[here]))
        usual = float(np.nanmedian(flow[power > 0.3 * full]))
        if delta < -1.0:
            result[word] = "defrost", f"heat is taken back under it (ΔT {delta:.1f} K)"
        elif warm > usual + 6.0:
            result[word] = (
                "hot_water",
                f"the flow is {warm:.0f} °C under it, {usual:.0f} °C usually",
            )
        else:
            result[word] = "heating", f"ΔT {delta:.1f} K at {warm:.0f} °C under it"
    return result
