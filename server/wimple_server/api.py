"""The API: its routers, and the one JSON shape of an error."""

from typing import Any

from django.core.exceptions import PermissionDenied, SuspiciousOperation
from django.db import OperationalError
from django.http import Http404, HttpRequest, HttpResponse
from django.utils.datastructures import MultiValueDict
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.parser import Parser as NinjaParser
from wimple_core.errors import BadDocument, Busy, WimpleError
from wimple_core.job.loading import fault_of

from .cutters.machines_api import router as machines
from .cutters.marks_api import router as marks
from .cutters.running_api import router as running
from .disk import DISK_FULL, no_room
from .errors import Conflict, error_body
from .folio.api import router as folio
from .jobs.api import router as jobs
from .jobs.placing import router as placing
from .jobs.tables_api import router as tables
from .jobs.uploads import router as uploads
from .journal import note_fault
from .people.api import router as people
from .people.guessing import TooManyGuesses
from .people.roles import by_method
from .people.session_api import router as session
from .shelf.api import router as shelf
from .stock.api import router as stock
from .works.api import router as works
from .workshops.api import router as workshops
from .workshops.models import style_of

_NO_VALUE = ("missing", "extra_forbidden")
"""Faults of a program that asks, not of what a maker typed."""


def _nought() -> BadDocument:
    return BadDocument("There is a sign in it that cannot be written (code 0).", hint="Take it out, or type it anew.")


class Parser(NinjaParser):
    """Refuses what no database keeps in words: the sign of code nought."""

    def parse_body(self, request: HttpRequest) -> Any:
        if b"\\u0000" in request.body:
            raise _nought()
        return super().parse_body(request)

    def parse_querydict(self, data: MultiValueDict[str, Any], list_fields: list[str], request: HttpRequest) -> Any:
        if any("\x00" in str(value) for values in data.lists() for value in values[1]):
            raise _nought()
        return super().parse_querydict(data, list_fields, request)


api = NinjaAPI(title="Wimple", version="1", auth=by_method, docs_url=None, openapi_url="/openapi.json", parser=Parser())
api.add_router("", session)
api.add_router("", people)
api.add_router("", workshops)
api.add_router("", jobs)
api.add_router("", placing)
api.add_router("", tables)
api.add_router("", uploads)
for cutting in (machines, running, marks):
    api.add_router("", cutting)
api.add_router("/stock", stock)
api.add_router("/works", works)
api.add_router("/shelf", shelf)
api.add_router("/folio", folio)


@api.exception_handler(WimpleError)
def wimple_error(request: HttpRequest, bad: WimpleError) -> HttpResponse:
    """What the user can put right."""
    return api.create_response(request, bad.as_dict(style_of(request)), status=422)


@api.exception_handler(Busy)
def busy(request: HttpRequest, bad: Busy) -> HttpResponse:
    """Its turn did not come: the same will do in a minute."""
    answer = api.create_response(request, bad.as_dict(), status=503)
    answer["Retry-After"] = "60"
    return answer


@api.exception_handler(TooManyGuesses)
def too_many_guesses(request: HttpRequest, bad: TooManyGuesses) -> HttpResponse:
    """Wrong passwords come too fast."""
    wait = f"{bad.wait_s} second{'s' if bad.wait_s != 1 else ''}"
    if bad.wait_s > 90:
        wait = f"{-(-bad.wait_s // 60)} minutes"
    body = error_body("too_many_guesses", f"Too many wrong passwords: wait {wait}.", "Then try again.")
    answer = api.create_response(request, body, status=429)
    answer["Retry-After"] = str(bad.wait_s)
    return answer


@api.exception_handler(Conflict)
def conflict(request: HttpRequest, bad: Conflict) -> HttpResponse:
    """A save that would overwrite another's."""
    return api.create_response(
        request, {**error_body("stale", bad.message, bad.hint), "revision": bad.revision}, status=409
    )


@api.exception_handler(ValidationError)
def bad_request(request: HttpRequest, bad: ValidationError) -> HttpResponse:
    """A request with values that cannot stand where they do, or one that does not have the shape of the API."""
    # The first parts of a place are the body and its parameter.
    typed = [e for e in bad.errors if len(e["loc"]) > 2 and e["loc"][0] == "body" and e["type"] not in _NO_VALUE]
    if typed and len(typed) == len(bad.errors):
        return wimple_error(request, BadDocument.of([fault_of({**e, "loc": e["loc"][2:]}) for e in typed]))
    first = bad.errors[0] if bad.errors else {"loc": (), "msg": "unreadable"}
    field = ".".join(str(p) for p in first["loc"])
    return api.create_response(
        request, error_body("bad_request", f"{field}: {first['msg']}.", "See /api/openapi.json.", field), status=422
    )


@api.exception_handler(AuthenticationError)
def signed_out(request: HttpRequest, bad: AuthenticationError) -> HttpResponse:
    """Nobody is signed in."""
    return api.create_response(
        request, error_body("signed_out", "You are not signed in.", "Sign in and try again."), status=401
    )


@api.exception_handler(Http404)
@api.exception_handler(PermissionDenied)
def not_there(request: HttpRequest, bad: Exception) -> HttpResponse:
    """Not there, or not this workshop's: the answer is the same."""
    return api.create_response(
        request,
        error_body("not_there", "There is nothing of that number in this workshop.", "Go back to the Bench."),
        status=404,
    )


@api.exception_handler(SuspiciousOperation)
def too_much(request: HttpRequest, bad: SuspiciousOperation) -> HttpResponse:
    """More than is taken, or a request nobody makes by hand."""
    body = error_body(
        "refused",
        "The request is larger than is taken, or malformed.",
        "A job document has at most 8 MB; drawings go as files.",
    )
    return api.create_response(request, body, status=413)


@api.exception_handler(HttpError)
def http_error(request: HttpRequest, bad: HttpError) -> HttpResponse:
    """Anything else that was refused."""
    if isinstance(bad.__cause__, WimpleError):
        return wimple_error(request, bad.__cause__)
    return api.create_response(request, error_body("refused", bad.message, ""), status=bad.status_code)


@api.exception_handler(OperationalError)
def database_error(request: HttpRequest, bad: OperationalError) -> HttpResponse:
    """The database could not write: its disk is full, or it is held too long."""
    if no_room(bad):
        note_fault("the disk is full")
        body = error_body("disk_full", DISK_FULL, "Tell whoever runs the program; try again when there is room.")
        return api.create_response(request, body, status=507)
    return unexpected(request, bad)


@api.exception_handler(Exception)
def unexpected(request: HttpRequest, bad: Exception) -> HttpResponse:
    """A fault of ours: said so, logged, and nothing of its inside shown."""
    sign = note_fault(f"{request.method} {request.path}")
    body = error_body(
        "our_fault",
        "Something went wrong here, and it is not your doing.",
        f"What you typed is kept; try again. Whoever runs the program finds it in the log as {sign}.",
    )
    return api.create_response(request, body, status=500)
