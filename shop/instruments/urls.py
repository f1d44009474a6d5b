from django.urls import path

from shop.instruments import views

urlpatterns = [
    path("", views.instruments, name="instruments"),
    path("<int:instrument_id>", views.instrument, name="instrument"),
    path("<int:instrument_id>/retire", views.retire, name="retire-instrument"),
    path("<int:instrument_id>/order", views.order, name="order-instrument"),
]
