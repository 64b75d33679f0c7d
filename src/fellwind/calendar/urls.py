"""Addresses of the calendar."""

from django.urls import path

from fellwind.calendar import views

app_name = "calendar"
urlpatterns = [
    path("", views.links, name="links"),
    path("make/", views.make, name="make"),
    path("<int:pk>/back/", views.take_back, name="take_back"),
    path("<str:token>.ics", views.feed, name="feed"),
]
