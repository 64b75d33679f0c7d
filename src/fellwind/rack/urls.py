"""Addresses of the wood rack."""

from django.urls import path

from fellwind.rack import views

app_name = "rack"
urlpatterns = [
    path("", views.stave_list, name="list"),
    path("new/", views.edit, name="new"),
    path("questions/", views.questions, name="questions"),
    path("<int:number>/", views.detail, name="detail"),
    path("<int:number>/edit/", views.edit, name="edit"),
    path("<int:number>/flaws/form/", views.flaw_form, name="flaw_form"),
    path("<int:number>/flaws/keep/", views.flaw_keep, name="flaw_keep"),
    path("<int:number>/flaws/<int:pk>/move/", views.flaw_move, name="flaw_move"),
    path("<int:number>/flaws/<int:pk>/drop/", views.flaw_drop, name="flaw_drop"),
    path("<int:number>/sections/", views.section_keep, name="section_keep"),
    path("<int:number>/strip/", views.strip_keep, name="strip_keep"),
    path("<int:number>/photos/keep/", views.photo_keep, name="photo_keep"),
    path("photos/<int:pk>/", views.photo, name="photo"),
    path("photos/<int:pk>/small/", views.photo, {"ending": "-small"}, name="photo_small"),
    path("photos/<int:pk>/drop/", views.photo_drop, name="photo_drop"),
]
