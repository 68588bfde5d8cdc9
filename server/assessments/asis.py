"""Results of the core as the API gives them: as they are, but for Estimates, which are shown as
figures."""

from dataclasses import fields, is_dataclass, make_dataclass
from functools import cache
from types import UnionType
from typing import Any, Union, get_args, get_origin, get_type_hints

from ember.basis.quantity import Estimate
from server.assessments.shown import FigureShown, known


@cache
def shape_of(kind: type[Any]) -> type[Any]:
    """The dataclass of the same name and fields, with a FigureShown wherever there is an Estimate.

    A name must be unique in the API.
    """
    hints = get_type_hints(kind)
    made = make_dataclass(
        kind.__name__, [(f.name, _shaped(hints[f.name])) for f in fields(kind)], frozen=True
    )
    made.__doc__ = kind.__doc__
    return made


def _shaped(hint: Any) -> Any:
    if hint is Estimate:
        return FigureShown
    origin, inner = get_origin(hint), get_args(hint)
    if origin in (UnionType, Union):
        return Union[tuple(_shaped(one) for one in inner)]  # noqa: UP007
    if origin is not None and inner:
        return origin[tuple(_shaped(one) for one in inner)]
    return shape_of(hint) if isinstance(hint, type) and is_dataclass(hint) else hint


def as_shown(value: Any) -> Any:
    """A result with every Estimate as a figure."""
    if isinstance(value, Estimate):
        return known(value)
    if isinstance(value, list | tuple):
        return type(value)(as_shown(one) for one in value)
    if isinstance(value, dict):
        return {key: as_shown(one) for key, one in value.items()}
    if is_dataclass(value) and not isinstance(value, type):
        kind = shape_of(type(value))
        return kind(**{f.name: as_shown(getattr(value, f.name)) for f in fields(value)})
    return value
