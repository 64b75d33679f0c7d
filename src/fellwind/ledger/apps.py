"""The book's room."""

from django.apps import AppConfig

from fellwind.kit.rooms import Room


class LedgerConfig(AppConfig):
    name = "fellwind.ledger"
    room = Room(
        key="ledger",
        title="Book",
        address={"book/": "fellwind.ledger.urls"},
        home="ledger:search",
        order=40,
        part="plan",
        answers=("fellwind.ledger.bow",),
    )
