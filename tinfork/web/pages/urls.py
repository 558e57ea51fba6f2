from django.urls import path

from . import guide, next_step, otherwise, productions, script, sound, start

urlpatterns = [
    path("", productions.shelf, name="shelf"),
    path("guide/", guide.guide, name="guide"),
    path("guide/<slug:slug>/", guide.guide, name="guide-page"),
    path("productions/<int:pk>/", productions.production, name="production"),
    path("productions/<int:pk>/cast", productions.add_to_cast, name="add-to-cast"),
    path("productions/<int:pk>/cast-and-charts/", productions.cast, name="cast"),
    path("productions/<int:pk>/start", start.start, name="start"),
    path("scenes/<int:pk>/", sound.page, name="scene"),
    path("scenes/<int:pk>/sound/scratch", sound.scratch, name="sound-scratch"),
    path("scenes/<int:pk>/next", next_step.next_step, name="next-step"),
    path("scenes/<int:pk>/script/", script.page, name="script"),
    path("scenes/<int:pk>/script/lines", script.all_lines, name="script-lines"),
    path("scenes/<int:pk>/script/edit", script.edit, name="script-edit"),
    path("scenes/<int:pk>/script/import", script.bring, name="script-import"),
    path("scenes/<int:pk>/script/revise/", script.revise, name="script-revise"),
    path("scenes/<int:pk>/script/otherwise/", otherwise.page, name="otherwise"),
    path("scenes/<int:pk>/script/otherwise/<int:number>", otherwise.settle, name="otherwise-settle"),
    path("scenes/<int:pk>/script/otherwise/<int:number>/written.wav", otherwise.written, name="otherwise-written"),
    path("scenes/<int:pk>/script/read", script.read, name="script-read"),
    path("scenes/<int:pk>/script/export.<str:kind>", script.export, name="script-export"),
]
