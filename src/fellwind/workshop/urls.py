"""Addresses of the shop."""

from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path, reverse_lazy

from fellwind.workshop import views

app_name = "workshop"
urlpatterns = [
    path("", views.today, name="today"),
    path("login/", login_not_required(auth.LoginView.as_view(template_name="workshop/login.html")), name="login"),
    path("logout/", auth.LogoutView.as_view(), name="logout"),
    path("demo/", views.demo, name="demo"),
    path("join/<str:token>/", views.join, name="join"),
    path("units/", views.units, name="units"),
    path("theme/", views.theme, name="theme"),
    path("shop/", views.shop, name="shop"),
    path("shop/people/<int:pk>/", views.person, name="person"),
    path(
        "password/",
        auth.PasswordChangeView.as_view(template_name="workshop/password.html", success_url=reverse_lazy("workshop:shop")),
        name="password",
    ),
    path("shop/invite/", views.invite, name="invite"),
    path("shop/materials/", views.material_list, name="materials"),
    path("shop/archers/new/", views.archer_edit, name="archer_new"),
    path("shop/archers/<int:pk>/", views.archer_edit, name="archer"),
    path("shop/gear/new/", views.gear_edit, name="gear_new"),
    path("shop/gear/<int:pk>/", views.gear_edit, name="gear"),
]
