"""The design room."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class DesignsConfig(AppConfig):
    name = "fellwind.designs"
    room = Room(
        key="designs",
        title="Designs",
        address={"designs/": "fellwind.designs.urls", "staves/": "fellwind.designs.fit_urls"},
        home="designs:list",
        order=20,
        part="plan",
    )
