from django.urls import path

from shop.worksheets import measured_views, views

urlpatterns = [
    path("timers", views.timers, name="timers"),
    path("timers/<int:number>/<int:timer_id>/end", views.end_timer, name="end-timer"),
    path("jobs/<int:number>/work", views.work, name="work"),
    path("jobs/<int:number>/tools", views.tools, name="tools"),
    path("jobs/<int:number>/arrival", views.arrival, name="arrival"),
    path("jobs/<int:number>/register", views.register, name="register"),
    path("jobs/<int:number>/back-in", views.back_in, name="back-in"),
    path("jobs/<int:number>/findings", views.findings, name="findings"),
    path("jobs/<int:number>/runout", measured_views.runout, name="runout"),
    path("jobs/<int:number>/runout/take", measured_views.take_runout, name="take-runout"),
    path("jobs/<int:number>/take-field", measured_views.take_field, name="take-field"),
    path("jobs/<int:number>/clock", measured_views.clock, name="clock"),
    path("jobs/<int:number>/heights", measured_views.heights, name="heights"),
    path("moves", views.what_moves, name="what-moves"),
    path("jobs/<int:number>/moves", views.moves, name="moves"),
    path("jobs/<int:number>/carrier", measured_views.carrier, name="carrier"),
    path("jobs/<int:number>/spread", measured_views.spread, name="spread"),
    path("jobs/<int:number>/torque", measured_views.torque, name="torque"),
    path("jobs/<int:number>/photos", views.photos, name="photos"),
    path("jobs/<int:number>/photos/<int:photo_id>", views.photo_shown, name="photo-shown"),
    path("jobs/<int:number>/photos/<int:photo_id>/original", views.photo_original, name="photo-original"),
]
