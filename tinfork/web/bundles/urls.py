from django.urls import path

from . import views

urlpatterns = [
    path("bundles/", views.bring_in, name="bring-in"),
    path("scenes/<int:pk>/bundle", views.make, name="bundle-make"),
]
