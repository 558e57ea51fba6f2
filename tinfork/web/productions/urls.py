from django.urls import path

from . import views

urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("productions/<int:pk>/", views.production, name="production"),
]
