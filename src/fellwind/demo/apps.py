"""The demo workshop."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class DemoConfig(AppConfig):
    name = "fellwind.demo"
    room = Room(
        key="demo",
        address={"demo/": "fellwind.demo.urls"},
        order=99,
        part="shop",
        inside="today",
        today="fellwind.demo.steps:parts",
    )
