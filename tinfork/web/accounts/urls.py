from django.urls import path

from . import views

urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-out/", views.SignOut.as_view(), name="sign-out"),
    path("welcome/", views.first_person, name="first-person"),
    path("preferences/keys/<str:view>/", views.keep_keys, name="keep-keys"),
    path("preferences/stays/", views.keep_stays, name="keep-stays"),
    path("preferences/theme/", views.keep_theme, name="keep-theme"),
    path("demo/", views.enter_demo, name="enter-demo"),
]
