"""The practice room: virtual staves on the tree."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class PracticeConfig(AppConfig):
    name = "fellwind.practice"
    room = Room(
        key="practice",
        title="Practice",
        address={"practice/": "fellwind.practice.urls"},
        home="practice:home",
        order=60,
        own=True,
    )
