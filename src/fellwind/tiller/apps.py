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
        gives={
            "bow on the tree": "fellwind.tiller.services:bow_on_the_tree",
            "bow as tillered": "fellwind.tiller.services:as_tillered",
            "weight forecast": "fellwind.tiller.services:weight_forecast",
            "weight as tillered": "fellwind.tiller.learning:weight_as_tillered",
            "evidence of bite": "fellwind.tiller.learning:bites",
            "evidence of modulus": "fellwind.tiller.learning:moduli",
            "at the tree": "fellwind.tiller.services:at_the_tree",
        },
    )
