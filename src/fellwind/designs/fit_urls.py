"""Addresses of bows laid into staves; they stand below the stave's own."""

from django.urls import path

from fellwind.designs import fit_views

app_name = "fit"
urlpatterns = [
    path("<int:number>/fit/", fit_views.fit, name="stave"),
    path("<int:number>/fits/", fit_views.fits, name="designs"),
    path("for/<int:pk>/", fit_views.which, name="staves"),
]
