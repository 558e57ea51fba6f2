from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/sheet/", views.sheet, name="sheet"),
    path("scenes/<int:pk>/sheet/note", views.note, name="sheet-note"),
    path("scenes/<int:pk>/sheet/notes", views.notes, name="sheet-notes"),
    path("scenes/<int:pk>/sheet/sheet.<slug:kind>", views.export, name="sheet-export"),
]
