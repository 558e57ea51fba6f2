from django.urls import path

from . import views

urlpatterns = [
    path("notices/", views.notices, name="notices"),
    path("notices/see", views.see, name="notices-see"),
]
