from django.urls import path

from shop.stock import views

urlpatterns = [
    path("", views.drawer, name="drawer"),
    path("<int:lot_id>/condition", views.condition, name="condition"),
]
