"""All addresses of the application."""

from django.urls import include, path

urlpatterns = [
    path("", include("fellwind.workshop.urls")),
    path("staves/", include("fellwind.staves.urls")),
    path("designs/", include("fellwind.designs.urls")),
    path("builds/<int:number>/tiller/", include("fellwind.tiller.urls")),
    path("builds/<int:number>/strings/", include("fellwind.strings.urls")),
    path("builds/", include("fellwind.builds.urls")),
]
