"""Read an instrument on a serial line, or play one, and send its lines to the shop."""

from __future__ import annotations

import sys
import time
import urllib.error
import urllib.request
from argparse import ArgumentParser
from collections.abc import Iterable, Iterator
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from bowyery.errors import BowyeryError, UnreadableError
from bowyery.instruments.lines import KINDS, read_line
from fellwind.builds.services import builds
from fellwind.instruments.models import Instrument
from fellwind.instruments.services import lines_of

LOCAL = "http://127.0.0.1:8710"
TOGETHER = 0.1  # seconds that lines are gathered for before they are sent


class Command(BaseCommand):
    """``./fellwind instrument``."""

    help = __doc__

    def add_arguments(self, parser: ArgumentParser) -> None:
        """What is read or played, and where it goes."""
        which = parser.add_mutually_exclusive_group(required=True)
        which.add_argument("--port", metavar="DEVICE", help="a serial line, such as /dev/ttyUSB0")
        which.add_argument("--simulate", choices=KINDS, help="play one instead")
        parser.add_argument("--build", type=int, metavar="N", help="the bow a stand-in is at")
        parser.add_argument("--speed", type=float, default=1.0, help="so many times as fast")
        parser.add_argument("--baud", type=int, default=9600)
        parser.add_argument("--seed", type=int, help="the same stand-in again")
        parser.add_argument("--to", default=LOCAL, metavar="ADDRESS", help=f"of the shop; {LOCAL}")
        parser.add_argument(
            "--token", help="of the instrument; without one this shop's own is made"
        )
        parser.add_argument("--print", action="store_true", dest="show",
                            help="write the lines here and send nothing")  # fmt: skip

    def handle(self, **options: Any) -> None:
        """Read or play until it ends."""
        if not 0.01 <= options["speed"] <= 100:
            raise CommandError("--speed is between 0.01 and 100.")
        lines = self._serial(options) if options["port"] else self._played(options)
        if options["show"]:
            for line in lines:
                self.stdout.write(line)
            return
        made = None
        token = options["token"]
        if not token:
            made, token = Instrument.issue(
                self._name(options), options["simulate"] or "scale", None
            )
        try:
            self._send(lines, f"{options['to'].rstrip('/')}/instruments/{token}/")
        except KeyboardInterrupt:
            self.stderr.write("Stopped.")
        finally:
            if made is not None:
                made.gone = True
                made.save(update_fields=["gone"])

    @staticmethod
    def _name(options: dict[str, Any]) -> str:
        return f"{options['port'] or 'a stand-in'} on this computer"[:60]

    def _played(self, options: dict[str, Any]) -> Iterator[str]:
        """A stand-in's lines, each at its time."""
        number = options["build"]
        build = builds().filter(number=number).first() if number else None
        if number and build is None:
            raise CommandError(f"There is no bow {number}.")
        try:
            lines = lines_of(options["simulate"], build, options["seed"])
        except BowyeryError as error:
            raise CommandError(getattr(error, "reason", str(error))) from None
        return self._in_time(lines, options)

    @staticmethod
    def _in_time(lines: Iterable[Any], options: dict[str, Any]) -> Iterator[str]:
        begun = time.monotonic()
        yield f"hello {options['simulate']} stand-in"
        for one in lines:
            if not options["show"]:
                time.sleep(max(0.0, one.at / options["speed"] - (time.monotonic() - begun)))
            yield one.line

    def _serial(self, options: dict[str, Any]) -> Iterator[str]:
        """Lines of a serial device; what it says wrongly is told here, and sent to be counted."""
        import serial

        try:
            device = serial.Serial(options["port"], options["baud"], timeout=1)
        except (serial.SerialException, OSError, ValueError) as error:
            raise CommandError(f"{options['port']} cannot be opened: {error}.") from None
        return self._read(device)

    def _read(self, device: Any) -> Iterator[str]:
        with device:
            while True:
                try:
                    line = device.readline().decode("utf-8", errors="replace").strip()
                except OSError as error:
                    raise CommandError(f"It was cut off: {error}.") from None
                if not line:
                    continue
                try:
                    read_line(line)
                except UnreadableError as error:
                    self.stderr.write(str(error))
                yield line

    def _send(self, lines: Iterator[str], address: str) -> None:
        """Send lines as they come, a few together."""
        gathered: list[str] = []
        sent = time.monotonic()
        for line in lines:
            gathered.append(line)
            if time.monotonic() - sent >= TOGETHER:
                self._post(gathered, address)
                gathered, sent = [], time.monotonic()
        if gathered:
            self._post(gathered, address)

    def _post(self, lines: list[str], address: str) -> None:
        if not address.startswith(("http://", "https://")):
            raise CommandError("--to is an address such as http://127.0.0.1:8710.")
        data = ("\n".join(lines) + "\n").encode()
        request = urllib.request.Request(  # noqa: S310
            address, data, {"Content-Type": "text/plain; charset=utf-8"}
        )
        try:
            with urllib.request.urlopen(request, timeout=10) as answer:  # noqa: S310
                answer.read()
        except urllib.error.HTTPError as error:
            told = error.read(200).decode("utf-8", errors="replace").strip()
            raise CommandError(f"The shop does not take it: {told or error}.") from None
        except OSError as error:
            shop = address.split("/instruments")[0]
            raise CommandError(f"The shop at {shop} does not answer: {error}.") from None
        sys.stderr.write("." * bool(lines))
        sys.stderr.flush()
