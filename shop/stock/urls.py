from django.urls import path

from shop.stock import views

urlpatterns = [
    path("", views.drawer, name="drawer"),
    path("table.csv", views.table_out, name="drawer-csv"),
    path("table", views.table_in, name="drawer-table"),
    path("kits", views.kits, name="kits"),
    path("kits/<int:kit_id>", views.receive_kit, name="receive-kit"),
    path("make", views.make, name="make"),
    path("<int:lot_id>", views.lot, name="lot"),
    path("<int:lot_id>/condition", views.condition, name="condition"),
    path("<int:lot_id>/mic", views.mic, name="mic"),
    path("<int:lot_id>/scrap", views.scrap, name="scrap"),
    path("<int:lot_id>/low", views.low, name="low"),
]
