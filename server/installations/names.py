"""Names of systems: what tells two of them apart is to be seen."""

from unicodedata import normalize

from server.installations.models import System


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
