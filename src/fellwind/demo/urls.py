"""The address that opens the demo workshop."""

from django.urls import path

from fellwind.demo import views

app_name = "demo"
urlpatterns = [path("", views.open_demo, name="open")]
