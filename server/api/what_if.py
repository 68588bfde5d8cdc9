"""What if: another setting, tariff or unit on a house's own data."""

import csv
from dataclasses import dataclass
from datetime import time
from io import StringIO
from typing import Annotated

from django.http import HttpRequest
from ninja import Body, Router
from pydantic import Field

from ember.basis.errors import DescriptionError
from ember.basis.quantity import exact
from ember.description.installation import table_kind
from ember.description.tariff import Band, Tariff
from ember.messages import Reason
from ember.operation.within import Within
from ember.rated import table_from_csv
from ember.what_if import Store, StoreKind, WhatIf, WhatIfAsked, WhatIfEffect, what_if
from server.api.figures import cut_to
from server.api.files import harmless
from server.api.fleet import get_system
from server.assessments.shown import FigureShown, figure, known

router = Router(tags=["rooms"])

Kelvins = Annotated[float, Field(ge=0, le=30)]
Fraction = Annotated[float, Field(ge=0, le=1)]
Size = Annotated[float, Field(gt=0, le=1e6)]
Price = Annotated[float, Field(ge=-1e6, le=1e6)]
Clock = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]


@dataclass(frozen=True)
class StoreTyped:
    """A store: of the building its heat [kWh/K] and the swing of its rooms [K]; of the tank the
    swing of its water [K]; of the battery what it gives a day [kWh], and its efficiency."""

    kind: StoreKind
    kwh_k: Size | None
    swing_k: Annotated[float, Field(gt=0, le=30)] | None
    kwh: Size | None
    efficiency: Annotated[float, Field(gt=0.3, le=1)]


@dataclass(frozen=True)
class TariffTyped:
    """Prices a kWh with VAT, standing charge a day; cheap between two local times, where there is
    such a price."""

    price: Price
    standing_charge: Annotated[float, Field(ge=0, le=1e6)]
    cheap: Price | None
    cheap_from: Clock
    cheap_to: Clock


@dataclass(frozen=True)
class WhatIfTyped:
    """What is asked; 0, false and null ask for nothing. table : of another unit, as CSV."""

    flow_lower: Kelvins
    fewer_starts: Fraction
    defrosts_as_expected: bool
    hot_water_lower: Kelvins
    heaters_off: bool
    table: Annotated[str, Field(max_length=200_000)] | None
    store: StoreTyped | None
    tariff: TariffTyped | None


@dataclass(frozen=True)
class WhatIfEffectShown:
    """What one of it would have saved [kWh], and in money; negative: more used, dearer. Each null
    where it cannot be told, then `reason` says why."""

    code: str
    name: str
    formula: str
    electricity: FigureShown | None
    money: FigureShown | None
    assumptions: list[str]
    comfort: list[str]
    reason: Reason | None


@dataclass(frozen=True)
class UsePartShown:
    """A part of the electricity as it was [kWh], and what a kWh of it cost on average."""

    part: str
    name: str
    electricity: FigureShown
    price: FigureShown | None


@dataclass(frozen=True)
class WhatIfShown:
    """A period with what is asked, each by itself and all together; csv : the same as a table."""

    local: str
    stale: bool
    currency: str | None
    parts: list[UsePartShown]
    effects: list[WhatIfEffectShown]
    together: WhatIfEffectShown | None
    csv: str


@router.post("/systems/{pk}/what-if", response=WhatIfShown)
def asked(
    request: HttpRequest, pk: int, start: str, stop: str, typed: Body[WhatIfTyped]
) -> WhatIfShown:
    """What a period would have used and cost. Nothing is stored."""
    system = get_system(pk)
    cut = cut_to(system, start, stop, events=True)
    assert cut.ran is not None  # they are asked for
    within = Within(cut.analysis, cut.ran, cut.period)
    currency = system.installation.tariff.currency if system.installation.tariff else "EUR"
    table = None
    if typed.table is not None:
        kind = table_kind(system.installation.unit.kind)
        table = table_from_csv(typed.table, "table of the other unit", kind)
    store, tariff = typed.store, typed.tariff
    found = what_if(
        within,
        WhatIfAsked(
            flow_lower=typed.flow_lower,
            fewer_starts=typed.fewer_starts,
            defrosts_as_expected=typed.defrosts_as_expected,
            hot_water_lower=typed.hot_water_lower,
            heaters_off=typed.heaters_off,
            unit=table,
            store=None if store is None else _store(store),
            tariff=None if tariff is None else _tariff(tariff, currency),
        ),
    )
    return WhatIfShown(
        local=cut.period.name,
        stale=cut.stale,
        currency=found.currency,
        parts=[
            UsePartShown(
                one.part.value,
                one.name,
                known(one.electricity),
                None if one.price is None else known(exact(one.price, found.currency or "")),
            )
            for one in found.uses
        ],
        effects=[_effect(one) for one in found.effects],
        together=None if found.together is None else _effect(found.together),
        csv=_as_csv(found),
    )


def _as_csv(found: WhatIf) -> str:
    """A line each, and all together: what is saved with its U (k = 2), and on what it rests."""
    text = StringIO()
    writer = csv.writer(text, lineterminator="\n")
    money = found.currency or ""
    head = ["what", "saved [kWh]", "U [kWh]", f"saved [{money}]", f"U [{money}]"]
    writer.writerow([harmless(cell) for cell in (*head, "rests on", "the house would feel")])
    for one in (*found.effects, *([found.together] if found.together else [])):
        row = [harmless(one.name)]
        for each in (one.electricity, one.money):
            row += [f"{each.value:.4f}", f"{each.U:.4f}"] if each else ["", ""]
        rests = one.reason.sentence if one.reason else "; ".join(one.assumptions)
        writer.writerow([*row, harmless(rests), harmless("; ".join(one.comfort))])
    return text.getvalue()


def _store(typed: StoreTyped) -> Store:
    try:
        return Store(
            kind=typed.kind,
            kwh_k=typed.kwh_k,
            swing_k=typed.swing_k,
            kwh=typed.kwh,
            efficiency=typed.efficiency,
        )
    except ValueError as error:
        words = {
            StoreKind.BUILDING: "type the heat it holds a kelvin, and by how much rooms may swing",
            StoreKind.TANK: "type by how much it may be hotter",
            StoreKind.BATTERY: "type what it gives a day",
        }
        raise DescriptionError(f"store: {words[typed.kind]}.") from error


def _tariff(typed: TariffTyped, currency: str) -> Tariff:
    bands: tuple[Band, ...] = ()
    if typed.cheap is not None:
        begin, end = (time.fromisoformat(t) for t in (typed.cheap_from, typed.cheap_to))
        bands = (Band(name="cheap", price=typed.cheap, start=begin, end=end),)
    return Tariff(
        price=typed.price,
        standing_charge=typed.standing_charge,
        bands=bands,
        currency=currency,
    )


def _effect(one: WhatIfEffect) -> WhatIfEffectShown:
    return WhatIfEffectShown(
        one.code.value,
        one.name,
        one.formula,
        figure(one.electricity),
        figure(one.money),
        list(one.assumptions),
        list(one.comfort),
        one.reason,
    )
