"""Where the shop is reached: names and addresses that a page may be asked for under."""

import ipaddress
import socket

LOOPBACK = ("127.0.0.1", "localhost", "[::1]")
# An address for documentation: nothing is sent there, only the way out of this machine looked up.
_AWAY = (("192.0.2.1", 9), socket.AF_INET), (("2001:db8::1", 9), socket.AF_INET6)


def own_addresses() -> list[str]:
    """Addresses of this machine on its networks, as far as it knows of any."""
    found = []
    for place, family in _AWAY:
        with socket.socket(family, socket.SOCK_DGRAM) as probe:
            try:
                probe.connect(place)
            except OSError:
                continue
            found.append(str(probe.getsockname()[0]))
    return found


def is_everywhere(host: str) -> bool:
    """Whether to listen at a host is to listen at every address of the machine."""
    try:
        return ipaddress.ip_address(host.strip("[]")).is_unspecified
    except ValueError:
        return False


def as_host(address: str) -> str:
    """An address as it stands in a URL."""
    bare = address.strip("[]")
    return f"[{bare}]" if ":" in bare else bare


def reached_at(listen: str) -> list[str]:
    """Hosts under which a server that listens somewhere can be reached."""
    if not is_everywhere(listen):
        return [as_host(listen)]
    name = socket.gethostname().lower()
    return [*(as_host(one) for one in own_addresses()), name, f"{name}.local"]
