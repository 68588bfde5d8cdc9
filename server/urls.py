"""Where everything is: the API, the screens, and what they are made of."""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase
from django.urls import path, re_path
from django.views.decorators.cache import never_cache

from server.api.app import api
from server.api.ingest import ingest


@never_cache
def screens(request: HttpRequest) -> HttpResponseBase:
    """The application; every address that is not another's is one of its screens."""
    page = settings.WEB / "index.html"
    if not page.exists():
        return HttpResponse(
            "The screens are not built yet: run `make web`.", content_type="text/plain", status=503
        )
    return FileResponse(page.open("rb"), content_type="text/html; charset=utf-8")


urlpatterns = [
    path("api/ingest", ingest),
    path("api/", api.urls),
    re_path(r"^(?!api/|static/).*$", screens),
]
