from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/reading/", views.desk, name="desk"),
    path("scenes/<int:pk>/reading/read", views.read, name="desk-read"),
    path("scenes/<int:pk>/jumps", views.jumps, name="jumps"),
    path("staves/<int:pk>/", views.stave, name="stave"),
    path("staves/<int:pk>/why/<int:frame>", views.why, name="stave-why"),
    path("staves/<int:pk>/reading.<str:kind>", views.take_out, name="stave-out"),
    path("staves/<int:pk>/bring", views.bring_in, name="stave-bring"),
    path("staves/<int:pk>/edit", views.edit, name="stave-edit"),
]
