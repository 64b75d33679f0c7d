"""The string room: every bow's strings, the threads, and one stage of a build."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class StringsConfig(AppConfig):
    name = "fellwind.strings"
    room = Room(
        key="strings",
        title="Strings",
        address={"strings/": "fellwind.strings.urls"},
        home="strings:list",
        order=32,
        part="bench",
        stages={"string": "strings:sheet"},
        answers=(
            "fellwind.strings.answers",
            "fellwind.strings.learning",
        ),
    )
