from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from .searching import MOST_CHARACTERS, find


def look_up(request: HttpRequest) -> HttpResponse:
    """Show what is found of what is typed (?q=), as the list that the bar's window shows."""
    typed = request.GET.get("q", "")[:MOST_CHARACTERS]
    return render(request, "finding/found.html", {"typed": typed.strip(), "kinds": find(request.user, typed)})
