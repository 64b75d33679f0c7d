"""Addresses of the design room."""

import re

from django.urls import path, register_converter
from django.urls.converters import StringConverter

from fellwind.designs import marks_views, measured_views, views
from fellwind.exports.leaving import EXPORTS


class ExportConverter(StringConverter):
    """Names of the files that a design leaves as."""

    regex = "|".join(re.escape(name) for name in EXPORTS)


register_converter(ExportConverter, "export")
app_name = "designs"
urlpatterns = [
    path("", views.design_list, name="list"),
    path("new/", views.edit, name="new"),
    path("preview/", views.preview, name="preview_new"),
    path("near/", views.near, name="near_new"),
    path("shape/", views.shape, name="shape_new"),
    path("lengths/", views.lengths, name="lengths_new"),
    path("kinds/", views.kinds, name="kinds"),
    path("<int:pk>/shape/", views.shape, name="shape"),
    path("<int:pk>/lengths/", views.lengths, name="lengths"),
    path("layouts/", views.layouts, name="layouts"),
    path("<int:pk>/thumbnail/", views.thumbnail, name="thumbnail"),
    path("<int:pk>/walk/", views.walk, name="walk"),
    path("compare/", views.compare, name="compare"),
    path("import/", views.bring_in, name="import"),
    path("measured/", measured_views.measured, name="measured"),
    path("measured/preview/", measured_views.preview, name="measured_preview"),
    path("<int:pk>/scale/", measured_views.scale, name="scale"),
    path("<int:pk>/", views.detail, name="detail"),
    path("<int:pk>/edit/", views.edit, name="edit"),
    path("<int:pk>/preview/", views.preview, name="preview"),
    path("<int:pk>/sweep/", views.sweep_view, name="sweep"),
    path("<int:pk>/solve-length/", views.solve_length, name="solve_length"),
    path("<int:pk>/vary/", views.vary, name="vary"),
    path("<int:pk>/length/", views.take_length, name="take_length"),
    path("<int:pk>/near/", views.near, name="near"),
    path("<int:pk>/nearest/", views.nearest_of, name="nearest"),
    path("<int:pk>/marks/", marks_views.marks, name="marks"),
    path("<int:pk>/marks/preview/", marks_views.marks_preview, name="marks_preview"),
    path("<int:pk>/marks/act/", marks_views.marks_act, name="marks_act"),
    path("<int:pk>/reckon/", views.reckon, name="reckon"),
    path("<int:pk>/solve-again/", views.solve_again, name="solve_again"),
    path("<int:pk>/changes/", views.changes, name="changes"),
    path("<int:pk>/cables/", views.cables, name="cables"),
    path("<int:pk>/<export:name>", views.export, name="export"),
    path("<int:pk>/bow.json", views.bow_file, name="bow_file"),
    path("<int:pk>/marking-table.pdf", views.marking_pdf, name="marking_pdf"),
]
