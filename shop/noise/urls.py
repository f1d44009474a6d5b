from django.urls import path

from shop.noise import views

urlpatterns = [
    path("jobs/<int:number>/noise", views.noise, name="noise"),
    path("jobs/<int:number>/by-hand", views.by_hand, name="by-hand"),
    path("jobs/<int:number>/noise/after", views.noise_after, name="noise-after"),
]
