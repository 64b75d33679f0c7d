"""Address of the pages for the wall."""

from django.urls import path

from fellwind.sight import views

app_name = "tags"
urlpatterns = [path("", views.tag_pages, name="pages")]
