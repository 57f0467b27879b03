"""Addresses: the API, and the front end for everything else."""

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.urls import path, re_path

from .api import api
from .errors import error_body
from .health import health


def front_end(request: HttpRequest) -> HttpResponse:
    """The one page of the front end; its router does the rest."""
    page = settings.WEB_BUILD / "index.html"
    if request.method not in ("GET", "HEAD") or request.path.startswith("/_app/"):
        raise Http404
    if not page.is_file():
        return HttpResponse("The front end is not built yet: run ./wimple demo.", status=503, content_type="text/plain")
    return HttpResponse(page.read_bytes(), headers={"Cache-Control": "no-cache"})


def handler404(request: HttpRequest, exception: Exception) -> HttpResponse:
    """An address nobody has: in the one JSON shape of an error."""
    return JsonResponse(
        error_body("not_there", "There is nothing at this address.", "See /api/openapi.json, or start at /."),
        status=404,
    )


urlpatterns = [path("api/", api.urls), path("health", health), re_path(r"^(?!api/).*$", front_end)]
