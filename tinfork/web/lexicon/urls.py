from django.urls import path

from . import views

urlpatterns = [
    path("productions/<int:pk>/lexicon/", views.page, name="lexicon"),
    path("productions/<int:pk>/lexicon/save", views.save, name="lexicon-save"),
    path("productions/<int:pk>/lexicon/<int:entry>/delete", views.delete, name="lexicon-delete"),
    path("productions/<int:pk>/lexicon/import", views.bring, name="lexicon-import"),
    path("productions/<int:pk>/lexicon.csv", views.export, name="lexicon-export"),
    path("productions/<int:pk>/lexicon/try", views.attempt, name="lexicon-try"),
    path("productions/<int:pk>/lexicon/say.wav", views.say, name="lexicon-say"),
]
