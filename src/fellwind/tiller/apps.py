"""The tiller's room: one stage of a build."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class TillerConfig(AppConfig):
    name = "fellwind.tiller"
    room = Room(
        key="tiller",
        address={"builds/<int:number>/tiller/": "fellwind.tiller.urls"},
        order=31,
        part="bench",
        stages={"tiller": "tiller:screen"},
        acts="fellwind.tiller.today:acts",
        answers=(
            "fellwind.tiller.answers",
            "fellwind.tiller.learning",
        ),
    )
