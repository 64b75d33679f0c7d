"""Addresses of a stave's natural line."""

from django.urls import path

from fellwind.sight import stave_views as views

app_name = "lines"
urlpatterns = [
    path("", views.take, name="take"),
    path("photos/keep/", views.keep_photo, name="keep_photo"),
    path("<int:pk>/", views.seen, name="seen"),
    path("<int:pk>/read/", views.read, name="read"),
    path("<int:pk>/keep/", views.keep, name="keep"),
]
