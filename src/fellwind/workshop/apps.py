"""The workshop app."""

from django.apps import AppConfig


class WorkshopConfig(AppConfig):
    name = "fellwind.workshop"
