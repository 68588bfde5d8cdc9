"""Where everything is: the API, the screens, and what they are made of."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path
from django.views.decorators.cache import never_cache

from server.api.app import api
from server.api.ingest import ingest

NONCE = "__NONCE__"  # where the page says with what styles may be added


@never_cache
def screens(request: HttpRequest) -> HttpResponse:
    """The application; every address that is not another's is one of its screens."""
    page = settings.WEB / "index.html"
    if not page.exists():
        return HttpResponse(
            "The screens are not built yet: run `make web`.", content_type="text/plain", status=503
        )
    return HttpResponse(page.read_text().replace(NONCE, str(request.csp_nonce)))  # type: ignore[attr-defined]


handler400 = "server.api.request.unclear"
handler404 = "server.api.request.missing"
handler500 = "server.api.request.failed"

urlpatterns = [
    path("api/v1/ingest", ingest),
    path("api/v1/", api.urls),
    re_path(r"^(?!api/|static/).*$", screens),
]
