"""The shop's room."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class ShopConfig(AppConfig):
    name = "fellwind.shop"
    room = Room(
        key="shop",
        title="Shop",
        address={"shop/": "fellwind.shop.urls"},
        home="shop:shop",
        order=90,
        part="shop",
        today="fellwind.shop.today:parts",
    )
