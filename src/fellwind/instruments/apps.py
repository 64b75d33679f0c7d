"""The room of instruments: what a scale, calipers or a meter says, and where it goes."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class InstrumentsConfig(AppConfig):
    name = "fellwind.instruments"
    room = Room(
        key="instruments",
        address={"instruments/": "fellwind.instruments.urls"},
        order=34,
        part="bench",
        inside="shop",
        answers=("fellwind.instruments.services",),
    )
