"""Signing in and out, who one is, and the units in which numbers are shown."""

from dataclasses import dataclass
from typing import Annotated, Literal, cast
from unicodedata import normalize

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Body, Router
from ninja.utils import check_csrf
from pydantic import Field

from ember import VERSION
from ember.basis.quantity import conversion, symbol
from server.accounts.demo import DEMO_NAME
from server.accounts.models import Preferences
from server.accounts.views import csrf_failure, remember_browser

router = Router(tags=["people"])

# What is shown in SI and in US units: unit of the core → (SI, US), names of the core's own list.
PEOPLE_SHOWN = {
    "degC": ("degC", "degF"),
    "kelvin": ("kelvin", "kelvin_us"),
    "m3_per_s": ("L_per_min", "gpm"),
    "watt": ("kW", "kBtu_per_h"),
    "electric": ("kW", "kW"),
    "airflow": ("m3_per_h", "CFM"),
    "kWh": ("kWh", "kBtu"),
    "percent": ("percent", "percent"),
    "m2": ("m2", "ft2"),
    "litre": ("litre", "us_gallon"),
    "watt_per_kelvin": ("watt_per_kelvin", "Btu_per_h_degF"),
    "kelvin_day": ("kelvin_day", "degF_day"),
    "kWh_per_m2": ("kWh_per_m2", "kBtu_per_ft2"),
    "per_m2": ("per_m2", "per_ft2"),
    "Wh_per_m2_K_d": ("Wh_per_m2_K_d", "Btu_per_ft2_F_d"),
}


@dataclass(frozen=True)
class UnitShown:
    """y = factor · x + offset in a unit."""

    symbol: str
    factor: float
    offset: float


@dataclass(frozen=True)
class UnitPair:
    """How a unit of the core is shown in either system."""

    unit: str
    si: UnitShown
    us: UnitShown


Numbers = Literal["", "1,234.5", "1.234,5", "1 234,5", "1’234.5"]
Dates = Literal["", "22 Jan 2026", "Jan 22, 2026", "2026-01-22"]


@dataclass(frozen=True)
class Written:
    """How numbers and dates are written for a person; empty: as her browser does."""

    numbers: Numbers
    dates: Dates


@dataclass(frozen=True)
class Me:
    """Who is signed in, null for nobody. demo_name : who uses a demo. place : whose
    installations these are, empty where nobody said. written : how she has numbers and dates
    written."""

    user: str | None
    demo: bool
    demo_name: str | None
    version: str
    place: str
    units: list[UnitPair]
    written: Written


@dataclass(frozen=True)
class SignIn:
    """Name and password."""

    name: Annotated[str, Field(max_length=150)]
    password: Annotated[str, Field(max_length=1000)]


@dataclass(frozen=True)
class Message:
    """A sentence."""

    detail: str


def _unit(source: str, target: str) -> UnitShown:
    if target == "kelvin_us":  # a difference: no offset
        return UnitShown("°F", 1.8, 0.0)
    source = {"electric": "watt", "airflow": "m3_per_s"}.get(source, source)
    linear = conversion(source, target)
    assert linear is not None
    return UnitShown(symbol(target), *linear)


def _me(request: HttpRequest) -> Me:
    user = request.user.get_username() if request.user.is_authenticated else None
    pairs = [
        UnitPair(unit, _unit(unit, si), _unit(unit, us)) for unit, (si, us) in PEOPLE_SHOWN.items()
    ]
    demo = settings.DEMO
    return Me(
        user,
        demo,
        DEMO_NAME if demo else None,
        VERSION,
        settings.PLACE,
        pairs,
        _written(request),
    )


def _written(request: HttpRequest) -> Written:
    who = request.user.pk
    kept = None if who is None else Preferences.objects.filter(user_id=who).first()
    if kept is None:
        return Written("", "")
    return Written(cast(Numbers, kept.numbers), cast(Dates, kept.dates))


@router.get("/me", response=Me, auth=None)
def me(request: HttpRequest) -> Me:
    """Who is signed in; sets the token that later requests carry."""
    get_token(request)
    return _me(request)


@router.put("/me/written", response=Me)
def write_so(request: HttpRequest, asked: Body[Written]) -> Me:
    """Chooses how numbers and dates are written, for this person in every browser."""
    Preferences.objects.update_or_create(
        user_id=request.user.pk, defaults={"numbers": asked.numbers, "dates": asked.dates}
    )
    return _me(request)


@router.post("/sign-in", response={200: Me, 401: Message, 403: Message, 415: Message}, auth=None)
def sign_in(
    request: HttpRequest, response: HttpResponse, asked: Body[SignIn]
) -> Me | tuple[int, Message] | HttpResponse:
    """Signs in; as JSON and with the token that /me gives, so that no other site can do it."""
    if request.content_type != "application/json":
        return 415, Message("Send name and password as application/json.")
    refused = check_csrf(request)
    if refused is not None:
        return csrf_failure(request)
    name = normalize("NFKC", asked.name).strip()
    user = authenticate(request, username=name, password=asked.password)
    if user is None:
        return 401, Message(
            "Name and password do not fit. After ten tries wait a quarter of an hour."
        )
    login(request, user)
    remember_browser(response, name)
    return _me(request)


@router.post("/sign-out", response=Me)
def sign_out(request: HttpRequest) -> Me:
    """Signs out."""
    logout(request)
    return _me(request)
