"""Addresses of the instruments."""

from django.urls import path

from fellwind.instruments import views

app_name = "instruments"
urlpatterns = [
    path("", views.index, name="list"),
    path("make/", views.make, name="make"),
    path("now/", views.now, name="now"),
    path("<int:pk>/back/", views.take_back, name="take_back"),
    path("<int:pk>/play/", views.play, name="play"),
    path("pull/<int:number>/", views.keep, name="keep"),
    path("<str:token>/", views.hear, name="hear"),
]
