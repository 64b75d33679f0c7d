"""The wood rack's room."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class RackConfig(AppConfig):
    name = "fellwind.rack"
    room = Room(
        key="rack",
        title="Staves",
        address={"staves/": "fellwind.rack.urls"},
        home="rack:list",
        order=10,
        part="bench",
        today="fellwind.rack.today:parts",
        answers=("fellwind.rack.learning",),
    )
