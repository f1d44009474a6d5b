"""Every address."""

from django.urls import include, path

from shop.config import views

urlpatterns = [
    path("healthy", views.healthy, name="healthy"),
    path("", include("shop.people.urls")),
    path("", include("shop.jobs.urls")),
    path("", include("shop.bench.urls")),
    path("", include("shop.bench.pattern_urls")),
    path("", include("shop.practice.urls")),
    path("", include("shop.worksheets.urls")),
    path("", include("shop.reports.urls")),
    path("", include("shop.planning.urls")),
    path("", include("shop.gearing.urls")),
    path("", include("shop.road.urls")),
    path("", include("shop.noise.urls")),
    path("sheets/", include("shop.specs.urls")),
    path("drawer/", include("shop.stock.urls")),
    path("instruments/", include("shop.instruments.urls")),
]
handler404 = "shop.config.views.not_found"
handler500 = "shop.config.views.broken"
