"""What every answer passes through."""

from collections.abc import Callable

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string


class DatabaseLost:
    """Turn a lost database into words, so that the page keeps what was typed and sends it again.

    Sits outside the session, which itself needs the database.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            response = self.get_response(request)
        except (OperationalError, InterfaceError):
            return self.answer(request)
        return response

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """Catch what a view raises before it becomes an error page."""
        if isinstance(exception, OperationalError | InterfaceError):
            return self.answer(request)
        return None

    def answer(self, request: HttpRequest) -> HttpResponse:
        """Answer 503; the page's own script tells an htmx request's sender and tries again."""
        if request.headers.get("HX-Request"):
            return HttpResponse("The records cannot be reached.", status=503, content_type="text/plain")
        return HttpResponse(render_to_string("lost.html"), status=503)


class SignedOut:
    """Tell a page whose session ended so, instead of putting the sign-in form inside it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        leads = response.get("Location", "") if response.status_code == 302 else ""
        if request.headers.get("HX-Request") and leads.startswith(("/sign-in", "/me/")):
            return HttpResponse("You are signed out.", status=401, content_type="text/plain")
        return response
