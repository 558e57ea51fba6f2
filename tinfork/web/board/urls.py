from django.urls import path

from . import views

urlpatterns = [
    path("productions/<int:pk>/board/set", views.set_field, name="board-set"),
    path("productions/<int:pk>/board/undo", views.undo, name="board-undo"),
    path("productions/<int:pk>/board/read", views.read, name="board-read"),
    path("productions/<int:pk>/board/look", views.look, name="board-look"),
    path("productions/<int:pk>/board/now", views.now, name="board-now"),
    path("productions/<int:pk>/board/parts", views.parts, name="board-parts"),
    path("productions/<int:pk>/board/cut", views.cut, name="board-cut"),
    path("productions/<int:pk>/board/copy", views.copy, name="board-copy"),
    path("productions/<int:pk>/board/join", views.join, name="board-join"),
    path("productions/<int:pk>/recut", views.recut, name="recut"),
    path("scenes/<int:pk>/recast", views.recast, name="recast"),
    path("scenes/<int:pk>/elsewhere", views.elsewhere, name="elsewhere"),
    path("productions/<int:pk>/board/mouths", views.mouths, name="board-mouths"),
    path("productions/<int:pk>/board/sequence", views.sequence, name="board-sequence"),
    path("productions/<int:pk>/board/reel", views.reel, name="board-reel"),
    path("productions/<int:pk>/board/views", views.views, name="board-views"),
    path("productions/<int:pk>/board/table.csv", views.table, name="board-table"),
    path("productions/<int:pk>/board/report.<str:kind>", views.report, name="board-report"),
    path("productions/<int:pk>/board/sounds", views.sounds, name="board-sounds"),
]
