from django.urls import path

from . import views

urlpatterns = [
    path("scenes/<int:pk>/acting/", views.view, name="acting-view"),
    path("scenes/<int:pk>/acting/lanes", views.of_scene, name="acting-lanes"),
    path("scenes/<int:pk>/acting/propose", views.propose_all, name="acting-propose"),
    path("acting/<int:pk>/", views.character_acting, name="acting"),
    path("acting/<int:pk>/melody", views.melody, name="acting-melody"),
    path("acting/<int:pk>/edit", views.edit, name="acting-edit"),
    path("acting/<int:pk>/poses", views.poses, name="acting-poses"),
    path("poses/<int:pk>/delete", views.drop_pose, name="pose-delete"),
]
