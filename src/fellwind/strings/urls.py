"""Addresses of the string room, and of a build's strings."""

from django.urls import path

from fellwind.strings import views

app_name = "strings"
urlpatterns = [
    path("", views.index, name="list"),
    path("threads/new/", views.thread, name="thread_new"),
    path("threads/<int:pk>/", views.thread, name="thread"),
    path("threads/<int:pk>/test/", views.test, name="test"),
    path("threads/<int:pk>/test/<int:entry>/strike/", views.strike_test, name="strike_test"),
    path("of/<int:number>/", views.sheet, name="sheet"),
    path("of/<int:number>/<int:pk>/", views.sheet, name="edit"),
    path("<int:pk>/", views.detail, name="detail"),
    path("<int:pk>/part/<slug:name>/", views.part, name="part"),
    path("<int:pk>/read/<slug:what>/", views.read, name="read"),
    path("<int:pk>/strike/<int:entry>/", views.strike, name="strike"),
    path("<int:pk>/make/", views.make, name="make"),
    path("<int:pk>/make/<int:number>/", views.make, name="make_at"),
    path("<int:pk>/drop/", views.drop, name="drop"),
    path("<int:pk>/<str:name>", views.leave, name="leave"),
]
