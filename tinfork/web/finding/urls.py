from django.urls import path

from . import views

urlpatterns = [path("find/", views.look_up, name="find")]
