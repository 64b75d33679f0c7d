"""Addresses of the tiller of a build."""

from django.urls import path

from fellwind.tiller import views

app_name = "tiller"
urlpatterns = [
    path("", views.screen, name="screen"),
    path("bench/", views.bench_view, name="bench"),
    path("act/", views.act, name="act"),
    path("rescue/", views.rescue, name="rescue"),
    path("reading/", views.add_reading, name="reading"),
    path("removal/", views.add_removal, name="removal"),
    path("pulls/", views.add_pulls, name="pulls"),
]
