"""All addresses of the application: those of its rooms."""

from fellwind.kit.rooms import addresses

urlpatterns = addresses()
