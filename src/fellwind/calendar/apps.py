"""The calendar's room, entered from the shop."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class CalendarConfig(AppConfig):
    name = "fellwind.calendar"
    room = Room(
        key="calendar",
        address={"calendar/": "fellwind.calendar.urls"},
        order=60,
        inside="shop",
    )
