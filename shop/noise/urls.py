from django.urls import path

from shop.noise import views

urlpatterns = [
    path("jobs/<int:number>/noise", views.noise, name="noise"),
    path("jobs/<int:number>/by-hand", views.by_hand, name="by-hand"),
    path("jobs/<int:number>/recordings", views.recordings_before, name="recordings"),
    path("jobs/<int:number>/recordings/after", views.recordings_after, name="recordings-after"),
    path("jobs/<int:number>/recordings/<int:work_id>/state", views.recording_state, name="recording-state"),
    path(
        "jobs/<int:number>/recordings/<int:sound_id>/sound", views.recording_sound, name="recording-sound"
    ),
    path("jobs/<int:number>/recordings/<int:work_id>/map.png", views.recording_map, name="recording-map"),
    path("jobs/<int:number>/noise/after", views.noise_after, name="noise-after"),
]
