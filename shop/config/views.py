"""Pages that belong to no station: health, errors in words."""

from django.contrib.auth.decorators import login_not_required
from django.db import connection
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render


@login_not_required
def healthy(request: HttpRequest) -> JsonResponse:
    """Say that server and database answer."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return JsonResponse({"healthy": True})


def stale_form(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Answer a form whose token no longer fits, most often after signing in again elsewhere."""
    return render(
        request,
        "message.html",
        status=403,
        context={
            "title": "This page is from before you signed in",
            "words": "Nothing was saved. Go back, reload the page, and send it again.",
        },
    )


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Answer an address that leads nowhere in this shop."""
    return render(
        request,
        "message.html",
        status=404,
        context={
            "title": "Not in this shop",
            "words": "That job, sheet or page does not exist here. Check the number.",
        },
    )


@login_not_required
def broken(request: HttpRequest) -> HttpResponse:
    """Answer a fault of ours."""
    return render(
        request,
        "message.html",
        status=500,
        context={
            "title": "Lash made a mistake",
            "words": "What you sent may not be saved. Go back and look before sending it again.",
        },
    )
