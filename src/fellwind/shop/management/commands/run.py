"""Serve the shop on this machine: waitress, with the data held and a backup made each day.

With ``--ready`` the data are brought to this version first, and whoever starts it is told where to
go: all in one process, for a start that is quick.
"""

from typing import Any

import waitress  # type: ignore[import-untyped]
from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connections

from fellwind.kit import compiling
from fellwind.kit.limits import MOST_BODY
from fellwind.kit.lock import InUseError, held
from fellwind.kit.network import reached_at
from fellwind.shop import keeper

THREADS = 6


class Command(BaseCommand):
    """``python -m fellwind run --port 8710``."""

    help = __doc__
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--host", default=settings.LISTEN)
        parser.add_argument("--port", type=int, default=8710)
        parser.add_argument("--ready", action="store_true", help="make the data ready first")

    def handle(self, *args: Any, **options: Any) -> None:
        """Serve until told to stop."""
        if options["ready"]:
            compiling.start()
            call_command("prepare")
            if settings.DEMO:
                call_command("load_demo", stdout=self.stdout)
            connections.close_all()
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
                server = waitress.create_server(
                    application,
                    host=options["host"],
                    port=options["port"],
                    threads=THREADS,
                    max_request_body_size=MOST_BODY,
                    ident="",
                    **told,
                )
                if options["ready"]:
                    self.greet(options["host"], options["port"])
                keeper.start()
                server.run()
        except InUseError as error:
            raise CommandError(str(error)) from None
        except OSError as error:
            where = f"{options['host']}:{options['port']}"
            raise CommandError(
                f"Nothing can be served at {where}: {error.strerror}."
                " FELLWIND_HOST and FELLWIND_PORT choose another place."
            ) from None

    def greet(self, host: str, port: int) -> None:
        """Say where the shop is, and how the first person comes in."""
        there = [f"http://{one}:{port}" for one in reached_at(host)]
        address = settings.URL or there[0]
        if not settings.DEMO:
            call_command("first_link", address, stdout=self.stdout)
            connections.close_all()
        self.stdout.write(f"Fellwind{'’s demo workshop' if settings.DEMO else ''}: {address}")
        if len(there) > 1:
            self.stdout.write(f"Also at: {', '.join(there[1:])}")
        if not compiling.done():
            self.stdout.write("The mechanics are being compiled meanwhile, once: under a minute.")
        self.stdout.write("Ctrl-C stops it; what was kept stays.")
        self.stdout.flush()
