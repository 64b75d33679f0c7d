"""The room of builds."""

from django.apps import AppConfig

from fellwind.kit.rooms import ANY, Room


class BuildsConfig(AppConfig):
    name = "fellwind.builds"
    room = Room(
        key="builds",
        title="Builds",
        address={"builds/": "fellwind.builds.urls"},
        home="builds:list",
        order=30,
        part="bench",
        stages={ANY: "builds:stage"},
        today="fellwind.builds.today:parts",
        acts="fellwind.builds.today:acts",
        answers=(
            "fellwind.builds.services",
            "fellwind.builds.proof",
            "fellwind.builds.learning",
        ),
    )
