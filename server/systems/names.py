"""Names: what tells two of them apart is to be seen."""

from unicodedata import normalize

from pydantic import TypeAdapter, ValidationError

from ember.basis.errors import DescriptionError
from ember.description.as_json import sentences
from ember.description.house import Name
from server.systems.models import System

_NAME = TypeAdapter(Name)


def clean(name: str) -> str:
    """A name as it is kept. Raises DescriptionError for one with invisible characters, or none."""
    try:
        return _NAME.validate_python(name)
    except ValidationError as error:
        raise DescriptionError(f"name: {sentences(error)}.") from error


def alike(one: str, other: str) -> bool:
    """Whether a reader would take two names for the same."""
    return _look(one) == _look(other)


def twin_of(name: str, but: int | None = None) -> System | None:
    """A system whose name looks like another: the same letters in other forms, cases or widths.

    Parameters
    ----------
    but : key of a system that does not count.
    """
    look = _look(name)
    others = System.objects.exclude(pk=but) if but is not None else System.objects.all()
    for pk, other in others.values_list("pk", "name"):
        if _look(other) == look:
            return System.objects.get(pk=pk)
    return None


def _look(name: str) -> str:
    """What a reader sees of a name."""
    return " ".join(normalize("NFKC", name).casefold().split())
