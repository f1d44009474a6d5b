from django.urls import path

from shop.bench import pattern_views, phone_views

urlpatterns = [
    path("guide/pattern", pattern_views.guide, name="guide-pattern"),
    path("jobs/<int:number>/pattern/predicted", pattern_views.predicted, name="pattern-predicted"),
    path("jobs/<int:number>/pattern/chart", pattern_views.whole_chart, name="pattern-chart"),
    path("jobs/<int:number>/pattern/photo", pattern_views.upload, name="pattern-upload"),
    path("jobs/<int:number>/pattern/phone", phone_views.code, name="pattern-phone"),
    path("phone/<str:secret>", phone_views.phone, name="phone"),
    path("jobs/<int:number>/pattern/photo/<int:photo_id>", pattern_views.photo, name="pattern-photo"),
    path("jobs/<int:number>/pattern/photo/<int:photo_id>/read", pattern_views.read, name="pattern-read"),
]
