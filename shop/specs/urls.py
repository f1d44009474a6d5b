from django.urls import path

from shop.specs import views

urlpatterns = [
    path("", views.sheets, name="sheets"),
    path("new", views.new_sheet, name="new-sheet"),
    path("<int:sheet_id>/", views.edit_sheet, name="edit-sheet"),
    path("<int:sheet_id>/follow", views.follow, name="follow-sheet"),
    path("<int:sheet_id>/versions/<int:number>", views.version, name="sheet-version"),
]
