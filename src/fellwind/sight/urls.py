"""Addresses of a build's photographs that are read."""

from django.urls import path

from fellwind.sight import views

app_name = "sight"
urlpatterns = [
    path("", views.take, name="take"),
    path("photos/keep/", views.read, name="read"),
    path("<int:pk>/", views.seen, name="seen"),
    path("<int:pk>/taps/", views.taps, name="taps"),
    path("<int:pk>/keep/", views.keep, name="keep"),
]
