"""Serve the shop on this machine: waitress, with the data held and a backup made each day."""

from typing import Any

import waitress  # type: ignore[import-untyped]
from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from fellwind.kit.limits import MOST_BODY
from fellwind.kit.lock import InUseError, held
from fellwind.shop import keeper

THREADS = 6


class Command(BaseCommand):
    """``python -m fellwind run --port 8710``."""

    help = __doc__
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--host", default=settings.LISTEN)
        parser.add_argument("--port", type=int, default=8710)

    def handle(self, *args: Any, **options: Any) -> None:
        """Serve until told to stop."""
        from fellwind.wsgi import application

        told: dict[str, Any] = {}
        if settings.PROXY:
            told = {
                "trusted_proxy": settings.PROXY,
                "trusted_proxy_headers": {
                    "x-forwarded-for",
                    "x-forwarded-proto",
                    "x-forwarded-host",
                },
                "clear_untrusted_proxy_headers": True,
            }
        try:
            with held(settings.HOME, "a server"):
                keeper.start()
                waitress.serve(
                    application,
                    host=options["host"],
                    port=options["port"],
                    threads=THREADS,
                    max_request_body_size=MOST_BODY,
                    ident="",
                    **told,
                )
        except InUseError as error:
            raise CommandError(str(error)) from None
        except OSError as error:
            where = f"{options['host']}:{options['port']}"
            raise CommandError(
                f"Nothing can be served at {where}: {error.strerror}."
                " FELLWIND_HOST and FELLWIND_PORT choose another place."
            ) from None
