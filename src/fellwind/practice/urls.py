"""Addresses of the practice room."""

from django.urls import path

from fellwind.practice import views

app_name = "practice"
urlpatterns = [
    path("", views.home, name="home"),
    path("begin/", views.begin, name="begin"),
    path("record/", views.record, name="record"),
    path("record/<slug:trouble>/", views.skill, name="skill"),
    path("<int:pk>/", views.tree, name="tree"),
    path("<int:pk>/do/", views.act, name="do"),
    path("<int:pk>/debrief/", views.look_back, name="debrief"),
    path("<int:pk>/others/", views.others, name="others"),
]
