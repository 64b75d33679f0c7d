"""The string room: one stage of a build."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class StringsConfig(AppConfig):
    name = "fellwind.strings"
    room = Room(
        key="strings",
        address={"builds/<int:number>/strings/": "fellwind.strings.urls"},
        order=32,
        part="bench",
        stages={"string": "strings:sheet"},
        demo="fellwind.strings.demo:load",
        pages="fellwind.strings.demo:pages",
        gives={"card rows": "fellwind.strings.services:card_rows"},
    )
