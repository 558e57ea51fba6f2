from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/hand-over/", views.handover, name="handover"),
    path("staves/<int:pk>/hand-over/<slug:kind>", views.make, name="make"),
]
