from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path

from shop.people import account_views, shop_views, views

urlpatterns = [
    path("sign-in", login_not_required(account_views.SignInView.as_view()), name="sign-in"),
    path("set-up", shop_views.set_up, name="set-up"),
    path("shop", shop_views.shop, name="shop"),
    path("shop/tools", shop_views.owned_tools, name="owned-tools"),
    path("shop/another", shop_views.another, name="another-shop"),
    path("shop/demo", shop_views.demo, name="demo-shop"),
    path("sign-in/code", account_views.code, name="second-factor-code"),
    path("sign-out", auth.LogoutView.as_view(), name="sign-out"),
    path("me", account_views.me, name="me"),
    path("me/password", account_views.own_password, name="own-password"),
    path("me/second-factor", account_views.set_up, name="second-factor"),
    path("me/sign-ins", account_views.end_own, name="end-own-sign-ins"),
    path("me/units", views.units, name="units"),
    path("me/foot-switch", views.foot_switch, name="foot-switch"),
    path("people", views.people, name="people"),
    path("people/ways", views.ways, name="ways"),
    path("people/second-factor", views.second_factor, name="shop-second-factor"),
    path("people/<int:person_id>", views.person, name="person"),
    path("people/<int:person_id>/role", views.role, name="role"),
    path("people/<int:person_id>/password", views.reset_password, name="reset-password"),
    path("people/<int:person_id>/let-go", views.let_go, name="let-go"),
    path("people/<int:person_id>/sign-ins", views.end_sign_ins, name="end-sign-ins"),
    path("people/<int:person_id>/second-factor", views.remove_second_factor, name="remove-second-factor"),
]
