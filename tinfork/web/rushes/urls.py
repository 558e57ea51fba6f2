from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/rushes/", views.rushes, name="rushes"),
    path("scenes/<int:pk>/rushes/review", views.review, name="rushes-review"),
    path("scenes/<int:pk>/rushes/show", views.show, name="rushes-show"),
    path("scenes/<int:pk>/rushes/judge", views.judge, name="rushes-judge"),
    path("scenes/<int:pk>/rushes/note", views.note, name="rushes-note"),
    path("scenes/<int:pk>/rushes/done", views.done, name="rushes-done"),
    path("scenes/<int:pk>/rushes/take-away", views.take_away, name="rushes-take-away"),
    path("scenes/<int:pk>/rushes/versions/<int:number>", views.version, name="rushes-version"),
]
