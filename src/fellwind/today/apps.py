"""Today: what to do now."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class TodayConfig(AppConfig):
    name = "fellwind.today"
    room = Room(
        key="today",
        title="Today",
        address={"": "fellwind.today.urls"},
        home="today:today",
        order=0,
    )
