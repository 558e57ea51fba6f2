from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/reading/", views.desk, name="desk"),
    path("scenes/<int:pk>/reading/read", views.read, name="desk-read"),
    path("staves/<int:pk>/", views.stave, name="stave"),
    path("staves/<int:pk>/edit", views.edit, name="stave-edit"),
]
