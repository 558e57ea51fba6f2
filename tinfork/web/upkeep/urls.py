from django.urls import path

from . import views

urlpatterns = [
    path("health/", views.health, name="health"),
    path("may-send", views.may_send, name="may-send"),
]
