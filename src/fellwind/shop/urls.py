"""Addresses of the shop."""

from django.urls import path

from fellwind.shop import views

app_name = "shop"
urlpatterns = [
    path("", views.shop, name="shop"),
    path("remove/", views.remove_row, name="remove_row"),
    path("export.zip", views.export, name="export"),
    path("materials/", views.material_list, name="materials"),
    path("materials/new/", views.material_edit, name="material_new"),
    path("materials/<int:pk>/", views.material_edit, name="material"),
    path("archers/new/", views.archer_edit, name="archer_new"),
    path("archers/<int:pk>/", views.archer_edit, name="archer"),
    path("rests/", views.rest_list, name="rests"),
    path("rests/new/", views.rest_edit, name="rest_new"),
    path("rests/<int:pk>/", views.rest_edit, name="rest"),
    path("tools/new/", views.tool_edit, name="tool_new"),
    path("tools/<int:pk>/", views.tool_edit, name="tool"),
    path("gear/new/", views.gear_edit, name="gear_new"),
    path("gear/<int:pk>/", views.gear_edit, name="gear"),
]
