"""The mechanics, compiled beside the server while its first pages are already served.

Whoever asks for a result that must be calculated waits here until they are (`kit/cache.py`);
pages that only show what is kept do not.
"""

import subprocess
import sys
import threading

_ready = threading.Event()
_ready.set()


def start() -> None:
    """Compile in a process of its own; it takes two seconds where it was done before."""
    _ready.clear()
    threading.Thread(target=_compile, name="compiling", daemon=True).start()


def _compile() -> None:
    try:
        command = [sys.executable, "-m", "bowyery.mechanics.warm"]
        subprocess.run(command, check=False, stdout=subprocess.DEVNULL)  # noqa: S603  # our own
    finally:  # without it a request compiles what it needs by itself
        _ready.set()


def wait() -> None:
    """Return when the mechanics are compiled."""
    _ready.wait()


def done() -> bool:
    """Whether they are."""
    return _ready.is_set()
