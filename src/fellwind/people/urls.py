"""Addresses of signing in and of people."""

from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path, reverse_lazy
from django.views.generic import TemplateView

from fellwind.kit.permissions import for_everybody
from fellwind.people import views

_LOGIN = views.SignIn.as_view()
_PASSWORD = auth.PasswordChangeView.as_view(
    template_name="people/password.html", success_url=reverse_lazy("shop:shop")
)

_AWAY = TemplateView.as_view(template_name="people/away.html")

app_name = "people"
urlpatterns = [
    path("login/", for_everybody(login_not_required(_LOGIN)), name="login"),
    path("logout/", for_everybody(auth.LogoutView.as_view()), name="logout"),
    path("join/<str:token>/", for_everybody(views.join), name="join"),
    path("queue/", views.queue, name="queue"),
    path("away/", login_not_required(_AWAY), name="away"),
    path("units/", views.units, name="units"),
    path("theme/", views.theme, name="theme"),
    path("password/", for_everybody(_PASSWORD), name="password"),
    path("shop/people/<int:pk>/", views.person, name="person"),
    path("shop/invite/", views.invite, name="invite"),
]
