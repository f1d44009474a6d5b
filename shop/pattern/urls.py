from django.urls import path

from shop.pattern import views

urlpatterns = [path("jobs/<int:number>/pattern", views.mark, name="mark-pattern")]
