from django.urls import path

from shop.bench import prints, views

urlpatterns = [
    path("chances", views.held_chances, name="chances"),
    path("jobs/<int:number>/", views.bench, name="bench"),
    path("jobs/<int:number>/reading", views.reading, name="reading"),
    path("jobs/<int:number>/mark", views.confirm_mark, name="confirm-mark"),
    path("jobs/<int:number>/undo", views.undo, name="undo"),
    path("jobs/<int:number>/way", views.way, name="way"),
    path("jobs/<int:number>/move", views.take_move, name="take-move"),
    path("jobs/<int:number>/sign", views.sign, name="sign"),
    path("jobs/<int:number>/reopen", views.reopen, name="reopen"),
    path("jobs/<int:number>/adjusters", views.adjusters, name="adjusters"),
    path("jobs/<int:number>/places", views.places, name="lash-places"),
    path("jobs/<int:number>/take", views.take, name="take"),
    path("jobs/<int:number>/sleeve", views.sleeve, name="sleeve"),
    path("jobs/<int:number>/pack", views.pack, name="pack"),
    path("jobs/<int:number>/shape", views.shape, name="shape"),
    path("jobs/<int:number>/fit", views.fit, name="fit"),
    path("jobs/<int:number>/step", views.step, name="step"),
    path("jobs/<int:number>/station-done", views.station_done, name="station-done"),
    path("jobs/<int:number>/waive", views.waive_all, name="waive-all"),
    path("jobs/<int:number>/timer", views.timer, name="timer"),
    path("jobs/<int:number>/photo", views.photo, name="photo"),
    path("jobs/<int:number>/tighten", views.tighten, name="tighten"),
    path("jobs/<int:number>/pattern", prints.mark, name="mark-pattern"),
    path("jobs/<int:number>/pattern/words", prints.mark_words, name="mark-pattern-words"),
    path("jobs/<int:number>/pattern/print", prints.make, name="pattern-print"),
    path("jobs/<int:number>/pattern/target", prints.target, name="pattern-target"),
    path("jobs/<int:number>/pattern/maker", prints.maker_chart, name="maker-chart"),
]
