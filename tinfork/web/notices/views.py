from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from tinfork.web.cleaning import natural

from . import noticing


def notices(request: HttpRequest) -> HttpResponse:
    """Show what concerns a person, as the list that the bar opens."""
    own = noticing.notices_of(request.user)
    context = {"notices": own[: noticing.MOST_SHOWN], "unseen": noticing.unseen(request.user)}
    return render(request, "notices/notices.html", context)


@require_POST
def see(request: HttpRequest) -> HttpResponse:
    """Say of a notice that it was seen, and go to what it is about; of all, and show the list."""
    number = natural(request.POST.get("notice")) or 0
    if not number:
        noticing.see(request.user)
        return notices(request)
    found = get_object_or_404(noticing.notices_of(request.user), pk=number)
    noticing.see(request.user, found.pk)
    return redirect(found.address)
