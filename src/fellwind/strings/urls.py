"""Addresses of a build's strings."""

from django.urls import path

from fellwind.strings import views

app_name = "strings"
urlpatterns = [path("", views.sheet, name="sheet"), path("<int:pk>/", views.sheet, name="edit")]
