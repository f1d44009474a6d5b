from django.urls import path

from shop.pattern import views

urlpatterns = [
    path("guide/pattern", views.guide, name="guide-pattern"),
    path("jobs/<int:number>/pattern/predicted", views.predicted, name="pattern-predicted"),
    path("jobs/<int:number>/pattern/chart", views.whole_chart, name="pattern-chart"),
    path("jobs/<int:number>/pattern/photo", views.upload, name="pattern-upload"),
    path("jobs/<int:number>/pattern/photo/<int:photo_id>", views.photo, name="pattern-photo"),
    path("jobs/<int:number>/pattern/photo/<int:photo_id>/read", views.read, name="pattern-read"),
]
