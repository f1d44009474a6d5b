from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path

from shop.people import views

sign_in = auth.LoginView.as_view(template_name="people/sign_in.html", redirect_authenticated_user=True)

urlpatterns = [
    path("sign-in", login_not_required(sign_in), name="sign-in"),
    path("sign-out", auth.LogoutView.as_view(), name="sign-out"),
    path("me/units", views.units, name="units"),
    path("me/foot-switch", views.foot_switch, name="foot-switch"),
    path("people", views.people, name="people"),
    path("people/ways", views.ways, name="ways"),
    path("people/<int:person_id>/role", views.role, name="role"),
]
