from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/changes", views.changes, name="changes"),
    path("scenes/<int:pk>/changes/clock", views.clock, name="changes-clock"),
    path("scenes/<int:pk>/changes/sound", views.sound, name="changes-sound"),
    path("scenes/<int:pk>/changes/sound/<int:number>", views.compared, name="changes-compared"),
    path("scenes/<int:pk>/wait", views.wait_here, name="wait"),
]
