from django.urls import path

from . import at_the_camera, phone, views

urlpatterns = [
    path("scenes/<int:pk>/prompter/", views.prompter, name="prompter"),
    path("scenes/<int:pk>/prompter/log", views.shots, name="prompter-log"),
    path("scenes/<int:pk>/prompter/take", at_the_camera.take, name="camera-take"),
    path("scenes/<int:pk>/prompter/taken", at_the_camera.taken, name="camera-taken"),
    path("scenes/<int:pk>/prompter/frames/<int:frame>.jpg", at_the_camera.picture, name="camera-picture"),
    path("scenes/<int:pk>/prompter/phone", phone.offered, name="pairing-offer"),
    path("scenes/<int:pk>/prompter/phones/<int:number>", phone.pairing, name="pairing"),
    path("phone/", phone.phone, name="phone"),
    path("phone/sees", phone.phone_sees, name="phone-sees"),
    path("phone/presses", phone.phone_presses, name="phone-presses"),
]
