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
        gives={
            "at hand": "fellwind.builds.services:at_hand_words",
            "proved shots": "fellwind.builds.proof:proved_shots",
            "evidence of set share": "fellwind.builds.learning:set_shares",
            "evidence of hysteresis": "fellwind.builds.learning:hysteresis",
            "evidence of finishing": "fellwind.builds.learning:finishing",
            "evidence of shooting": "fellwind.builds.learning:shooting",
        },
    )
