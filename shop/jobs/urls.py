from django.urls import path

from shop.jobs import views

urlpatterns = [
    path("", views.jobs, name="jobs"),
    path("jobs/open", views.switch, name="switch-job"),
    path("begin", views.begin, name="begin"),
    path("jobs/new", views.new_job, name="new-job"),
]
