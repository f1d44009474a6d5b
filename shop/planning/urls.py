from django.urls import path

from shop.planning import feed_views, job_views, order_views, shop_views, views

urlpatterns = [
    path("plan", views.plan, name="plan"),
    path("plan/make", views.make, name="make-plan"),
    path("plan/move", views.move, name="move-stretch"),
    path("plan/people/<int:person_id>", views.person_day, name="plan-person"),
    path("plan/calendar", feed_views.link, name="plan-calendar"),
    path("plan/calendar/<str:secret>.ics", feed_views.feed, name="plan-feed"),
    path("jobs/<int:number>/parts", job_views.parts_list, name="parts-list"),
    path("jobs/<int:number>/money", job_views.money, name="money"),
    path("jobs/<int:number>/money/<int:paper_id>.pdf", job_views.money_pdf, name="money-pdf"),
    path("jobs/<int:number>/money/<int:paper_id>.csv", job_views.money_csv, name="money-csv"),
    path("jobs/<int:number>/promise.ics", job_views.job_event, name="job-event"),
    path("orders", order_views.orders, name="orders"),
    path("orders/place", order_views.place, name="place-order"),
    path("orders/orders.pdf", order_views.orders_pdf, name="orders-pdf"),
    path("orders/orders.csv", order_views.orders_csv, name="orders-csv"),
    path("orders/lines/<int:line_id>", order_views.receive, name="receive-line"),
    path("orders/suppliers", order_views.supplier, name="supplier"),
    path("orders/suppliers/<int:supplier_id>/prices", order_views.price, name="supplier-price"),
    path("shop/hours", shop_views.hours, name="hours"),
    path("shop/hours/absence", shop_views.absence, name="absence"),
    path("shop/standing", shop_views.owner, name="owner"),
]
