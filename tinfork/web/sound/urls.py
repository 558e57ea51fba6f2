from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/sound/", views.document, name="sound"),
    path("scenes/<int:pk>/sound/edit", views.edit, name="sound-edit"),
    path("scenes/<int:pk>/sound/bring", views.bring, name="sound-bring"),
    path("scenes/<int:pk>/sound/take", views.take, name="sound-take"),
    path("scenes/<int:pk>/sound/voices", views.voices, name="sound-voices"),
    path("sounds/<int:pk>/original", views.original, name="sound-original"),
    path("sounds/<int:pk>/reel.webm", views.reel, name="sound-reel"),
    path("sounds/<int:pk>/<str:channel>/listen.flac", views.listen, name="sound-listen"),
    path("sounds/<int:pk>/<str:channel>/peaks", views.peaks, name="sound-peaks"),
]
