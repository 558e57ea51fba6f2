from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/", views.voices, name="scene"),
    path("scenes/<int:pk>/reading/", views.desk, name="desk"),
    path("scenes/<int:scene_pk>/voices/<int:character_pk>/", views.voice, name="voice"),
    path("scenes/<int:scene_pk>/voices/<int:character_pk>/sound", views.drop_sound, name="drop-sound"),
    path("scenes/<int:scene_pk>/voices/<int:character_pk>/read", views.read, name="read"),
    path("staves/<int:pk>/", views.stave, name="stave"),
    path("staves/<int:pk>/edit", views.edit, name="stave-edit"),
]
