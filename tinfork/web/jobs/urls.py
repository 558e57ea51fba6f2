from django.urls import path

from . import views

urlpatterns = [
    path("jobs/<int:pk>/", views.progress, name="job"),
    path("jobs/<int:pk>/cancel", views.cancel, name="job-cancel"),
    path("jobs/<int:pk>/result", views.result, name="job-result"),
]
