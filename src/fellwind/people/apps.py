"""The people's room."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class PeopleConfig(AppConfig):
    name = "fellwind.people"
    room = Room(
        key="people",
        address={"": "fellwind.people.urls"},
        order=95,
        part="shop",
        inside="shop",
    )
