from django.urls import path

from . import trying, views

urlpatterns = [
    path("scenes/<int:pk>/reading/", views.desk, name="desk"),
    path("scenes/<int:pk>/reading/read", views.read, name="desk-read"),
    path("scenes/<int:pk>/jumps", views.jumps, name="jumps"),
    path("staves/<int:pk>/", views.stave, name="stave"),
    path("staves/<int:pk>/why/<int:frame>", views.why, name="stave-why"),
    path("staves/<int:pk>/reading.<str:kind>", views.take_out, name="stave-out"),
    path("staves/<int:pk>/bring", views.bring_in, name="stave-bring"),
    path("staves/<int:pk>/edit", views.edit, name="stave-edit"),
    path("characters/<int:pk>/speak", trying.speak, name="speak"),
    path("productions/<int:pk>/phrases", trying.phrases, name="phrases"),
    path("staves/<int:pk>/lines/<int:number>.flac", trying.line_sound, name="line-sound"),
    path("stock.json", trying.stock_track, name="stock-track"),
    path("stock.flac", trying.stock_sound, name="stock-sound"),
]
