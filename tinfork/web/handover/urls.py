from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/hand-over/", views.handover, name="handover"),
    path("scenes/<int:pk>/hand-over/made", views.made, name="handover-made"),
    path("scenes/<int:pk>/hand-over/files", views.files, name="handover-files"),
    path("scenes/<int:pk>/hand-over/make", views.make, name="handover-make"),
    path("scenes/<int:pk>/hand-over/picture", views.backdrop, name="backdrop"),
    path("scenes/<int:pk>/hand-over/<slug:key>.png", views.backdrop_picture, name="backdrop-picture"),
    path("hand-over/files/<int:pk>", views.file, name="handover-file"),
    path("productions/<int:pk>/presets", views.presets, name="presets"),
    path("presets/<int:pk>/delete", views.delete_preset, name="preset-delete"),
]
