"""Addresses of the book."""

from django.contrib.auth.decorators import login_not_required
from django.urls import path

from fellwind.ledger import views

app_name = "ledger"
urlpatterns = [
    path("", views.search, name="search"),
    path("season/", views.season, name="season"),
    path("season/rungs/", views.rungs, name="rungs"),
    path("compare/", views.compare, name="compare"),
    path("learned/", views.learned, name="learned"),
    path("bow/<int:number>/", views.bow, name="bow"),
    path("bow/<int:number>.zip", views.parcel, name="parcel"),
    path("sheet/", views.sheet, name="sheet"),
    path("bring/", views.bring, name="bring"),
    path("bow/<int:number>/share/", views.share, name="share"),
    path("bow/<int:number>/bill/", views.bill, name="bill"),
    path("bow/<int:number>/<str:paper>.pdf", views.paper, name="paper"),
    path("open/<str:token>/", login_not_required(views.open_), name="open"),
    path("<int:number>.pdf", views.book, name="book"),
]
