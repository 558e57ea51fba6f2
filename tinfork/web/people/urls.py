from django.urls import path

from . import views

urlpatterns = [
    path("productions/<int:pk>/people/", views.people, name="people"),
    path("join/<str:token>/", views.join, name="join"),
    path("me/", views.me, name="me"),
]
