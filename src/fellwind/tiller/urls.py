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
    path("pulls/", views.add_line, name="pulls"),
    path("drawn/", views.add_line, name="drawn"),
    path("rub/", views.add_line, name="rub"),
    path("done/", views.add_act, name="done"),
    path("see/", views.see, name="see"),
    path("tool/", views.take_tool, name="tool"),
    path("least/", views.least, name="least"),
    path("half-hour/", views.half_hour, name="half_hour"),
    path("strike/<int:pk>/", views.strike, name="strike"),
    path("without/<int:pk>/", views.without, name="without"),
    path("strip/", views.strip, name="strip"),
    path("compare/", views.compare, name="compare"),
    path("place/", views.place, name="place"),
]
