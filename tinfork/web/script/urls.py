from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/script/", views.page, name="script"),
    path("scenes/<int:pk>/script/lines", views.lines, name="script-lines"),
    path("scenes/<int:pk>/script/edit", views.edit, name="script-edit"),
    path("scenes/<int:pk>/script/import", views.bring, name="script-import"),
    path("scenes/<int:pk>/script/read", views.read, name="script-read"),
    path("scenes/<int:pk>/script/export.<str:kind>", views.export, name="script-export"),
]
