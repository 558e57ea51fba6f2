from django.urls import path

from . import views

urlpatterns = [
    path("library/", views.library, name="library"),
    path("charts/<int:pk>/", views.chart, name="chart"),
    path("charts/styles.svg", views.styles, name="chart-styles"),
    path("charts/<int:pk>/bring", views.bring, name="chart-bring"),
    path("charts/<int:pk>/change", views.change, name="chart-change"),
    path("drawings/<int:pk>/change", views.change_drawing, name="drawing-change"),
    path("drawings/<int:pk>/drawing.svg", views.vector, name="drawing-vector"),
    path("drawings/<int:pk>/form", views.drawing_form, name="drawing-form"),
    path("drawings/<int:pk>/small/<str:key>.png", views.small_picture, name="drawing-small"),
    path("drawings/<int:pk>/further/<int:number>/<str:key>.png", views.further_picture, name="drawing-further"),
    path("drawings/<int:pk>/picture/<str:key>.png", views.picture, name="drawing-picture"),
]
