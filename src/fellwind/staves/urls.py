"""Addresses of the wood rack."""

from django.urls import path

from fellwind.staves import views

app_name = "staves"
urlpatterns = [
    path("", views.stave_list, name="list"),
    path("new/", views.edit, name="new"),
    path("<int:number>/", views.detail, name="detail"),
    path("<int:number>/edit/", views.edit, name="edit"),
]
