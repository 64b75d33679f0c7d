"""The kit: no room of its own, but it keeps the ids of forms that were sent."""

from django.apps import AppConfig


class KitConfig(AppConfig):
    name = "fellwind.kit"
