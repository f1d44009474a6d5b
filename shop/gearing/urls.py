from django.urls import path

from shop.gearing import views

urlpatterns = [
    path("jobs/<int:number>/vehicle", views.vehicle_of_job, name="vehicle"),
    path("jobs/<int:number>/ratio", views.ratio_of_job, name="ratio"),
    path("jobs/<int:number>/ratio.pdf", views.ratio_pdf, name="ratio-pdf"),
    path("jobs/<int:number>/counted", views.counted, name="counted"),
    path("jobs/<int:number>/tag.pdf", views.tag, name="ratio-tag"),
    path("gear-sets", views.sets, name="gear-sets"),
    path("gear-sets.csv", views.sets_csv, name="gear-sets-csv"),
    path("vehicles", views.all_vehicles, name="vehicles"),
]
