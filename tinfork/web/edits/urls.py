from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/versions", views.versions, name="scene-versions"),
    path("scenes/<int:pk>/history", views.steps, name="scene-history"),
    path("scenes/<int:pk>/history/back", views.back, name="scene-back"),
]
