from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/prompter/", views.prompter, name="prompter"),
    path("scenes/<int:pk>/prompter/log", views.shots, name="prompter-log"),
]
