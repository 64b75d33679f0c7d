"""Addresses of the demo workshop, and of an empty shop's sample bow."""

from django.urls import path

from fellwind.demo import views

app_name = "demo"
urlpatterns = [
    path("", views.open_demo, name="open"),
    path("sample/", views.sample, name="sample"),
    path("sample/away/", views.throw_away, name="throw_away"),
]
