from django.urls import path

from tinfork.web.tracks import trying

from . import views

urlpatterns = [
    path("scenes/<int:pk>/reading/", views.desk, name="desk"),
    path("scenes/<int:pk>/reading/read", views.read, name="desk-read"),
    path("scenes/<int:pk>/jumps", views.jumps, name="jumps"),
    path("staves/<int:pk>/", views.stave, name="stave"),
    path("staves/<int:pk>/why/<int:frame>", views.why, name="stave-why"),
    path("staves/<int:pk>/reading.<str:kind>", views.take_out, name="stave-out"),
    path("staves/<int:pk>/bring", views.bring_in, name="stave-bring"),
    path("staves/<int:pk>/timing", views.look_at_timing, name="stave-timing"),
    path("staves/<int:pk>/edit", views.edit, name="stave-edit"),
    path("staves/<int:pk>/checks", views.checks, name="stave-checks"),
    path("staves/<int:pk>/curves", views.curves, name="stave-curves"),
    path("staves/<int:pk>/habits", views.habits, name="stave-habits"),
    path("staves/<int:pk>/dial", views.dial, name="stave-dial"),
    path("staves/<int:pk>/takes", views.takes, name="stave-takes"),
    path("staves/<int:pk>/anew", views.anew, name="stave-anew"),
    path("takes/<int:pk>/", views.take, name="take"),
    path("takes/<int:pk>/delete", views.delete_take, name="take-delete"),
    path("characters/<int:pk>/speak", trying.speak, name="speak"),
    path("productions/<int:pk>/phrases", trying.phrases, name="phrases"),
    path("staves/<int:pk>/lines/<int:number>.flac", trying.line_sound, name="line-sound"),
    path("stock.json", trying.stock_track, name="stock-track"),
    path("stock.flac", trying.stock_sound, name="stock-sound"),
]
