from django.urls import path

from . import views

urlpatterns = [
    path("characters/<int:pk>/face/", views.face, name="face"),
    path("characters/<int:pk>/face/look", views.look, name="face-look"),
    path("characters/<int:pk>/face/views", views.change_views, name="face-views"),
    path("characters/<int:pk>/face/bring", views.bring, name="face-bring"),
    path("characters/<int:pk>/face/mouth", views.mouth, name="face-mouth"),
    path("characters/<int:pk>/face/parts", views.new_part, name="part-new"),
    path("parts/<int:pk>/change", views.change_part, name="part-change"),
    path("layers/<int:pk>/change", views.change_layer, name="layer-change"),
    path("layers/<int:pk>/picture/<str:key>.png", views.picture, name="layer-picture"),
]
