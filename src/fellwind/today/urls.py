"""The address of Today."""

from django.urls import path

from fellwind.today import views

app_name = "today"
urlpatterns = [path("", views.today, name="today")]
