from django.urls import path

from shop.road import views

urlpatterns = [
    path("jobs/<int:number>/oil", views.oil, name="oil"),
    path("jobs/<int:number>/road-test", views.road_test, name="road-test"),
    path("jobs/<int:number>/break-in", views.break_in, name="break-in"),
    path("jobs/<int:number>/leaflet", views.leaflet, name="leaflet"),
    path("jobs/<int:number>/leaflet.pdf", views.leaflet_pdf, name="leaflet-pdf"),
]
