from django.urls import path

from . import guests, views

_SOUND = "watch/<str:token>/shots/<int:pk>/sounds/<int:sound>/<str:channel>/"

urlpatterns = [
    path("productions/<int:pk>/screening/", views.screening, name="screening"),
    path("watch/<str:token>/", guests.watch, name="watch"),
    path("watch/<str:token>/shots/<int:pk>/seen", guests.seen, name="watch-seen"),
    path("watch/<str:token>/shots/<int:pk>/review", guests.review, name="watch-review"),
    path("watch/<str:token>/shots/<int:pk>/note", guests.note, name="watch-note"),
    path("watch/<str:token>/shots/<int:pk>/sounds/<int:sound>/reel.webm", guests.film, name="watch-film"),
    path(_SOUND + "listen.flac", guests.listen, name="watch-listen"),
    path(_SOUND + "peaks", guests.peaks, name="watch-peaks"),
    path("scenes/<int:pk>/rushes/seen", views.seen, name="rushes-seen"),
    path("scenes/<int:pk>/rushes/", views.rushes, name="rushes"),
    path("scenes/<int:pk>/rushes/review", views.review, name="rushes-review"),
    path("scenes/<int:pk>/rushes/show", views.show, name="rushes-show"),
    path("scenes/<int:pk>/rushes/judge", views.judge, name="rushes-judge"),
    path("scenes/<int:pk>/rushes/note", views.note, name="rushes-note"),
    path("scenes/<int:pk>/rushes/done", views.done, name="rushes-done"),
    path("scenes/<int:pk>/rushes/take-away", views.take_away, name="rushes-take-away"),
    path("scenes/<int:pk>/rushes/versions/<int:number>", views.version, name="rushes-version"),
]
