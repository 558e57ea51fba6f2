"""Every address of the application, app by app."""

from django.urls import include, path

handler500 = "tinfork.web.trouble.failed"

urlpatterns = [
    path("", include("tinfork.web.pages.urls")),
    path("", include("tinfork.web.upkeep.urls")),
    path("", include("tinfork.web.accounts.urls")),
    path("", include("tinfork.web.people.urls")),
    path("", include("tinfork.web.notices.urls")),
    path("", include("tinfork.web.stream.urls")),
    path("", include("tinfork.web.finding.urls")),
    path("", include("tinfork.web.board.urls")),
    path("", include("tinfork.web.rushes.urls")),
    path("", include("tinfork.web.sound.urls")),
    path("", include("tinfork.web.edits.urls")),
    path("", include("tinfork.web.jobs.urls")),
    path("", include("tinfork.web.lexicon.urls")),
    path("", include("tinfork.web.charts.urls")),
    path("", include("tinfork.web.faces.urls")),
    path("", include("tinfork.web.desk.urls")),
    path("", include("tinfork.web.acting.urls")),
    path("", include("tinfork.web.handover.urls")),
    path("", include("tinfork.web.sheet.urls")),
    path("", include("tinfork.web.prompter.urls")),
    path("", include("tinfork.web.following.urls")),
    path("", include("tinfork.web.bundles.urls")),
]
