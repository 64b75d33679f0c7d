"""Addresses of the book."""

from django.urls import path

from fellwind.ledger import views

app_name = "ledger"
urlpatterns = [
    path("", views.search, name="search"),
    path("season/", views.season, name="season"),
    path("compare/", views.compare, name="compare"),
    path("<int:number>.pdf", views.book, name="book"),
]
