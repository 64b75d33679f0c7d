"""The room of photographs that are read: one picture is a full set of readings."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class SightConfig(AppConfig):
    name = "fellwind.sight"
    room = Room(
        key="sight",
        address={
            "builds/<int:number>/photographed/": "fellwind.sight.urls",
            "staves/<int:number>/line/": "fellwind.sight.stave_urls",
            "tag-pages/": "fellwind.sight.tag_urls",
        },
        order=35,
        part="bench",
        inside="builds",
    )
