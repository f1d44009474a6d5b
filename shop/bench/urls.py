from django.urls import path

from shop.bench import pack_views, print_views, step_views, views

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
    path("jobs/<int:number>/adjusters", pack_views.adjusters, name="adjusters"),
    path("jobs/<int:number>/places", pack_views.places, name="lash-places"),
    path("jobs/<int:number>/take", views.take, name="take"),
    path("jobs/<int:number>/sleeve", pack_views.sleeve, name="sleeve"),
    path("jobs/<int:number>/pack", pack_views.pack, name="pack"),
    path("jobs/<int:number>/shape", pack_views.shape, name="shape"),
    path("jobs/<int:number>/fit", pack_views.fit, name="fit"),
    path("jobs/<int:number>/step", step_views.step, name="step"),
    path("jobs/<int:number>/station-done", step_views.station_done, name="station-done"),
    path("jobs/<int:number>/waive", step_views.waive_all, name="waive-all"),
    path("jobs/<int:number>/timer", step_views.timer, name="timer"),
    path("jobs/<int:number>/photo", step_views.photo, name="photo"),
    path("jobs/<int:number>/tighten", step_views.tighten, name="tighten"),
    path("jobs/<int:number>/pattern", print_views.mark, name="mark-pattern"),
    path("jobs/<int:number>/pattern/words", print_views.mark_words, name="mark-pattern-words"),
    path("jobs/<int:number>/pattern/print", print_views.make, name="pattern-print"),
    path("jobs/<int:number>/pattern/target", print_views.target, name="pattern-target"),
    path("jobs/<int:number>/pattern/maker", print_views.maker_chart, name="maker-chart"),
]
