from django.urls import path

from . import views

urlpatterns = [
    path("sounds/<int:pk>/listen.flac", views.listen, name="sound-listen"),
    path("sounds/<int:pk>/peaks", views.peaks, name="sound-peaks"),
]
